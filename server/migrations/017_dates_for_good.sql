-- Up Migration
-- A date has its name for good: an occurrence keeps its id when its series is moved, split or changed, and stays, gone,
-- when the series gives it no more, so that whatever belongs to a date can refer to it. Names are random from now on;
-- the dates of before get one made of their number (a UUID of version 8, RFC 9562 section 5.8), since that rewrites each
-- table once and joins nothing.
create function pg_temp.named(number bigint) returns uuid language sql immutable as
  $$ select ('00000000-0000-8000-8000-' || lpad(to_hex(number), 12, '0'))::uuid $$;

alter table attendance drop constraint attendance_occurrence_id_fkey;
alter table reminder drop constraint reminder_occurrence_id_fkey;

alter table occurrence alter column id drop identity;
alter table occurrence
  alter column id type uuid using pg_temp.named(id),
  alter column id set default gen_random_uuid(),
  -- Since when the series gives this date no more.
  add column gone_at timestamptz,
  drop constraint occurrence_entry_id_recurrence_key,
  -- One that stands for each wall time; of those that are gone there may be several. Checked at the end of each statement:
  -- the dates of a series that moves by a week pass over one another's places.
  add constraint occurrence_once unique nulls not distinct (entry_id, recurrence, gone_at) deferrable initially immediate;
alter table attendance alter column occurrence_id type uuid using pg_temp.named(occurrence_id);
alter table attendance add constraint attendance_occurrence_id_fkey
  foreign key (occurrence_id) references occurrence on delete cascade;

-- A reminder is of somebody's date: who they are in the entry may change, as when its series is split.
alter table reminder
  alter column occurrence_id type uuid using pg_temp.named(occurrence_id),
  drop constraint reminder_occurrence_id_participant_id_due_at_key,
  drop column participant_id,
  add constraint reminder_once unique (occurrence_id, person_id, due_at),
  add constraint reminder_occurrence_id_fkey foreign key (occurrence_id) references occurrence;
drop index reminder_occurrence;

-- A place is reserved for a date. Those whose date is gone (cancelled, or more than 400 days ago) get it back first.
insert into occurrence (entry_id, recurrence, span, gone_at)
  select distinct on (r.entry_id, r.recurrence) r.entry_id, r.recurrence, r.span, now() from reservation r
   where r.entry_id is not null and r.recurrence is not null
     and not exists (select 1 from occurrence o where o.entry_id = r.entry_id and o.recurrence = r.recurrence);
alter table reservation add column occurrence_id uuid references occurrence;
update reservation r set occurrence_id = o.id
  from occurrence o where o.entry_id = r.entry_id and o.recurrence = r.recurrence;
alter table reservation drop column entry_id, drop column recurrence;
create index occurrence_gone on occurrence (gone_at) where gone_at is not null;
create index reservation_occurrence on reservation (occurrence_id) where occurrence_id is not null;

-- So is a notice about one date.
alter table notice add column occurrence_id uuid references occurrence;
insert into occurrence (entry_id, recurrence, span, gone_at)
  select distinct e.id, n.recurrence,
         tstzrange(n.recurrence at time zone e.zone, (n.recurrence at time zone e.zone) + e.minutes * interval '1 minute'),
         now()
    from notice n join entry e on e.id = n.entry_id
   where n.recurrence is not null
     and not exists (select 1 from occurrence o where o.entry_id = n.entry_id and o.recurrence = n.recurrence);
update notice n set occurrence_id = o.id
  from occurrence o where o.entry_id = n.entry_id and o.recurrence = n.recurrence;
alter table notice drop column recurrence;
create index notice_occurrence on notice (occurrence_id) where occurrence_id is not null;

-- What a change keeps of an entry is all of it from now on: its people with their answers, its dates by their names, its
-- places. What was kept before knew the owner's category and reminders alone; the people are those of today.
update change c set entries = (
  select jsonb_agg(
    case when t.one -> 'was' is null or t.one -> 'was' = 'null' then t.one else
      t.one || jsonb_build_object('was', (t.one -> 'was') - 'own' || jsonb_build_object(
        'people', coalesce((
          select jsonb_agg(to_jsonb(p) || case when p.organizer and t.one #> '{was,own}' is not null
                                               then t.one #> '{was,own}' else '{}' end)
            from participant p where p.entry_id = (t.one ->> 'id')::uuid), '[]'),
        'dates', '[]'::jsonb, 'answers', '[]'::jsonb, 'places', '[]'::jsonb))
    end order by t.at)
    from jsonb_array_elements(c.entries) with ordinality t(one, at))
 where c.entries <> '[]';
