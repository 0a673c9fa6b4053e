-- Up Migration
-- Another time that somebody who is invited proposes for a date (RFC 5546 COUNTER), and what the time was that they want to
-- leave: it is open for as long as the date is still there. So one that was taken is open again when that is taken back, and
-- one to a date that has moved meanwhile is not, with nobody having to keep the two in step.
create table proposal (
  id uuid primary key default gen_random_uuid(),
  participant_id uuid not null references participant on delete cascade,
  occurrence_id uuid not null references occurrence on delete cascade,
  span tstzrange not null,
  instead tstzrange not null,
  message text not null default '',
  state text not null default 'open' check (state in ('open', 'taken', 'refused', 'withdrawn')),
  made_at timestamptz not null,
  -- When it was made, by the clock of whoever made it: of two the later counts.
  stamp timestamptz not null
);
create index proposal_participant on proposal (participant_id, made_at);
create index proposal_occurrence on proposal (occurrence_id);

-- That a proposal is declined is told by a letter, which changes nothing of what was told.
alter table letter drop constraint letter_method_check;
alter table letter add constraint letter_method_check check (method in ('REQUEST', 'CANCEL', 'DECLINECOUNTER'));
-- The time that was proposed.
alter table letter add column proposed tstzrange;
