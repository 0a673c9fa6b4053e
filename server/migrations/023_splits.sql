-- Up Migration
-- A series that goes on otherwise from a date on is a series of its own from there: which one it was part of, and what its
-- first date was called there, so that whoever knew that one is told what has become of it.
alter table entry
  add column split_from uuid references entry on delete set null,
  add column split_at timestamp;
create index entry_split_from on entry (split_from) where split_from is not null;
