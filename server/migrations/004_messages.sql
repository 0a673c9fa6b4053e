-- Up Migration
-- What was sent, what was said on screen, and what makes a repeated request harmless.

-- One row for each message to each participant: the unique key is why nobody is told twice. The job that sends it is
-- added in the same transaction.
create table mail (
  id uuid primary key default gen_random_uuid(),
  entry_id uuid not null references entry on delete cascade,
  participant_id uuid not null references participant on delete cascade,
  method text not null check (method in ('REQUEST', 'CANCEL')),
  sequence integer not null,
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
  error text,
  written_at timestamptz not null,
  sent_at timestamptz,
  unique (participant_id, method, sequence)
);
create index mail_entry on mail (entry_id);

-- A guest's way in without an account: unguessable, expiring, revocable; only the hash is kept.
create table guest_link (
  token_hash bytea primary key,
  participant_id uuid not null references participant on delete cascade,
  expires_at timestamptz not null,
  revoked_at timestamptz
);
create index guest_link_participant on guest_link (participant_id);

create table notice (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  kind text not null check (kind in ('invited', 'answered', 'cancelled')),
  entry_id uuid not null references entry on delete cascade,
  participant_id uuid references participant on delete cascade,
  answer text,
  at timestamptz not null
);
create index notice_person on notice (person_id, at desc);

create table repeated_request (
  person_id uuid not null references person on delete cascade,
  key text not null,
  asked_hash bytea not null,
  answer jsonb,
  at timestamptz not null,
  primary key (person_id, key)
);

create table setting (
  name text primary key,
  value jsonb not null
);
