-- Up Migration
-- What is to be done, beside what stands at a time: of one person, who may give it to a colleague.
create table todo (
  id uuid primary key default gen_random_uuid(),
  -- Names it in other programs (RFC 5545 UID), for good.
  uid text not null unique,
  owner_id uuid not null references person on delete cascade,
  -- Whoever is to do it, where that is somebody else. Nobody gives a to-do to themselves.
  given_to uuid references person on delete set null check (given_to <> owner_id),
  title text not null check (title <> ''),
  note text not null default '',
  -- Due on a day, wherever one is, or at a time in a zone.
  due timestamp,
  due_all_day boolean not null default true,
  zone text not null,
  -- How long it takes.
  minutes integer check (minutes between 1 and 44640),
  category_id uuid references category on delete set null,
  -- RFC 5545 PRIORITY and PERCENT-COMPLETE.
  priority smallint not null default 0 check (priority between 0 and 9),
  percent smallint not null default 0 check (percent between 0 and 100),
  done_at timestamptz,
  -- Where it was imported from: its UID there, and which version of it (RFC 5545 SEQUENCE and DTSTAMP).
  source_uid text,
  source_sequence integer not null default 0,
  source_stamp timestamptz,
  -- Counts every change; a writer says which version it saw.
  version integer not null default 1,
  deleted_at timestamptz,
  created_at timestamptz not null,
  changed_at timestamptz not null,
  words tsvector generated always as (words_of(title, '', note)) stored,
  -- A day as such is one.
  check (due is null or not due_all_day or due = date_trunc('day', due)),
  check (done_at is null or percent = 100)
);
create index todo_owner on todo (owner_id, done_at) where deleted_at is null;
create index todo_given on todo (given_to, done_at) where deleted_at is null and given_to is not null;
create index todo_category on todo (category_id) where category_id is not null;

create unique index todo_source on todo (owner_id, source_uid) where source_uid is not null and deleted_at is null;

-- What an import did to to-dos, so that it can be taken back with the rest of it.
create table todo_change (
  change_id uuid not null references change on delete cascade,
  todo_id uuid not null references todo on delete cascade,
  -- The version that the change left, and what was there before; null where there was nothing.
  version integer not null,
  was jsonb,
  primary key (change_id, todo_id)
);
create index todo_change_todo on todo_change (todo_id);

-- Time that somebody set aside for a to-do is an entry of theirs.
alter table entry add column todo_id uuid references todo on delete set null;
create index entry_todo on entry (todo_id) where todo_id is not null;

alter table notice add column todo_id uuid references todo on delete cascade;
create index notice_todo on notice (todo_id) where todo_id is not null;
