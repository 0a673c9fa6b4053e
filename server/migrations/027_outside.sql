-- Up Migration
-- A meeting to which somebody outside invites one of ours: an entry of whoever was invited, under the UID it has there
-- (source_uid), which nobody here organizes. Each of several who are invited to it has one of their own, as their own mail
-- programs would.
alter table entry
  add column organizer_address text check (organizer_address = lower(organizer_address)),
  add column organizer_name text not null default '';
create index entry_outside on entry (owner_id, organizer_address) where organizer_address is not null;
-- True where the invitation is to some dates of a series alone: an answer names each of them (RFC 5545 RECURRENCE-ID).
alter table entry add column source_dates boolean not null default false;
