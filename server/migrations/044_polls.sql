-- Up Migration
-- When calendars cannot be seen: several people are asked which of some times suit them. What is sent once a time is chosen is kept
-- as it was wished, since it is made only then.
create table poll (
  id uuid primary key default gen_random_uuid(),
  owner_id uuid not null references person on delete cascade,
  -- A stand-in who asks for them.
  actor_id uuid references person on delete set null,
  wish jsonb not null,
  minutes integer not null check (minutes between 1 and 44640),
  closes_at timestamptz not null,
  needed smallint check (needed > 0),
  results text not null check (results in ('all', 'organizer')),
  names boolean not null,
  one_mark boolean not null,
  proposals boolean not null,
  notices text not null check (notices in ('each', 'daily', 'none')),
  holds boolean not null,
  door text not null check (door in ('own', 'anyone')),
  state text not null default 'open' check (state in ('open', 'decided', 'withdrawn')),
  -- Counts on with each change of how it is asked; each time that its organizer adds times is a round.
  version integer not null default 1,
  round integer not null default 1,
  -- What was chosen, and the meeting that was made of it.
  time_id uuid,
  entry_id uuid references entry on delete set null,
  made_at timestamptz not null,
  decided_at timestamptz,
  -- Whether its organizer was told that nobody can mark any more; up to when they were told of marks, where that is daily.
  over_told_at timestamptz,
  marks_told_at timestamptz not null,
  check ((state = 'decided') = (time_id is not null))
);
create index poll_owner on poll (owner_id);
create index poll_open on poll (closes_at) where state = 'open';
create index poll_entry on poll (entry_id) where entry_id is not null;
create index poll_actor on poll (actor_id) where actor_id is not null;

create table poll_voter (
  id uuid primary key default gen_random_uuid(),
  poll_id uuid not null references poll on delete cascade,
  person_id uuid references person on delete cascade,
  address text check (address = lower(address)),
  name text not null default '',
  required boolean not null,
  -- False for whoever came by the link for all: anybody can say that they are somebody.
  proved boolean not null default true,
  comment text not null default '',
  marked_at timestamptz,
  seen_at timestamptz,
  -- What they know of it from its letters (PollTold in core).
  told jsonb,
  invited boolean not null default false,
  gone_at timestamptz,
  asked_at timestamptz not null,
  check ((person_id is null) <> (address is null)),
  check (proved or person_id is null)
);
create unique index poll_voter_person on poll_voter (poll_id, person_id) where person_id is not null;
create unique index poll_voter_address on poll_voter (poll_id, address) where proved and address is not null;
create index poll_voter_poll on poll_voter (poll_id);
create index poll_voter_of on poll_voter (person_id) where person_id is not null;

create table poll_time (
  id uuid primary key default gen_random_uuid(),
  poll_id uuid not null references poll on delete cascade,
  span tstzrange not null,
  places uuid[] not null default '{}',
  -- The entry that holds it. It lapses by itself, so it may be gone.
  hold_id uuid,
  proposed_by uuid references poll_voter on delete set null,
  gone_at timestamptz
);
create unique index poll_time_once on poll_time (poll_id, lower(span)) where gone_at is null;
create index poll_time_poll on poll_time (poll_id);
create index poll_time_proposed on poll_time (proposed_by) where proposed_by is not null;
alter table poll add foreign key (time_id) references poll_time deferrable initially deferred;
create index poll_time_chosen on poll (time_id) where time_id is not null;

create table poll_mark (
  voter_id uuid not null references poll_voter on delete cascade,
  time_id uuid not null references poll_time on delete cascade,
  mark text not null check (mark in ('yes', 'if-need-be', 'no')),
  primary key (voter_id, time_id)
);
create index poll_mark_time on poll_mark (time_id);

-- A letter to somebody who is asked; numbered, so that none is written twice.
create table poll_letter (
  id uuid primary key default gen_random_uuid(),
  voter_id uuid not null references poll_voter on delete cascade,
  number integer not null,
  kind text not null check (kind in ('ask', 'more-times', 'again', 'nudge', 'decided', 'off')),
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
  error text,
  written_at timestamptz not null,
  sent_at timestamptz,
  unique (voter_id, number)
);

-- A notice may be about a poll, and by somebody without an account.
alter table notice add column poll_id uuid references poll on delete cascade;
alter table notice add column by_name text not null default '';
create index notice_poll on notice (poll_id) where poll_id is not null;

-- How often somebody came to a public door, by what it leads to and from where: what slows down whoever comes too often.
create table door_try (
  door text not null,
  subject text not null,
  client text not null,
  at timestamptz not null
);
create index door_try_subject on door_try (door, subject, at);
create index door_try_client on door_try (door, client, at);
create index door_try_at on door_try (at);
