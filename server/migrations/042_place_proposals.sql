-- Up Migration
-- The steward of a place that is asked for can propose another time for it instead of refusing: like what somebody who is
-- invited proposes, it is for one date, and open for as long as the date is still there.
alter table proposal alter column participant_id drop not null;
alter table proposal add column resource_id uuid references resource on delete cascade;
alter table proposal add column steward_id uuid references person on delete cascade;
alter table proposal add constraint proposal_of_one check (
  (participant_id is null) = (resource_id is not null) and (resource_id is null) = (steward_id is null));
-- Few are ahead at any time; those are looked through for whoever is to answer and for whoever proposed.
create index proposal_of_place on proposal (lower(span)) where resource_id is not null;
