-- Addresses of what is saved cannot be guessed by counting: 52 bits by chance, which a number of the browser holds exactly. What was
-- saved before keeps its address. The order in which things were made stays, beside it.
ALTER TABLE documents RENAME COLUMN id TO made;
ALTER TABLE documents DROP CONSTRAINT benches_pkey;
ALTER TABLE documents ADD COLUMN id BIGINT;
UPDATE documents SET id = made;
ALTER TABLE documents ALTER COLUMN id SET NOT NULL;
ALTER TABLE documents ALTER COLUMN id
    SET DEFAULT ('x' || substr(md5(gen_random_uuid()::text), 1, 13))::bit(52)::bigint;
ALTER TABLE documents ADD PRIMARY KEY (id);
