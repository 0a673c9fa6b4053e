-- Up Migration
-- A nudge is a letter that tells nothing new and asks for an answer once more. Nobody gets two within a day: `nudges` is the
-- day in which there may be no other, and the database sees to it.
alter table letter add column nudges tstzrange;
alter table letter add constraint letter_nudged_daily
  exclude using gist (entry_id with =, (coalesce(person_id::text, guest_address)) with =, nudges with &&)
  where (nudges is not null);

-- Whether those who have not answered are nudged by themselves, two days before.
alter table entry add column auto_nudge boolean not null default false;
create index entry_auto_nudge on entry (id) where auto_nudge;
-- For which start of a date that was done: one that is moved is another.
alter table occurrence add column nudged_for timestamptz;
