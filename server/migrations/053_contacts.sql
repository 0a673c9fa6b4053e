-- Up Migration
-- The people outside with whom somebody has to do: each person's own, made by themselves from those whom they invite or who
-- invite them, or by hand.
create table contact (
  id uuid primary key default gen_random_uuid(),
  person_id uuid not null references person on delete cascade,
  -- Names it in files (RFC 6350 UID), for good.
  uid text not null,
  name text not null check (name <> ''),
  organisation text not null default '',
  telephone text not null default '',
  zone text,
  note text not null default '',
  -- Where their free/busy times can be read.
  free_busy text,
  made_by text not null check (made_by in ('invitation', 'hand', 'file')),
  -- Of what came in a file, when it was last changed there (RFC 6350 REV).
  source_changed_at timestamptz,
  version integer not null default 1,
  deleted_at timestamptz,
  created_at timestamptz not null,
  changed_at timestamptz not null,
  words tsvector generated always as (words_of(name, organisation, note)) stored
);
create index contact_person on contact (person_id) where deleted_at is null;
create unique index contact_uid on contact (person_id, uid) where deleted_at is null;

create table contact_address (
  contact_id uuid not null references contact on delete cascade,
  -- A copy, so that nobody has one address with two contacts.
  person_id uuid not null references person on delete cascade,
  address text not null check (address = lower(address)),
  place smallint not null,
  -- Its contact was deleted, and may come back.
  gone boolean not null default false,
  primary key (contact_id, address)
);
create unique index contact_address_once on contact_address (person_id, address) where not gone;

-- Whom an entry or a to-do is about, beside those who take part.
create table about (
  contact_id uuid not null references contact on delete cascade,
  entry_id uuid references entry on delete cascade,
  todo_id uuid references todo on delete cascade,
  check ((entry_id is null) <> (todo_id is null)),
  unique nulls not distinct (contact_id, entry_id, todo_id)
);
create index about_entry on about (entry_id) where entry_id is not null;
create index about_todo on about (todo_id) where todo_id is not null;

create index participant_guest on participant (guest_address) where guest_address is not null;
create index entry_organizer_address on entry (organizer_address) where organizer_address is not null;

-- Addresses of which contacts are to be made. Nothing waits for another here: whoever sends a meeting holds locks on other things,
-- and two who made the same contact at once could wait for one another for ever.
create table contact_due (
  person_id uuid not null references person on delete cascade,
  address text not null,
  name text not null
);
create index contact_due_person on contact_due (person_id);

-- An address that somebody invites, or that invites them, is to be a contact of theirs, unless it is one or a colleague's.
create function note_contact(whose uuid, given text, called text) returns void language sql as $$
  insert into contact_due (person_id, address, name)
  select whose, given, coalesce(nullif(trim(called), ''), given)
   where not exists (select 1 from person where address = given)
     and not exists (select 1 from contact_address where person_id = whose and address = given and not gone)
$$;

create function note_guest() returns trigger language plpgsql as $$
begin
  perform note_contact(e.owner_id, new.guest_address, new.guest_name) from entry e
    where e.id = new.entry_id and e.organizer_address is null;
  return null;
end $$;
create trigger participant_contact after insert on participant
  for each row when (new.guest_address is not null) execute function note_guest();

create function note_organizer() returns trigger language plpgsql as $$
begin
  perform note_contact(new.owner_id, new.organizer_address, new.organizer_name);
  return null;
end $$;
create trigger entry_contact after insert or update of organizer_address on entry
  for each row when (new.organizer_address is not null) execute function note_organizer();

select note_contact(e.owner_id, p.guest_address, max(p.guest_name))
  from participant p join entry e on e.id = p.entry_id
 where p.guest_address is not null and e.organizer_address is null group by e.owner_id, p.guest_address;
select note_contact(e.owner_id, e.organizer_address, max(e.organizer_name))
  from entry e where e.organizer_address is not null group by e.owner_id, e.organizer_address;
