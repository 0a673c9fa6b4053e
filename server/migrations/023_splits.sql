-- Up Migration
-- A series that goes on otherwise from a date on is a series of its own from there: which one it was part of, what its
-- first date was called there, and the last version of that one that had it, so that whoever knew of it is told what has
-- become of it.
alter table entry
  add column split_from uuid references entry on delete set null,
  add column split_at timestamp,
  add column split_version integer;
create index entry_split_from on entry (split_from) where split_from is not null;
