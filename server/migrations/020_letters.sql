-- Up Migration
-- A letter is the difference between what somebody was told last and what is true now, so each letter keeps what its
-- reader knows from it. Letters to one reader about one meeting are numbered: the number is why none is written twice. A
-- reader is a person or a guest's address, not a participant: who was let off has to be told, too.
create table telling (
  id uuid primary key default gen_random_uuid(),
  entry_id uuid not null references entry on delete cascade,
  -- What was true of the meeting (Told of core/letters), but for whether one must come, which each letter has of its own.
  told jsonb not null
);
create index telling_entry on telling (entry_id);

create table letter (
  id uuid primary key default gen_random_uuid(),
  entry_id uuid not null references entry on delete cascade,
  person_id uuid references person on delete cascade,
  guest_address text check (guest_address = lower(guest_address)),
  guest_name text not null default '',
  number integer not null,
  method text not null check (method in ('REQUEST', 'CANCEL')),
  -- RFC 5545 SEQUENCE, and the version of the entry that it tells of.
  sequence integer not null,
  version integer not null,
  -- The one date of a series that it is about.
  recurrence timestamp,
  required boolean not null,
  -- What it speaks of; what was known before, where it tells a change; and what its reader knows from it on: null is
  -- nothing any more. Hundreds of letters about one change speak of the same.
  about_id uuid not null references telling,
  before_id uuid references telling,
  told_id uuid references telling,
  -- Whether what was known of the time and place holds no more, so that an answer is asked again.
  asks_again boolean not null default false,
  actor_id uuid references person on delete set null,
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
  error text,
  written_at timestamptz not null,
  -- Since when it may have left; before that it can still be replaced by another.
  tried_at timestamptz,
  sent_at timestamptz,
  check ((person_id is null) <> (guest_address is null)),
  constraint letter_number unique nulls not distinct (entry_id, person_id, guest_address, number)
);
create index letter_actor on letter (actor_id) where actor_id is not null;
create index letter_person on letter (person_id) where person_id is not null;
create index letter_about on letter (about_id);
create index letter_before on letter (before_id) where before_id is not null;
create index letter_told on letter (told_id) where told_id is not null;

-- What was sent before told what is true today; a cancellation left nothing. Only of the last of each reader's letters
-- this is ever asked.
create function pg_temp.wall(at timestamp) returns text language sql immutable as
  $$ select to_char(at, 'YYYY-MM-DD"T"HH24:MI') $$;

create temp table of_date on commit drop as
  select o.entry_id, o.recurrence, v.starts, v.minutes, v.title, v.note, concat_ws('; ',
           (select string_agg(s.name || ', ' || t.name, '; ' order by s.name)
              from reservation r join resource s on s.id = r.resource_id join site t on t.id = s.site_id
             where r.occurrence_id = o.id and r.state <> 'released'),
           nullif(coalesce(v.place, e.place), '')) as place
    from occurrence o join entry e on e.id = o.entry_id
    left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
   where o.gone_at is null and exists (select 1 from mail m where m.entry_id = o.entry_id);

-- Where most dates are is where the series is; the others are said with their own.
create temp table usual on commit drop as
  select distinct on (entry_id) entry_id, place
    from (select entry_id, place, count(*) as n, min(recurrence) as first from of_date group by entry_id, place) d
   order by entry_id, n desc, first;

create temp table told on commit drop as
  select e.id as entry_id, jsonb_build_object(
    'title', e.title, 'note', e.note, 'place', coalesce(u.place, e.place), 'zone', e.zone,
    'starts', pg_temp.wall(e.starts), 'minutes', e.minutes, 'rule', e.rule,
    'added', (select coalesce(jsonb_agg(pg_temp.wall(w) order by w), '[]') from unnest(e.added) w),
    'excepted', (select coalesce(jsonb_agg(pg_temp.wall(w) order by w), '[]') from unnest(e.excepted) w),
    'changes', (select coalesce(jsonb_agg(jsonb_build_object('recurrence', pg_temp.wall(d.recurrence),
                  'starts', pg_temp.wall(d.starts), 'minutes', d.minutes, 'title', d.title, 'note', d.note,
                  'place', nullif(d.place, u.place)) order by d.recurrence), '[]')
                  from of_date d where d.entry_id = e.id and e.rule is not null
                   and (d.starts is not null or d.minutes is not null or d.title is not null or d.note is not null
                        or d.place <> u.place)),
    'cancelled', (select coalesce(jsonb_agg(pg_temp.wall(v.recurrence) order by v.recurrence), '[]')
                    from override v where v.entry_id = e.id and v.cancelled)) as told
    from entry e left join usual u on u.entry_id = e.id
   where exists (select 1 from mail m where m.entry_id = e.id);

insert into telling (entry_id, told) select entry_id, told from told;
insert into letter (id, entry_id, person_id, guest_address, guest_name, number, method, sequence, version, recurrence, required,
                    about_id, told_id, actor_id, state, error, written_at, tried_at, sent_at)
  select m.id, m.entry_id, p.person_id, p.guest_address, p.guest_name,
         row_number() over (partition by m.participant_id order by m.sequence, m.written_at, m.id),
         m.method, m.sequence, e.version, m.recurrence, p.required, t.id,
         case when m.method = 'CANCEL' and m.recurrence is null then null else t.id end,
         m.actor_id, m.state, m.error, m.written_at,
         case when m.state = 'waiting' then null else m.written_at end, m.sent_at
    from mail m join participant p on p.id = m.participant_id join entry e on e.id = m.entry_id
    join telling t on t.entry_id = m.entry_id;
drop table mail;

-- An answer is to what its giver saw: to an older time than the one that is asked about now it is asked again, once that
-- is told.
alter table entry add column asked_version integer not null default 1;
alter table participant add column answered_version integer;
alter table attendance add column answered_version integer;
update participant p set answered_version = e.version from entry e where e.id = p.entry_id and p.answered_at is not null;

-- Which notices there are is said by the domains that write them.
alter table notice drop constraint notice_kind_check;
