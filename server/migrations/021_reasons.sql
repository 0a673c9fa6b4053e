-- Up Migration
-- Whoever cancels says why, of the whole or of one date; it is in the letters and on the screen.
alter table entry add column cancel_reason text not null default '';
alter table override add column cancel_reason text;
alter table letter add column reason text not null default '';
