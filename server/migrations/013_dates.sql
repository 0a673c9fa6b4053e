-- Up Migration
-- An answer or a cancellation can be for one date of a series. What somebody said of a date stands on their share in it;
-- a message or a notice about one date names it.
alter table attendance
  add column message text,
  add column answered_at timestamptz,
  add column answered_by uuid references person on delete set null,
  -- When the answer was given by its giver's own clock (DTSTAMP of a REPLY): an older one never overwrites a newer.
  add column answer_stamp timestamptz;
create index attendance_answered_by on attendance (answered_by) where answered_by is not null;

alter table participant add column answer_stamp timestamptz;

alter table mail
  add column recurrence timestamp,
  drop constraint mail_participant_id_method_sequence_key,
  add constraint mail_once unique nulls not distinct (participant_id, method, sequence, recurrence);

alter table notice add column recurrence timestamp;

alter table change drop constraint change_kind_check;
alter table change add constraint change_kind_check
  check (kind in ('made', 'changed', 'deleted', 'answered', 'sent', 'cancelled', 'imported'));

-- A guest whose link has run out can ask for another, a few times an hour.
alter table guest_link add column made_at timestamptz not null default now();

-- A try to sign in is noted before it is checked, and taken back when it was right.
alter table sign_in_failure add column id uuid primary key default gen_random_uuid();
