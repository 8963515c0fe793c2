ALTER TABLE documents DROP COLUMN about;
