-- Up Migration
-- Room that somebody asks for: others would go to another place, each if they agree, and then all of it is done at once. What is
-- wished is kept as it was sent, since it is made only then.
create table exchange (
  id uuid primary key default gen_random_uuid(),
  asker_id uuid not null references person on delete cascade,
  place_id uuid not null references resource on delete cascade,
  span tstzrange not null,
  wish jsonb not null,
  state text not null default 'asked' check (state in ('asked', 'done', 'refused', 'failed', 'lapsed', 'withdrawn')),
  asked_at timestamptz not null,
  lapses_at timestamptz not null
);
create index exchange_asker on exchange (asker_id) where state = 'asked';
create index exchange_lapsing on exchange (lapses_at) where state = 'asked';
create index exchange_place on exchange (place_id);

-- Who would go where: a reservation as it stood when it was asked about.
create table exchange_move (
  exchange_id uuid not null references exchange on delete cascade,
  number smallint not null,
  reservation_id uuid not null references reservation on delete cascade,
  person_id uuid not null references person on delete cascade,
  from_id uuid not null references resource on delete cascade,
  to_id uuid not null references resource on delete cascade,
  span tstzrange not null,
  agreed_at timestamptz,
  primary key (exchange_id, number)
);
create index exchange_move_person on exchange_move (person_id);
create index exchange_move_reservation on exchange_move (reservation_id);
create index exchange_move_from on exchange_move (from_id);
create index exchange_move_to on exchange_move (to_id);
