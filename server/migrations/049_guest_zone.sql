-- Up Migration
-- A guest who chose a time on their own clock is written to on it; null where nobody knows it.
alter table participant add column guest_zone text;
