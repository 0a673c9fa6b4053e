-- Up Migration
-- Somebody can follow a place in another program: an address of their own, which gives what they may know of its reservations.
alter table published_feed
  add column resource_id uuid references resource on delete cascade,
  drop constraint published_feed_kind_check,
  add constraint published_feed_kind_check check (kind in ('calendar', 'freebusy', 'page', 'place')),
  add constraint published_feed_place check ((kind = 'place') = (resource_id is not null));
create index published_feed_resource on published_feed (resource_id) where resource_id is not null;
