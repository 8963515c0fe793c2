ALTER TABLE documents DROP COLUMN shipped;
