-- Up Migration
-- Where a proof by letter is wanted, a time is kept for its visitor until they have pressed the link in it, and for no longer.
create table visit_wish (
  id uuid primary key default gen_random_uuid(),
  kind_id uuid not null references visit_kind on delete cascade,
  -- What was typed, as it will be taken.
  body jsonb not null,
  -- The entries that keep the time on its hosts' lanes, with whose they are; they lapse by themselves.
  holds jsonb not null,
  lapses_at timestamptz not null,
  -- What was answered once it was taken, so that a second press does nothing more.
  answer jsonb
);
create index visit_wish_kind on visit_wish (kind_id);
create index visit_wish_lapsing on visit_wish (lapses_at);
