import type { Arranged, Contact, ListedContact } from '@marmot/contract/contacts'
import type { Card } from '@marmot/core/contacts'
import { instantText } from '@marmot/core/time'
import { at, msSql, type Sql, together, wallSql } from '../platform/database.ts'

/** What is kept of a contact, besides whose it is. */
export type ContactState = Omit<Contact, 'id' | 'madeBy' | 'version' | 'lastAt'>

/** More than these nobody is shown at once. */
export const MOST_CONTACTS = 20_000
/** Of what was arranged with somebody so much is told, the newest. */
export const MOST_ARRANGED = 200

/** The name PostgreSQL gives the refusal of an address that another contact has. */
export const ADDRESS_TAKEN = 'contact_address_once'
/** That of a contact that came from a file and is there again. */
export const UID_TAKEN = 'contact_uid'

const ADDRESSES =
  'array(select x.address from contact_address x where x.contact_id = c.id order by x.place, x.address)'

const CONTACT = `c.id, c.name, c.organisation, c.telephone, c.zone, c.note, c.free_busy as "freeBusy", c.made_by as "madeBy", c.version,
  ${ADDRESSES} as addresses`

type Row = Omit<Contact, 'lastAt'> & { readonly lastAt: number | null }

const onWire = ({ lastAt, ...row }: Row): Contact => ({
  ...row,
  lastAt: lastAt === null ? null : new Date(lastAt).toISOString(),
})

/** SQL: of the contacts of $1 when something was or will be arranged with them last, by the entries in which they take part. */
const LAST = `(select x.contact_id, max(lower(a.span)) as last
  from contact_address x join participant p on p.guest_address = x.address
  join participant m on m.entry_id = p.entry_id and m.person_id = $1
  join attendance a on a.participant_id = m.id
 where x.person_id = $1 and not x.gone group by x.contact_id)`

/** Whether there is an address of which a contact of a person's is to be made. */
export const isContactDue = async (sql: Sql, personId: string): Promise<boolean> =>
  (await sql.query('select 1 from contact_due where person_id = $1 limit 1', [personId])).rowCount !== 0

/** Makes contacts of the addresses that are due: of one person, or of everybody. */
export const settleContacts = async (sql: Sql, personId: string | null, now: number): Promise<void> => {
  const made = await sql.query<{ id: string }>(
    `with due as (delete from contact_due where $1::uuid is null or person_id = $1 returning *),
     fresh as materialized (
       select gen_random_uuid() as id, person_id, address, max(name) as name from due d
        where not exists (select 1 from contact_address x where x.person_id = d.person_id and x.address = d.address and not x.gone)
        group by person_id, address),
     made as (
       insert into contact (id, person_id, uid, name, made_by, created_at, changed_at)
       select id, person_id, id::text, left(name, 200), 'invitation', $2, $2 from fresh),
     addressed as (
       insert into contact_address (contact_id, person_id, address, place)
       select id, person_id, address, 0 from fresh on conflict do nothing)
     select id from fresh`,
    [personId, at(now)],
  )
  // Whoever gave the address to a contact by hand in the same moment has it.
  if (made.rowCount)
    await sql.query(
      `delete from contact c where c.id = any($1)
          and not exists (select 1 from contact_address x where x.contact_id = c.id)`,
      [made.rows.map((row) => row.id)],
    )
}

interface Addressed {
  readonly address: string
  readonly place: number
}

const inPlace = (a: Addressed, b: Addressed): number => a.place - b.place || (a.address < b.address ? -1 : 1)

/**
 * A person's contacts, at most `most` and one more; whoever shows them puts them in order. Asked in three parts at once, and put
 * together here: joined and ordered by the database, five thousand took four times as long.
 */
export const readContacts = async (sql: Sql, personId: string, most: number): Promise<ListedContact[]> => {
  const [contacts, addresses, last] = await together([
    sql.query<Omit<ListedContact, 'addresses' | 'lastAt'>>(
      `select c.id, c.name, c.organisation, c.telephone, c.made_by as "madeBy" from contact c
        where c.person_id = $1 and c.deleted_at is null order by c.id limit $2`,
      [personId, most + 1],
    ),
    // As one text, since a row each took as long as the contacts themselves: an address has no space in it.
    sql.query<{ all: string | null }>(
      `select string_agg(contact_id || ' ' || place || ' ' || address, E'\n') as all
         from contact_address where person_id = $1 and not gone`,
      [personId],
    ),
    sql.query<{ contactId: string; last: number }>(
      `select l.contact_id as "contactId", ${msSql('l.last')} as last from ${LAST} l`,
      [personId],
    ),
  ])
  const first = new Map<string, Addressed>()
  const others = new Map<string, Addressed[]>()
  for (const line of addresses.rows[0]?.all?.split('\n') ?? []) {
    const [contactId = '', place, address = ''] = line.split(' ')
    const one: Addressed = { address, place: Number(place) }
    const known = first.get(contactId)
    if (!known) first.set(contactId, one)
    else {
      const more = others.get(contactId)
      if (more) more.push(one)
      else others.set(contactId, [known, one])
    }
  }
  const addressesOf = (id: string): string[] => {
    const several = others.get(id)
    if (several) return several.sort(inPlace).map((one) => one.address)
    const only = first.get(id)
    return only ? [only.address] : []
  }
  const lastOf = new Map(last.rows.map((row) => [row.contactId, instantText(row.last)]))
  return contacts.rows.map(({ id, name, organisation, telephone, madeBy }) => ({
    id,
    name,
    organisation,
    telephone,
    madeBy,
    addresses: addressesOf(id),
    lastAt: lastOf.get(id) ?? null,
  }))
}

/** One contact of a person's; null where there is none such. Locked where it is to be changed. */
export const readContact = async (
  sql: Sql,
  personId: string,
  contactId: string,
  lock = false,
): Promise<(Contact & { readonly deleted: boolean }) | null> => {
  const rows = await sql.query<Row & { deleted: boolean }>(
    `select ${CONTACT}, c.deleted_at is not null as deleted, null::float8 as "lastAt" from contact c
      where c.id = $2 and c.person_id = $1 ${lock ? 'for update of c' : ''}`,
    [personId, contactId],
  )
  const [row] = rows.rows
  return row ? { ...onWire(row), deleted: row.deleted } : null
}

/** Everything of a person's that was arranged with a contact or is about them, the newest first. */
export const readArranged = async (
  sql: Sql,
  personId: string,
  contactId: string,
  now: number,
): Promise<Arranged[]> => {
  const rows = await sql.query<{
    kind: Arranged['kind']
    id: string
    recurrence: string | null
    title: string
    start: number | null
    end: number | null
    done: boolean
  }>(
    `with known as (select address from contact_address where contact_id = $2),
     found as (
       select p.entry_id from participant p where p.guest_address in (select address from known)
       union select e.id from entry e where e.organizer_address in (select address from known)
       union select b.entry_id from about b where b.contact_id = $2 and b.entry_id is not null),
     dated as (
       select distinct on (m.entry_id) m.entry_id, a.occurrence_id, a.span
         from found f join participant m on m.entry_id = f.entry_id and m.person_id = $1
         join attendance a on a.participant_id = m.id
        order by m.entry_id, (upper(a.span) > $3) desc, case when upper(a.span) > $3 then lower(a.span) end, lower(a.span) desc)
     select case when exists (select 1 from participant x where x.entry_id = e.id and not x.organizer)
                   or e.organizer_address is not null then 'meeting' else 'entry' end as kind,
            e.id, ${wallSql('o.recurrence')} as recurrence, coalesce(v.title, e.title) as title,
            ${msSql('lower(d.span)')} as start, ${msSql('upper(d.span)')} as end, false as done
       from dated d join entry e on e.id = d.entry_id and e.deleted_at is null join occurrence o on o.id = d.occurrence_id
       left join override v on v.entry_id = e.id and v.recurrence = o.recurrence
     union all
     select 'todo', t.id, null, t.title, ${msSql('t.due at time zone t.zone')}, null, t.done_at is not null
       from about b join todo t on t.id = b.todo_id and t.deleted_at is null and (t.owner_id = $1 or t.given_to = $1)
      where b.contact_id = $2
     order by start desc nulls first limit ${MOST_ARRANGED + 1}`,
    [personId, contactId, at(now)],
  )
  const instant = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString())
  return rows.rows.map((row) => ({ ...row, start: instant(row.start), end: instant(row.end) }))
}

/** Gives a contact its addresses, in their order. The database refuses one that another of the person's has (`ADDRESS_TAKEN`). */
const putAddresses = async (
  sql: Sql,
  personId: string,
  contactId: string,
  addresses: readonly string[],
): Promise<void> => {
  await sql.query('delete from contact_address where contact_id = $1', [contactId])
  await sql.query(
    `insert into contact_address (contact_id, person_id, address, place)
     select $1, $2, address, place from unnest($3::text[]) with ordinality g(address, place)`,
    [contactId, personId, addresses],
  )
}

/** Makes a contact. */
export const insertContact = async (
  sql: Sql,
  personId: string,
  state: ContactState,
  from: { readonly madeBy: 'hand' | 'file'; readonly uid: string | null; readonly changedAt: number | null },
  now: number,
): Promise<string> => {
  const rows = await sql.query<{ id: string }>(
    `insert into contact (person_id, uid, name, organisation, telephone, zone, note, free_busy, made_by, source_changed_at, created_at, changed_at)
     values ($1, coalesce($2, gen_random_uuid()::text), $3, $4, $5, $6, $7, $8, $9, $10, $11, $11) returning id`,
    [
      personId,
      from.uid,
      state.name,
      state.organisation,
      state.telephone,
      state.zone,
      state.note,
      state.freeBusy,
      from.madeBy,
      from.changedAt === null ? null : at(from.changedAt),
      at(now),
    ],
  )
  const id = rows.rows[0]?.id ?? ''
  await putAddresses(sql, personId, id, state.addresses)
  return id
}

/** Changes a contact, which has another version then. */
export const updateContact = async (
  sql: Sql,
  personId: string,
  contactId: string,
  state: ContactState,
  sourceChangedAt: number | null,
  now: number,
): Promise<void> => {
  await sql.query(
    `update contact set name = $2, organisation = $3, telephone = $4, zone = $5, note = $6, free_busy = $7,
        source_changed_at = coalesce($8, source_changed_at), version = version + 1, changed_at = $9 where id = $1`,
    [
      contactId,
      state.name,
      state.organisation,
      state.telephone,
      state.zone,
      state.note,
      state.freeBusy,
      sourceChangedAt === null ? null : at(sourceChangedAt),
      at(now),
    ],
  )
  await putAddresses(sql, personId, contactId, state.addresses)
}

/** Deletes a contact, or brings it back with those of its addresses that no other has meanwhile. */
export const setContactDeleted = async (
  sql: Sql,
  contactId: string,
  deleted: boolean,
  now: number,
): Promise<void> => {
  await sql.query(
    'update contact set deleted_at = case when $2 then $3::timestamptz end, version = version + 1, changed_at = $3 where id = $1',
    [contactId, deleted, at(now)],
  )
  if (!deleted)
    await sql.query(
      `delete from contact_address g where g.contact_id = $1 and exists (
         select 1 from contact_address x where x.person_id = g.person_id and x.address = g.address and not x.gone and x.contact_id <> $1)`,
      [contactId],
    )
  await sql.query('update contact_address set gone = $2 where contact_id = $1', [contactId, deleted])
}

/** Those of some addresses that are colleagues', with their names. */
export const colleaguesAt = async (
  sql: Sql,
  addresses: readonly string[],
): Promise<{ readonly address: string; readonly name: string }[]> =>
  (
    await sql.query<{ address: string; name: string }>(
      'select address, name from person where address = any($1)',
      [addresses],
    )
  ).rows

/** Who of a person's contacts has one of some addresses. */
export const holdersOf = async (
  sql: Sql,
  personId: string,
  addresses: readonly string[],
): Promise<{ readonly address: string; readonly name: string; readonly contactId: string }[]> =>
  (
    await sql.query<{ address: string; name: string; contactId: string }>(
      `select x.address, c.name, c.id as "contactId" from contact_address x join contact c on c.id = x.contact_id
        where x.person_id = $1 and not x.gone and x.address = any($2)`,
      [personId, addresses],
    )
  ).rows

/** A person's contacts as cards, with their ids and versions here. */
export const cardsOf = async (
  sql: Sql,
  personId: string,
): Promise<{ readonly id: string; readonly card: Card }[]> =>
  (
    await sql.query<Omit<Card, 'changedAt'> & { id: string; changedAt: number | null }>(
      `select c.id, c.uid, c.name, c.organisation, c.telephone, c.zone, c.note, c.free_busy as "freeBusy",
              ${msSql('c.source_changed_at')} as "changedAt", ${ADDRESSES} as addresses
         from contact c where c.person_id = $1 and c.deleted_at is null order by lower(c.name), c.id limit ${MOST_CONTACTS}`,
      [personId],
    )
  ).rows.map(({ id, ...card }) => ({ id, card }))

/** Whether an entry or a to-do is somebody's to say something of: an entry in which they take part, a to-do that they have. */
const MINE = {
  entry: 'select 1 from participant where entry_id = $1 and person_id = $2',
  todo: 'select 1 from todo where id = $1 and deleted_at is null and (owner_id = $2 or given_to = $2)',
} as const

export const isMine = async (
  sql: Sql,
  kind: keyof typeof MINE,
  id: string,
  personId: string,
): Promise<boolean> => (await sql.query(MINE[kind], [id, personId])).rowCount === 1

/** Which of a person's contacts an entry or a to-do is about, by name. */
export const readAbout = async (
  sql: Sql,
  personId: string,
  subject: { readonly kind: 'entry' | 'todo'; readonly id: string },
): Promise<{ id: string; name: string }[]> => {
  const column = subject.kind === 'entry' ? 'entry_id' : 'todo_id'
  const rows = await sql.query<{ id: string; name: string }>(
    `select c.id, c.name from about b join contact c on c.id = b.contact_id
      where b.${column} = $2 and c.person_id = $1 and c.deleted_at is null order by lower(c.name)`,
    [personId, subject.id],
  )
  return rows.rows
}

/** A person's contacts whose name, organisation, notes or addresses have words that begin so, by name. */
export const findContacts = async (
  sql: Sql,
  personId: string,
  words: readonly string[],
  most: number,
): Promise<{ id: string; name: string; organisation: string }[]> => {
  const asked = words
    .map(
      (
        _,
        i,
      ) => `(c.words || coalesce((select to_tsvector('simple', plain(string_agg(translate(x.address, '@.-_', '    '), ' ')))
          from contact_address x where x.contact_id = c.id), '')) @@ to_tsquery('simple', quote_literal(plain($${i + 3}::text)) || ':*')`,
    )
    .join(' and ')
  const rows = await sql.query<{ id: string; name: string; organisation: string }>(
    `select c.id, c.name, c.organisation from contact c
      where c.person_id = $1 and c.deleted_at is null and ${asked} order by lower(c.name) limit $2`,
    [personId, most, ...words],
  )
  return rows.rows
}

/** Says that an entry or a to-do is about a contact, or is not. */
export const putAbout = async (
  sql: Sql,
  contactId: string,
  subject: { readonly kind: 'entry' | 'todo'; readonly id: string },
  about: boolean,
): Promise<void> => {
  const column = subject.kind === 'entry' ? 'entry_id' : 'todo_id'
  if (about)
    await sql.query(`insert into about (contact_id, ${column}) values ($1, $2) on conflict do nothing`, [
      contactId,
      subject.id,
    ])
  else await sql.query(`delete from about where contact_id = $1 and ${column} = $2`, [contactId, subject.id])
}
