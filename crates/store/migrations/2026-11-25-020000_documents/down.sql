DELETE FROM documents WHERE kind <> 'bench';
ALTER TABLE documents DROP COLUMN kind;
ALTER TABLE documents RENAME TO benches;
