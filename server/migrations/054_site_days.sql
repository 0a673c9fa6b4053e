-- Up Migration
-- By the public holidays of which country a site goes, and of which part of it, as ISO 3166 names them ("AT-7"); null where
-- none are known. They are known until `holidays_until`.
alter table site
  add column region text check (region ~ '^[A-Z]{2}(-[A-Z0-9]{1,4}){0,2}$'),
  add column holidays_until date;

-- Days on which a site is off: public holidays, and those that it adds for itself.
create table site_day (
  id uuid primary key default gen_random_uuid(),
  site_id uuid not null references site on delete cascade,
  days daterange not null
    check (not isempty(days) and not lower_inf(days) and not upper_inf(days) and upper(days) - lower(days) <= 366),
  name text not null check (name <> '' and length(name) <= 120),
  kind text not null check (kind in ('holiday', 'closed')),
  -- Whether nobody gets in, so that its places cannot be had either.
  shut boolean not null,
  -- A feast by the moon: its day is not certain before it is seen.
  uncertain boolean not null default false,
  version integer not null default 1,
  -- A public holiday is kept when the site works on it, so that it does not come again by itself.
  deleted_at timestamptz
);
create unique index site_day_once on site_day (site_id, lower(days), name) where kind = 'holiday';
create index site_day_when on site_day using gist (site_id, days) where deleted_at is null;

-- On which of their site's days off somebody works all the same.
create table day_worked (
  person_id uuid not null references person on delete cascade,
  day date not null,
  primary key (person_id, day)
);
