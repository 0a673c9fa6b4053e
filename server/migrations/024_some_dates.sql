-- Up Migration
-- Somebody can be asked to some dates of a series alone, or be let off some of them. Most take part in every date, so what
-- is kept is who does not, and at which dates somebody is otherwise than usual: a row for each participant and date would
-- be what attendance is already, and could not say what holds for dates that are not written out yet.
alter table participant add column every_date boolean not null default true;
create table participant_date (
  participant_id uuid not null references participant on delete cascade,
  -- A date by its name, which it keeps through every move and split.
  occurrence_id uuid not null references occurrence on delete cascade,
  takes_part boolean not null,
  primary key (participant_id, occurrence_id)
);
create index participant_date_occurrence on participant_date (occurrence_id);
