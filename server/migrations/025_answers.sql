-- Up Migration
-- Whether an answer is wanted at all is the organizer's to say (RFC 5545 RSVP).
alter table entry add column rsvp boolean not null default true;

-- Whoever answers may keep it to themselves: it counts on their own lane, and the organizer is told nothing. What was chosen
-- last is kept for the next time.
alter table participant add column quiet boolean not null default false;
alter table attendance add column quiet boolean not null default false;
alter table person add column answers_quietly boolean not null default false;

-- Who takes part in somebody's place (RFC 5545 DELEGATED-FROM).
alter table participant add column delegated_from uuid references participant on delete set null;
create index participant_delegated_from on participant (delegated_from) where delegated_from is not null;
