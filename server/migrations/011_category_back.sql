-- Up Migration
-- A category that is deleted leaves what was in it without one, and taking that back has to put each where it was. What a
-- person's share in an entry was sorted by is therefore noted when its category goes; nothing reads it but the way back.
alter table participant add column former_category_id uuid;
create index participant_former_category on participant (former_category_id) where former_category_id is not null;
