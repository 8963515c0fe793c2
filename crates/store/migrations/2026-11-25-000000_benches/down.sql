DROP TABLE demo_sets;
DROP TABLE benches;
