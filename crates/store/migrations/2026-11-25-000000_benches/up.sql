CREATE TABLE benches (
    id BIGINT GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name TEXT NOT NULL CHECK (char_length(name) BETWEEN 1 AND 120),
    document JSONB NOT NULL,
    revision INTEGER NOT NULL DEFAULT 1,
    created_at TIMESTAMPTZ NOT NULL DEFAULT now(),
    updated_at TIMESTAMPTZ NOT NULL DEFAULT now(),
    -- A deleted bench is kept, so that deleting can be taken back.
    deleted_at TIMESTAMPTZ
);

-- Which sets of demo data have been loaded, so that each is loaded once and never comes back by itself.
CREATE TABLE demo_sets (
    name TEXT PRIMARY KEY,
    loaded_at TIMESTAMPTZ NOT NULL DEFAULT now()
);
