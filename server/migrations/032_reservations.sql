-- Up Migration
-- A reservation without a meeting is an entry of its person that has places and nobody else: it repeats, moves, is undone,
-- shared and told like any other. Those that stood alone become such entries, at the clock of their place; on their
-- person's lane they take no time.
alter table entry
  -- What the places are for, in a few words, for whoever looks after them.
  add column purpose text not null default '',
  -- How many will be there, where somebody said so.
  add column head_count integer check (head_count between 1 and 10000),
  -- Whom whoever looks after the places can ask: {name, address, telephone}.
  add column contact jsonb;
-- What somebody gave as their contact last is offered the next time.
alter table person add column contact jsonb;

-- Those that were released refer to nothing, and nothing refers to them.
delete from reservation where occurrence_id is null and state = 'released';

create temp table alone on commit drop as
  select r.id, gen_random_uuid() as entry_id, gen_random_uuid() as occurrence_id, gen_random_uuid() as participant_id,
         r.person_id, r.span, r.state, r.lapses_at, coalesce(nullif(r.purpose, ''), p.name) as title, s.zone,
         date_trunc('minute', lower(r.span) at time zone s.zone) as starts,
         greatest(1, ceil(extract(epoch from upper(r.span) - lower(r.span)) / 60))::integer as minutes
    from reservation r join resource p on p.id = r.resource_id join site s on s.id = p.site_id
   where r.occurrence_id is null;

insert into entry (id, uid, owner_id, zone, starts, minutes, title, shows, lapses_at, created_at)
  select entry_id, entry_id::text, person_id, zone, starts, minutes, title,
         case state when 'held' then 'held' else 'listed' end, lapses_at, now() from alone;
insert into participant (id, entry_id, person_id, organizer, answer)
  select participant_id, entry_id, person_id, true, 'accepted' from alone;
insert into occurrence (id, entry_id, recurrence, span) select occurrence_id, entry_id, starts, span from alone;
insert into attendance (occurrence_id, participant_id, person_id, span, answer, shows)
  select occurrence_id, participant_id, person_id, span, 'accepted',
         case state when 'held' then 'held' else 'listed' end from alone;
update reservation r set occurrence_id = a.occurrence_id from alone a where a.id = r.id;

alter table reservation alter column occurrence_id set not null, drop column purpose;
drop index reservation_occurrence;
create index reservation_occurrence on reservation (occurrence_id);
