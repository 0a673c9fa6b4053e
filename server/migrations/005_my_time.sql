-- Up Migration
-- What a person chose about their own days: how they are drawn, and where they are. `zone` of person stays the one in
-- force today; a journey is a row here, which takes effect on its day.
alter table person
  add column first_weekday smallint not null default 1 check (first_weekday between 1 and 7),
  add column shown_from smallint not null default 420 check (shown_from between 0 and 1440),
  add column shown_to smallint not null default 1200 check (shown_to between 0 and 1440),
  add column half_day_clock boolean not null default false,
  add column second_zone text,
  add column locale text not null default 'en-GB',
  -- Minutes before an entry at which its owner is reminded, where the entry itself says nothing.
  add column reminders integer[] not null default '{10}',
  add column reminds_by_mail boolean not null default false,
  add constraint person_shown check (shown_to > shown_from);

create table zone_change (
  person_id uuid not null references person on delete cascade,
  from_day date not null,
  zone text not null,
  applied boolean not null default false,
  primary key (person_id, from_day)
);
create index zone_change_waiting on zone_change (from_day) where not applied;

-- A category is a person's own, also on a meeting: nobody else sees how I sort what I take part in. `tone` is one of
-- the ten of the palette.
create table category (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  name text not null check (name <> ''),
  tone smallint not null check (tone between 0 and 9),
  unique (person_id, name)
);

alter table participant
  add column category_id uuid references category on delete set null,
  -- Minutes before; null means as the person usually has it, empty means none.
  add column reminders integer[];

alter table entry
  -- Its length is days on the calendar, not elapsed time.
  add column all_day boolean not null default false,
  -- The UID it had where it was imported from; `uid` stays ours, so that nobody can import their way into a meeting.
  add column source_uid text,
  -- People named in an imported entry. They were not invited by Marmot and get nothing from it.
  add column contacts jsonb not null default '[]',
  add constraint entry_source unique (owner_id, source_uid),
  add constraint entry_whole_days check (not all_day or minutes % 1440 = 0);

create table attachment (
  id uuid primary key default gen_random_uuid(),
  entry_id uuid not null references entry on delete cascade,
  name text not null check (name <> ''),
  type text not null,
  content bytea not null,
  size integer not null generated always as (octet_length(content)) stored check (size <= 10485760),
  added_by uuid references person on delete set null,
  at timestamptz not null,
  -- Taken off, and kept for a while so that it can be put back.
  removed_at timestamptz
);
create index attachment_entry on attachment (entry_id);

-- What was done to entries, by whom, with the state before, so that every change can be taken back, and an owner can
-- look up what a stand-in did. `entries` is [{id, version, was}]: the version it left, and null where it was made.
create table change (
  id uuid primary key default gen_random_uuid(),
  owner_id uuid not null references person on delete cascade,
  actor_id uuid not null references person on delete cascade,
  entry_id uuid references entry on delete cascade,
  kind text not null check (kind in ('made', 'changed', 'deleted', 'answered', 'sent', 'imported')),
  title text not null,
  entries jsonb not null default '[]',
  at timestamptz not null,
  undone_at timestamptz
);
create index change_owner on change (owner_id, at desc);
-- Finds the changes of an entry, among them imports of thousands.
create index change_entries on change using gin (entries jsonb_path_ops);

alter table notice drop constraint notice_kind_check;
alter table notice
  alter column entry_id drop not null,
  add column actor_id uuid references person on delete cascade,
  add constraint notice_kind_check check (kind in ('invited', 'answered', 'cancelled', 'acted', 'shared'));
alter table notice
  -- What was done, of which the notice's words are made when it is read.
  add column change_id uuid references change on delete cascade,
  -- What was given, in words.
  add column words text not null default '';

-- A stand-in may have been allowed to see private entries; nobody else can be. Whoever may change must see what it is.
alter table sharing
  add column sees_private boolean not null default false,
  add constraint sharing_private check (not sees_private or does = 'stand-in'),
  add constraint sharing_does check (does = 'look' or sees = 'everything');
create index sharing_person on sharing (person_id) where person_id is not null;

-- Who sent it, where that was a stand-in of the organizer.
alter table mail add column actor_id uuid references person on delete set null;
alter table participant add column answered_by uuid references person on delete set null;
