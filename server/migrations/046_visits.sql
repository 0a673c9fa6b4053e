-- Up Migration
-- Pages on which somebody from outside picks a time that a staff member offers. What is taken is a meeting like any other.
create table visit_page (
  id uuid primary key,
  owner_id uuid not null references person on delete cascade,
  slug text not null unique check (slug ~ '^[a-z0-9](?:[a-z0-9-]{0,58}[a-z0-9])?$'),
  name text not null,
  about text not null default '',
  accent smallint not null default 0 check (accent between 0 and 9),
  is_on boolean not null default true,
  made_at timestamptz not null
);
create index visit_page_owner on visit_page (owner_id);

create table visit_kind (
  id uuid primary key,
  page_id uuid not null references visit_page on delete cascade,
  slug text not null check (slug ~ '^[a-z0-9](?:[a-z0-9-]{0,58}[a-z0-9])?$'),
  -- What is said of it and when it can be had, as its page's keeper says it (visitKind of the contract).
  terms jsonb not null,
  is_on boolean not null default true,
  made_at timestamptz not null,
  -- A kind that was taken away stays for the visits that were taken of it.
  gone_at timestamptz
);
create unique index visit_kind_slug on visit_kind (page_id, slug) where gone_at is null;

-- Whose time is offered: never without their own word.
create table visit_host (
  kind_id uuid not null references visit_kind on delete cascade,
  person_id uuid not null references person on delete cascade,
  number smallint not null,
  agreed_at timestamptz,
  primary key (kind_id, person_id)
);
create index visit_host_person on visit_host (person_id);

create table visit (
  id uuid primary key default gen_random_uuid(),
  kind_id uuid not null references visit_kind on delete cascade,
  -- The meeting; should it be deleted for good, what was taken is still in the list.
  entry_id uuid references entry on delete set null,
  -- Whose turn it was, or all of a panel: the first has the meeting.
  hosts uuid[] not null,
  name text not null,
  address text not null check (address = lower(address)),
  zone text not null,
  guests smallint not null,
  answers text[] not null,
  -- As it was taken; the meeting may have moved since.
  span tstzrange not null,
  taken_at timestamptz not null,
  reminded_at timestamptz,
  thanked_at timestamptz
);
create index visit_kind_taken on visit (kind_id, taken_at);
create unique index visit_entry on visit (entry_id) where entry_id is not null;
create index visit_hosts on visit using gin (hosts);
create index visit_waiting on visit (lower(span)) where thanked_at is null;

