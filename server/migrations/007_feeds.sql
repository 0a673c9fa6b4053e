-- Up Migration
-- Addresses at which people publish their own time. Only the hash of the secret is kept; one that was revoked stays, so
-- that it can be told from one that never was.
create table published_feed (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  token_hash bytea not null unique,
  kind text not null check (kind in ('calendar', 'freebusy', 'page')),
  sees text not null check (sees in ('busy', 'headlines', 'everything')),
  months smallint not null default 2 check (months between 1 and 36),
  made_at timestamptz not null,
  read_at timestamptz,
  revoked_at timestamptz,
  -- What it gave last and since when, for ETag and Last-Modified.
  body_hash text,
  changed_at timestamptz
);
create index published_feed_person on published_feed (person_id);

-- Feeds of others that a person reads. What was read well last stays until something newer was read well.
create table feed (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  name text not null,
  address text not null,
  every_minutes smallint not null check (every_minutes between 5 and 1440),
  etag text,
  last_modified text,
  read_at timestamptz,
  tried_at timestamptz,
  trouble text,
  next_at timestamptz not null
);
create index feed_person on feed (person_id);
create index feed_next on feed (next_at);

create table feed_span (
  feed_id uuid not null references feed on delete cascade,
  span tstzrange not null,
  state text not null check (state in ('busy', 'tentative', 'held', 'away', 'listed')),
  title text not null default '',
  place text not null default ''
);
create index feed_span_lane on feed_span using gist (feed_id, span);

-- Files that were looked at and wait for a yes; thrown away after a day.
create table import (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  text text not null,
  at timestamptz not null
);
