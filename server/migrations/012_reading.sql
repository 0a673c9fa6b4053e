-- Up Migration
-- Calendars from elsewhere are read with care: what was not understood is unknown, never free, and is told; an older
-- version of an entry never overwrites a newer one; an import that was taken back can be made again.
alter table feed
  -- Counted up before each reading and set back after it: one that ends the server is not read again at once.
  add column attempts smallint not null default 0,
  add column unread_count integer not null default 0,
  -- The first of what was not understood, each with its title and the reason.
  add column unread jsonb not null default '[]';

alter table feed_span
  drop constraint feed_span_state_check,
  add constraint feed_span_state_check
    check (state in ('busy', 'tentative', 'held', 'away', 'listed', 'unknown'));

alter table entry
  -- RFC 5545 SEQUENCE and DTSTAMP of the version that was imported last.
  add column source_sequence integer not null default 0,
  add column source_stamp timestamptz,
  drop constraint entry_source;
-- Deleted entries do not count: they may be undone only as long as nothing new stands in their place.
create unique index entry_source on entry (owner_id, source_uid) where deleted_at is null;
