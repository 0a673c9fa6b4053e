-- Up Migration
-- By which rules a place is reserved, as its steward sets them. What is null has no limit.
alter table resource
  -- Minutes kept free before each use; those after it are turnaround_minutes.
  add column before_minutes integer not null default 0 check (before_minutes between 0 and 1440),
  add column shortest_minutes integer check (shortest_minutes between 1 and 44640),
  add column longest_minutes integer check (longest_minutes between 1 and 44640),
  -- How many days ahead it can be reserved, and how many minutes before it begins at the latest.
  add column ahead_days integer check (ahead_days between 1 and 550),
  add column notice_minutes integer check (notice_minutes between 0 and 527040),
  -- How many reservations to come one person can have of it.
  add column at_once integer check (at_once between 1 and 1000),
  -- How many hours a request waits for its steward; it never outlasts the beginning of what is asked for.
  add column approval_hours integer not null default 48 check (approval_hours between 1 and 720),
  -- Taken out of use: what was reserved of it stays known.
  add column retired_at timestamptz,
  add column version integer not null default 1,
  add constraint resource_lengths check (longest_minutes is null or shortest_minutes is null or shortest_minutes <= longest_minutes);

-- When it is open, by weekday (1 is Monday) on the clock of its site; several parts of a day are several rows.
create table opening_hours (
  resource_id uuid not null references resource on delete cascade,
  weekday smallint not null check (weekday between 1 and 7),
  from_minute smallint not null check (from_minute between 0 and 1440),
  to_minute smallint not null check (to_minute > from_minute and to_minute <= 1440),
  primary key (resource_id, weekday, from_minute)
);
insert into opening_hours (resource_id, weekday, from_minute, to_minute)
  select id, unnest(weekdays), from_minute, to_minute from resource;
alter table resource drop column from_minute, drop column to_minute, drop column weekdays;

-- The teams whose people may reserve it; everybody, where there is none.
create table resource_team (
  resource_id uuid not null references resource on delete cascade,
  team_id uuid not null references team on delete cascade,
  primary key (resource_id, team_id)
);
create index resource_team_team on resource_team (team_id);

-- Training ends: the last day on which it counts.
alter table trained_person add column until_day date;
create index trained_person_person on trained_person (person_id);

create or replace function reservation_blocks() returns trigger language plpgsql as $$
begin
  select tstzrange(lower(new.span) - make_interval(mins => before_minutes),
                   upper(new.span) + make_interval(mins => turnaround_minutes))
    into new.blocked from resource where id = new.resource_id;
  return new;
end $$;

-- A request is a reservation that its place's steward has not decided about: it keeps others out, and lapses by itself.
alter table reservation drop constraint reservation_state_check, drop constraint reservation_check;
alter table reservation
  add constraint reservation_state_check check (state in ('held', 'requested', 'taken', 'released')),
  add constraint reservation_lapses check ((state in ('held', 'requested')) or lapses_at is null);
create index reservation_lapsing on reservation (lapses_at) where lapses_at is not null;
