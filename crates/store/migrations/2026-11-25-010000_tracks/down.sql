DROP TABLE tracks;
