-- Up Migration
-- Who there is, where they are and when they work. Addresses are kept in lower case so that one person cannot be
-- entered twice under two spellings. Working hours are minutes since midnight of a weekday; `to_minute` may pass
-- 1440 because a night observer's shift ends on the next day.
create extension if not exists btree_gist;

create table site (
  id uuid primary key default gen_random_uuid(),
  name text not null unique,
  zone text not null
);

create table team (
  id uuid primary key default gen_random_uuid(),
  name text not null unique
);

create table person (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  address text not null unique check (address = lower(address)),
  role text not null default '',
  site_id uuid not null references site,
  zone text not null,
  password_hash text not null,
  -- The order in which the demo offers its leading people to sign in as; null for everybody else.
  demo_order smallint
);
create index person_name on person (lower(name) text_pattern_ops);

create table team_member (
  team_id uuid not null references team on delete cascade,
  person_id uuid not null references person on delete cascade,
  primary key (team_id, person_id)
);
create index team_member_person on team_member (person_id);

create table working_hours (
  person_id uuid not null references person on delete cascade,
  weekday smallint not null check (weekday between 1 and 7),
  from_minute smallint not null check (from_minute >= 0),
  to_minute smallint not null check (to_minute <= 2880),
  primary key (person_id, weekday, from_minute),
  check (to_minute > from_minute)
);

-- What an owner lets others see and do, apart. No row means that the organisation sees busy times.
create table sharing (
  id uuid primary key default gen_random_uuid(),
  owner_id uuid not null references person on delete cascade,
  team_id uuid references team on delete cascade,
  person_id uuid references person on delete cascade check (person_id <> owner_id),
  sees text not null check (sees in ('nothing', 'busy', 'headlines', 'everything')),
  does text not null default 'look' check (does in ('look', 'change', 'stand-in')),
  until timestamptz,
  check (team_id is null or person_id is null),
  unique nulls not distinct (owner_id, team_id, person_id)
);

-- Sessions are kept by the hash of their token: a copy of this table signs nobody in.
create table session (
  token_hash bytea primary key,
  person_id uuid not null references person on delete cascade,
  expires_at timestamptz not null
);

-- Failed sign-ins, so that guessing is slowed down whichever server is asked.
create table sign_in_failure (
  address text not null,
  client text not null,
  at timestamptz not null
);
create index sign_in_failure_address on sign_in_failure (address, at);
create index sign_in_failure_client on sign_in_failure (client, at);
