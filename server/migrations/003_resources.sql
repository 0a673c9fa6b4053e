-- Up Migration
-- Places and equipment, and who has them when. Counted equipment is single units, so one constraint serves all.
create table resource (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  kind text not null check (kind in ('room', 'lab', 'desk', 'equipment')),
  site_id uuid not null references site,
  floor text not null default '',
  seats integer not null default 0 check (seats >= 0),
  features jsonb not null default '{}',
  about text not null default '',
  steward_id uuid references person,
  turnaround_minutes integer not null default 0 check (turnaround_minutes >= 0),
  trained_only boolean not null default false,
  asks_approval boolean not null default false,
  from_minute smallint not null default 0,
  to_minute smallint not null default 1440 check (to_minute > from_minute),
  weekdays smallint[] not null default '{1,2,3,4,5,6,7}'
);

create table trained_person (
  resource_id uuid not null references resource on delete cascade,
  person_id uuid not null references person on delete cascade,
  primary key (resource_id, person_id)
);

create table closure (
  id uuid primary key default gen_random_uuid(),
  resource_id uuid not null references resource on delete cascade,
  span tstzrange not null,
  reason text not null
);

create table reservation (
  id uuid primary key default gen_random_uuid(),
  resource_id uuid not null references resource,
  entry_id uuid references entry on delete cascade,
  recurrence timestamp,
  person_id uuid not null references person,
  purpose text not null default '',
  span tstzrange not null check (not isempty(span) and lower_inc(span) and not upper_inc(span)),
  -- The reserved span and the turnaround after it; set below, never by a writer.
  blocked tstzrange not null,
  state text not null default 'taken' check (state in ('held', 'taken', 'released')),
  lapses_at timestamptz check ((state = 'held') or lapses_at is null),
  -- The promise of the whole program: no place is given twice. A released reservation keeps nobody out.
  constraint reservation_no_double exclude using gist (resource_id with =, blocked with &&)
    where (state <> 'released')
);
create index reservation_span on reservation using gist (span) where (state <> 'released');
create index reservation_entry on reservation (entry_id);

-- A generated column cannot add minutes to a timestamptz (PostgreSQL calls that unstable), so a trigger does.
create function reservation_blocks() returns trigger language plpgsql as $$
begin
  select tstzrange(lower(new.span), upper(new.span) + make_interval(mins => turnaround_minutes))
    into new.blocked from resource where id = new.resource_id;
  return new;
end $$;
create trigger reservation_blocks before insert or update of span, resource_id on reservation
  for each row execute function reservation_blocks();
