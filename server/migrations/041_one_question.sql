-- Up Migration
-- Nobody is asked twice for the same room by the same person, also not by two requests in the same second.
alter table exchange add constraint exchange_once
  exclude using gist (asker_id with =, place_id with =, span with &&) where (state = 'asked');
