-- Whose time a feed shows: nobody's in particular, that of whoever reads it, which counts as their own, or that of a guest,
-- which counts when whoever reads it arranges with them. `known` is the range that was read; beyond it nothing is known.
alter table feed
  add column mine boolean not null default false,
  add column guest text check (guest = lower(guest) and guest like '%@%'),
  add column known tstzrange,
  add constraint feed_whose check (not (mine and guest is not null));
update feed set known = tstzrange(read_at - interval '60 days', read_at + interval '400 days') where read_at is not null;
create index feed_mine on feed (person_id) where mine;
create index feed_guest on feed (person_id, guest) where guest is not null;
