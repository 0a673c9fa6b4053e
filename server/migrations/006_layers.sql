-- Up Migration
-- Sets of layers that a person keeps for next time. What is in a set is theirs alone and only ever read whole, so it is
-- one JSON value; whether they may still see what it names is decided at every read of that.
create table layer_set (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  name text not null default '',
  layers jsonb not null default '[]',
  used_at timestamptz not null
);
create index layer_set_person on layer_set (person_id, used_at desc);
