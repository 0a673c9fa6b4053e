-- Up Migration
-- The agenda of a date of a meeting. Everybody who takes part writes in it at the same time, as a document that adds up from
-- its updates in whatever order they come (Yjs). Updates are kept as they arrive, so that a keystroke writes a few bytes, and
-- are added up into `document` once nobody types: alternatives were the whole document at each keystroke (half a megabyte
-- where it is long), or only in memory (lost with the server).
create table agenda (
  occurrence_id uuid primary key references occurrence on delete cascade,
  document bytea not null default '\x0000',
  -- What it says, for letters and to be found by.
  text text not null default '',
  words tsvector generated always as (to_tsvector('simple'::regconfig, plain(left(text, 20000)))) stored
);
create index agenda_words on agenda using gin (words);

create table agenda_update (
  number bigint generated always as identity primary key,
  occurrence_id uuid not null references occurrence on delete cascade,
  document bytea not null
);
create index agenda_update_occurrence on agenda_update (occurrence_id, number);
