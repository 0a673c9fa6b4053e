-- Up Migration
-- How a small page for other sites looks, and of how many days it is; whether a calendar has the to-dos, too.
alter table published_feed
  add column days smallint not null default 7 check (days in (1, 7)),
  add column look text not null default 'auto' check (look in ('auto', 'day', 'dusk')),
  add column heading text not null default '' check (length(heading) <= 100),
  add column with_todos boolean not null default false;
