-- Up Migration
-- Lanes are read through an index that keeps what is gone until it is cleaned: a fifth of a million dead rows, as usual, are too many.
alter table attendance set (autovacuum_vacuum_scale_factor = 0.02, autovacuum_analyze_scale_factor = 0.02);
alter table occurrence set (autovacuum_vacuum_scale_factor = 0.02, autovacuum_analyze_scale_factor = 0.02);
alter table entry set (autovacuum_vacuum_scale_factor = 0.02, autovacuum_analyze_scale_factor = 0.02);
