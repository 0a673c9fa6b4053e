-- Up Migration
-- A way in without an account is for something: to answer an invitation now, to vote, visit or look at a panel later. A
-- link says what it is for, and of what; whoever holds it can repeat a request as safely as somebody who signed in.
create table link (
  token_hash bytea primary key,
  purpose text not null check (purpose in ('answer', 'vote', 'visit', 'venue', 'panel')),
  -- What it is for, by the id that the domain of its purpose has for it: of an answer, the participant.
  subject_id uuid not null,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  revoked_at timestamptz
);
create index link_subject on link (purpose, subject_id, made_at);
create index link_expires on link (expires_at);
insert into link (token_hash, purpose, subject_id, made_at, expires_at, revoked_at)
  select token_hash, 'answer', participant_id, made_at, expires_at, revoked_at from guest_link;
drop table guest_link;

-- Who asked: a person's id, or the link by which somebody came.
alter table repeated_request drop constraint repeated_request_person_id_fkey;
alter table repeated_request alter column person_id type text using person_id::text;
alter table repeated_request rename column person_id to asker;
