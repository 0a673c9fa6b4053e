-- Up Migration
-- Where a site is, in degrees, so that the weather service can be asked about it.
alter table site
  add column latitude double precision check (latitude between -90 and 90),
  add column longitude double precision check (longitude between -180 and 180),
  add check ((latitude is null) = (longitude is null));

-- What the weather service said last of each site, and when it was asked last, whatever it answered.
create table forecast (
  site_id uuid primary key references site on delete cascade,
  asked_at timestamptz not null,
  issued_at timestamptz
);
create table forecast_hour (
  site_id uuid not null references forecast on delete cascade,
  at timestamptz not null,
  temperature real not null,
  rain real not null,
  chance real not null,
  wind real not null,
  primary key (site_id, at)
);

-- At which site an entry is out of doors, where it is. A place of which that is said among its features is so at its own.
alter table entry add column outdoors_site_id uuid references site on delete set null;
create index entry_outdoors on entry (outdoors_site_id) where outdoors_site_id is not null;
alter table resource
  add column outdoors boolean not null generated always as (features::text ilike '%"out of doors":%') stored;
