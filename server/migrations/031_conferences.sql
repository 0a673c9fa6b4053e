-- Up Migration
-- How one joins a meeting from afar: {room, link, telephone, code} as the conference service gave them; without a link where
-- one is wanted and the service has not answered yet. Of a series for all dates, and a series that is split keeps it in both
-- parts, so that an address in somebody's calendar goes on leading there.
alter table entry add column conference jsonb;
create index entry_conference on entry ((conference ->> 'room')) where conference is not null;
-- What the service still has to be asked for.
create index entry_conference_wanted on entry (id) where conference is not null and conference ->> 'link' = '';

-- Who was in a meeting, from when until when: a seat is one's stay by one way. Times are the service's, by our own clock.
create table attended (
  seat uuid primary key,
  occurrence_id uuid not null references occurrence on delete cascade,
  participant_id uuid references participant on delete set null,
  name text not null,
  via text not null check (via in ('link', 'telephone')),
  joined_at timestamptz not null,
  left_at timestamptz
);
create index attended_occurrence on attended (occurrence_id, joined_at);
create index attended_participant on attended (participant_id) where participant_id is not null;

-- Somebody is called into a meeting that is going on: it rings on their screens for a while, or a telephone does.
create table call (
  id uuid primary key default gen_random_uuid(),
  occurrence_id uuid not null references occurrence on delete cascade,
  person_id uuid references person on delete cascade,
  number text,
  actor_id uuid not null references person on delete cascade,
  at timestamptz not null,
  -- When they came, or said that they do not.
  ended_at timestamptz,
  check ((person_id is null) <> (number is null))
);
create index call_person on call (person_id, at) where ended_at is null;
create index call_occurrence on call (occurrence_id);
create index call_actor on call (actor_id, at);
