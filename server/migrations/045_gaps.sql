-- Up Migration
-- What somebody keeps free before and after a meeting. It is no part of the meeting: it follows it wherever it goes, holds their
-- time, and stands in no letter and no calendar.
create table gap (
  entry_id uuid not null references entry on delete cascade,
  person_id uuid not null references person on delete cascade,
  -- In minutes.
  before smallint not null check (before between 0 and 480),
  after smallint not null check (after between 0 and 480),
  primary key (entry_id, person_id),
  check (before > 0 or after > 0)
);
create index gap_person on gap (person_id);
