-- What is said of a document in lists stands in the document; responses have such a part.
ALTER TABLE documents ADD COLUMN about JSONB GENERATED ALWAYS AS (document -> 'about') STORED;
