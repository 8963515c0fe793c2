ALTER TABLE tracks ADD COLUMN flac BYTEA;
UPDATE tracks SET flac = (SELECT string_agg(flac, ''::bytea ORDER BY part) FROM track_parts WHERE track_parts.hash = tracks.hash);
ALTER TABLE tracks ALTER COLUMN flac SET NOT NULL;
DROP TABLE track_parts;
