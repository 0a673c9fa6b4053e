-- Up Migration
-- A closure can repeat: its spans belong together, and are opened again together.
alter table closure
  add column set_id uuid,
  add column made_by uuid references person on delete set null,
  add column made_at timestamptz not null default now();
update closure set set_id = id;
alter table closure alter column set_id set not null, alter column set_id set default gen_random_uuid();
create index closure_resource on closure (resource_id);
create index closure_made_by on closure (made_by) where made_by is not null;
