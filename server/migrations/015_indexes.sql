-- Up Migration
-- Nothing that is done each minute, and nothing that a deletion follows, reads a whole table that grows.

-- The lengths of time before an entry at which anybody is ever reminded: asked for each minute, they were read from all
-- participants. One that nobody uses any more costs one look into an index.
create table reminder_length (minutes integer primary key);
insert into reminder_length
  select distinct unnest(reminders) from person
   union select distinct unnest(reminders) from participant where reminders is not null;

create function keep_reminder_lengths() returns trigger language plpgsql as $$
begin
  insert into reminder_length select distinct unnest(new.reminders) on conflict do nothing;
  return null;
end $$;
create trigger participant_reminder_lengths after insert or update of reminders on participant
  for each row when (new.reminders is not null) execute function keep_reminder_lengths();
create trigger person_reminder_lengths after insert or update of reminders on person
  for each row execute function keep_reminder_lengths();

-- What a deletion follows.
create index notice_entry on notice (entry_id) where entry_id is not null;
create index notice_participant on notice (participant_id) where participant_id is not null;
create index notice_change on notice (change_id) where change_id is not null;
create index notice_actor on notice (actor_id) where actor_id is not null;
create index reminder_occurrence on reminder (occurrence_id);
create index reminder_participant on reminder (participant_id);
create index change_entry on change (entry_id) where entry_id is not null;
create index change_actor on change (actor_id, at desc);
create index mail_actor on mail (actor_id) where actor_id is not null;
create index participant_answered_by on participant (answered_by) where answered_by is not null;
create index participant_category on participant (category_id) where category_id is not null;
create index attachment_added_by on attachment (added_by) where added_by is not null;
create index reservation_person on reservation (person_id);
create index import_person on import (person_id);
create index session_person on session (person_id);

-- What is thrown away by its age.
create index repeated_request_at on repeated_request (at);
create index sign_in_failure_at on sign_in_failure (at);
create index session_expires on session (expires_at);
create index import_at on import (at);
create index reminder_due on reminder (due_at);
create index attachment_removed on attachment (removed_at) where removed_at is not null;
create index change_kept on change (at) where entries <> '[]';

-- The series that are still running, which the night moves on.
create index entry_running on entry (id) where (rule is not null or added <> '{}') and deleted_at is null and cancelled_at is null;

-- What a team was given, for each of its members.
create index sharing_team on sharing (team_id) where team_id is not null;
