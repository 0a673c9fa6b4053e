-- Up Migration
-- Room that nobody made stays with whoever asked until they put it aside: what they would have sent is kept with it.
drop index exchange_asker;
create index exchange_asker on exchange (asker_id) where state not in ('done', 'withdrawn');
