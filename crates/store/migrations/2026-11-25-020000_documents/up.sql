-- Everything that is saved under a name with a revision is kept in one table: benches, and own ear maps.
ALTER TABLE benches RENAME TO documents;
ALTER TABLE documents ADD COLUMN kind TEXT NOT NULL DEFAULT 'bench';
ALTER TABLE documents ALTER COLUMN kind DROP DEFAULT;
