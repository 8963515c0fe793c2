ALTER TABLE documents DROP CONSTRAINT documents_pkey;
ALTER TABLE documents DROP COLUMN id;
ALTER TABLE documents RENAME COLUMN made TO id;
ALTER TABLE documents ADD CONSTRAINT benches_pkey PRIMARY KEY (id);
