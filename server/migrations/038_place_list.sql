-- Up Migration
-- The picture of a place, as it was given. Apart from the place itself, which is read often.
create table resource_picture (
  resource_id uuid primary key references resource on delete cascade,
  type text not null check (type in ('image/png', 'image/jpeg', 'image/webp')),
  content bytea not null,
  -- Names the content, so that a browser need not fetch again what it has.
  mark text not null
);
