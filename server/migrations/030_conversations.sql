-- Up Migration
-- What is said about a meeting, by those who take part in it and whoever acts for its organizer. It belongs to the date at which
-- it was said, like everything that not all who take part in a series may see.
create table message (
  id uuid primary key default gen_random_uuid(),
  occurrence_id uuid not null references occurrence on delete cascade,
  -- Who said it: a person, or a guest by what they were called; the participant as long as they are one.
  person_id uuid references person on delete cascade,
  guest_name text not null default '',
  participant_id uuid references participant on delete set null,
  text text not null,
  at timestamptz not null,
  -- Taken out, and kept for a while so that it can be put back.
  removed_at timestamptz,
  words tsvector generated always as (to_tsvector('simple'::regconfig, plain(text))) stored
);
create index message_occurrence on message (occurrence_id, at);
create index message_participant on message (participant_id, at) where participant_id is not null;
create index message_person on message (person_id) where person_id is not null;
create index message_removed on message (removed_at) where removed_at is not null;
create index message_words on message using gin (words);

-- Up to when somebody has read what is said about a meeting.
create table conversation_read (
  participant_id uuid primary key references participant on delete cascade,
  read_at timestamptz not null
);

-- A file can belong to one date of a meeting: then it is for those who take part in that date, and a guest may have added it.
alter table attachment
  add column occurrence_id uuid references occurrence on delete cascade,
  add column guest_name text not null default '',
  add column participant_id uuid references participant on delete set null;
create index attachment_occurrence on attachment (occurrence_id) where occurrence_id is not null;
create index attachment_participant on attachment (participant_id) where participant_id is not null;

create table message_file (
  message_id uuid not null references message on delete cascade,
  attachment_id uuid not null references attachment on delete cascade,
  primary key (message_id, attachment_id)
);
create index message_file_attachment on message_file (attachment_id);
