-- Up Migration
-- A time held while its organizer decides is an entry like any other, that lapses by itself. Reads pass over it from that
-- moment on; a job takes it away within a minute.
alter table entry add column lapses_at timestamptz;
create index entry_lapses on entry (lapses_at) where lapses_at is not null;

-- Briefs that a person keeps to use again. Only ever read whole, so one JSON value.
create table brief_template (
  id uuid primary key,
  person_id uuid not null references person on delete cascade,
  name text not null,
  brief jsonb not null,
  used_at timestamptz not null
);
create index brief_template_person on brief_template (person_id, used_at desc);
