-- Up Migration
-- One model for single and repeating entries. An entry keeps wall time and zone, so that daylight saving moves the
-- instant and not the clock on the wall; its dates are written out as occurrences, and each participant's lane as
-- attendance, so that one index answers "whose time, when" without expanding any rule.
create table entry (
  id uuid primary key default gen_random_uuid(),
  uid text not null unique,
  owner_id uuid not null references person on delete cascade,
  zone text not null,
  starts timestamp not null,
  minutes integer not null check (minutes between 1 and 44640),
  rule text,
  added timestamp[] not null default '{}',
  excepted timestamp[] not null default '{}',
  title text not null,
  place text not null default '',
  note text not null default '',
  shows text not null default 'busy' check (shows in ('busy', 'tentative', 'held', 'away', 'listed')),
  private boolean not null default false,
  -- Counts every change; a writer says which version it saw.
  version integer not null default 1,
  -- Counts what participants were told (RFC 5545 SEQUENCE).
  sequence integer not null default 0,
  cancelled_at timestamptz,
  deleted_at timestamptz,
  created_at timestamptz not null
);
create index entry_owner on entry (owner_id);

create table override (
  entry_id uuid not null references entry on delete cascade,
  recurrence timestamp not null,
  cancelled boolean not null default false,
  starts timestamp,
  minutes integer check (minutes between 1 and 44640),
  title text,
  place text,
  note text,
  shows text check (shows in ('busy', 'tentative', 'held', 'away', 'listed')),
  private boolean,
  primary key (entry_id, recurrence)
);

create table occurrence (
  id bigint generated always as identity primary key,
  entry_id uuid not null references entry on delete cascade,
  recurrence timestamp not null,
  span tstzrange not null check (not isempty(span) and lower_inc(span) and not upper_inc(span)),
  unique (entry_id, recurrence)
);

-- The owner takes part too, so that an entry with nobody else is no special case.
create table participant (
  id uuid primary key default gen_random_uuid(),
  entry_id uuid not null references entry on delete cascade,
  person_id uuid references person on delete cascade,
  guest_address text check (guest_address = lower(guest_address)),
  guest_name text not null default '',
  required boolean not null default true,
  organizer boolean not null default false,
  answer text not null default 'needs-action'
    check (answer in ('needs-action', 'accepted', 'tentative', 'declined', 'delegated')),
  message text not null default '',
  answered_at timestamptz,
  seen_at timestamptz,
  check ((person_id is null) <> (guest_address is null)),
  unique (entry_id, person_id),
  unique (entry_id, guest_address)
);
create index participant_person on participant (person_id);
create unique index participant_organizer on participant (entry_id) where organizer;

-- One row for each participant and date. `person_id` and `span` are copies: the lanes of many people over weeks are
-- the hottest read there is, and it should touch one index.
create table attendance (
  occurrence_id bigint not null references occurrence on delete cascade,
  participant_id uuid not null references participant on delete cascade,
  person_id uuid references person on delete cascade,
  span tstzrange not null,
  answer text not null
    check (answer in ('needs-action', 'accepted', 'tentative', 'declined', 'delegated')),
  primary key (occurrence_id, participant_id)
);
create index attendance_lane on attendance using gist (person_id, span);
create index attendance_participant on attendance (participant_id);
