-- Up Migration
-- Reservations are listed by whose they are, and by the places that somebody looks after: a page at a time, in order of time.
create index reservation_of_person on reservation (person_id, lower(span)) where state <> 'released';
create index reservation_of_place on reservation (resource_id, lower(span)) where state <> 'released';
create index resource_steward on resource (steward_id) where steward_id is not null;
