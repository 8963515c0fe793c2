-- Tracks that were brought along, at the rate of the benches, as FLAC.
CREATE TABLE tracks (
    -- SHA-256 of the file that was brought: the same content is kept once.
    hash TEXT PRIMARY KEY CHECK (hash ~ '^[0-9a-f]{64}$'),
    name TEXT NOT NULL CHECK (char_length(name) BETWEEN 1 AND 255),
    -- As it was brought.
    rate_hz INTEGER NOT NULL,
    channels INTEGER NOT NULL,
    -- As it is kept.
    frames BIGINT NOT NULL,
    peak_dbfs DOUBLE PRECISION,
    loudness_lufs DOUBLE PRECISION,
    -- Samples over full scale were halved so many times to fit.
    halvings INTEGER NOT NULL DEFAULT 0,
    flac BYTEA NOT NULL,
    created_at TIMESTAMPTZ NOT NULL DEFAULT now(),
    -- A deleted track is kept, for the benches that play it and so that deleting can be taken back.
    deleted_at TIMESTAMPTZ
);
