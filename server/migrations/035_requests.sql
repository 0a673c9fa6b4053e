-- Up Migration
-- A request that lapsed keeps the instant at which it did until whoever asked has been told.
alter table reservation drop constraint reservation_lapses;
alter table reservation add constraint reservation_lapses check (state <> 'taken' or lapses_at is null);
