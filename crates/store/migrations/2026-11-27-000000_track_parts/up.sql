-- A track is kept in parts of a megabyte, so that neither the server nor the database ever holds all of it in memory.
CREATE TABLE track_parts (
    hash TEXT NOT NULL REFERENCES tracks ON DELETE CASCADE,
    -- 0, 1, 2, ...
    part INTEGER NOT NULL,
    flac BYTEA NOT NULL,
    PRIMARY KEY (hash, part)
);
-- It is packed already.
ALTER TABLE track_parts ALTER COLUMN flac SET STORAGE EXTERNAL;
INSERT INTO track_parts (hash, part, flac)
    SELECT hash, part, substring(flac FROM part * 1048576 + 1 FOR 1048576)
    FROM tracks, generate_series(0, (length(flac) - 1) / 1048576) AS part;
ALTER TABLE tracks DROP COLUMN flac;
