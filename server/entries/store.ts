import { randomUUID } from 'node:crypto'
import type { Attachment, EntryOnWire, OccurrenceOnWire } from '@marmot/contract/entries'
import {
  type Answer,
  detailFor,
  type Looking,
  mayChange,
  type SpanState,
  stateOnLane,
} from '@marmot/core/sharing'
import { instantText } from '@marmot/core/time'
import { at, endMs, type Sql, startMs, together, wallSql } from '../platform/database.ts'

interface Row {
  entryId: string
  recurrence: string
  start: number
  end: number
  zone: string
  allDay: boolean
  title: string
  place: string
  shows: SpanState
  answer: Answer
  repeats: boolean
  changed: boolean
  meeting: boolean
  own: boolean
  private: boolean
  categoryId: string | null
  attached: boolean
  version: number
}

const OCCURRENCE = `e.id as "entryId", o.recurrence::text as recurrence, ${startMs('o.span')} as start,
  ${endMs('o.span')} as end, e.zone, e.all_day as "allDay", coalesce(v.title, e.title) as title,
  coalesce(v.place, e.place) as place, coalesce(v.shows, e.shows) as shows,
  (e.rule is not null or e.added <> '{}') as repeats, v.entry_id is not null as changed,
  coalesce(v.private, e.private) as private, e.version`

/** Whether others take part, and whether files are attached: sets that are small beside the entries. */
const COMPANY = `exists (select 1 from participant x where x.entry_id = e.id and not x.organizer) as meeting,
  exists (select 1 from attachment t where t.entry_id = e.id and t.removed_at is null) as attached`

/** PostgreSQL's text of a wall time in the contract's form; its own `to_char` took a tenth of the whole query. */
const wallOfStamp = (stamp: string): string => `${stamp.slice(0, 10)}T${stamp.slice(11, 16)}`

const NOWHERE = '00000000-0000-0000-0000-000000000000'

const NOTHING_TOLD = {
  entryId: NOWHERE,
  title: '',
  place: '',
  categoryId: null,
  attached: false,
  meeting: false,
  own: false,
}

/** A row as it travels: field by field, since a year has thousands, and spreading each took longer than reading it. */
const onWire = (row: Row, hidden: boolean): OccurrenceOnWire => {
  const told: OccurrenceOnWire = {
    entryId: row.entryId,
    recurrence: wallOfStamp(row.recurrence),
    start: instantText(row.start),
    end: instantText(row.end),
    zone: row.zone,
    allDay: row.allDay,
    title: row.title,
    place: row.place,
    shows: row.shows,
    state: stateOnLane(row.shows, row.answer),
    answer: row.answer,
    repeats: row.repeats,
    changed: row.changed,
    meeting: row.meeting,
    own: row.own,
    private: row.private,
    categoryId: row.categoryId,
    attached: row.attached,
    hidden,
    version: row.version,
  }
  return hidden ? { ...told, ...NOTHING_TOLD } : told
}

/**
 * The dates on a person's own lane in `[from, to)`, in order, as far as somebody looking may see them. Declined ones
 * are there with no state, so that they can be found again; a hold that has lapsed by `now` is not.
 */
export const ownOccurrences = async (
  sql: Sql,
  personId: string,
  from: number,
  to: number,
  looking: Pick<Looking, 'level' | 'owns'>,
  now: number,
): Promise<OccurrenceOnWire[]> => {
  const rows = await sql.query<Row>(
    `select ${OCCURRENCE}, a.answer, e.owner_id = a.person_id as own, p.category_id as "categoryId", ${COMPANY}
       from attendance a
       join occurrence o on o.id = a.occurrence_id
       join entry e on e.id = o.entry_id
       join participant p on p.id = a.participant_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where a.person_id = $1 and a.span && tstzrange($2, $3) and (e.lapses_at is null or e.lapses_at > $4)
      order by lower(a.span), e.id`,
    [personId, at(from), at(to), at(now)],
  )
  const through = { ...looking, participates: false }
  return rows.rows.map((row) => onWire(row, detailFor(row, through) !== 'everything'))
}

/** What an entry is made of, besides whose it is. Walls as `YYYY-MM-DDTHH:mm` in `zone`. */
export interface EntryState {
  readonly zone: string
  readonly starts: string
  readonly minutes: number
  readonly allDay: boolean
  readonly rule: string | null
  readonly added: readonly string[]
  readonly excepted: readonly string[]
  readonly title: string
  readonly place: string
  readonly note: string
  readonly shows: SpanState
  readonly private: boolean
}

/** An entry as it is kept, locked until the transaction ends. */
export interface KeptEntry extends EntryState {
  readonly id: string
  readonly ownerId: string
  readonly owner: string
  readonly version: number
  readonly deleted: boolean
  readonly meeting: boolean
}

const wallsSql = (column: string) => `array(select ${wallSql('w')} from unnest(${column}) w order by w)`

/** An entry by its id; a hold that has lapsed by `now` counts as deleted, though its job has not come yet. */
export const readKept = async (
  sql: Sql,
  entryId: string,
  now: number,
  lock: boolean,
): Promise<KeptEntry | null> =>
  (
    await sql.query<KeptEntry>(
      `select e.id, e.owner_id as "ownerId", w.name as owner, e.version, e.zone, ${wallSql('e.starts')} as starts,
              e.minutes, e.all_day as "allDay", e.rule, ${wallsSql('e.added')} as added,
              ${wallsSql('e.excepted')} as excepted, e.title, e.place, e.note, e.shows, e.private,
              (e.deleted_at is not null or e.lapses_at is not null and e.lapses_at <= $2) as deleted,
              exists (select 1 from participant x where x.entry_id = e.id and not x.organizer) as meeting
         from entry e join person w on w.id = e.owner_id where e.id = $1 ${lock ? 'for update of e' : ''}`,
      [entryId, at(now)],
    )
  ).rows[0] ?? null

export interface KeptOverride {
  readonly recurrence: string
  readonly cancelled: boolean
  readonly starts: string | null
  readonly minutes: number | null
  readonly title: string | null
  readonly place: string | null
  readonly note: string | null
  readonly shows: SpanState | null
  readonly private: boolean | null
}

export const readOverrides = async (sql: Sql, entryId: string): Promise<KeptOverride[]> =>
  (
    await sql.query<KeptOverride>(
      `select ${wallSql('recurrence')} as recurrence, cancelled, ${wallSql('starts')} as starts, minutes, title, place,
              note, shows, private from override where entry_id = $1 order by recurrence`,
      [entryId],
    )
  ).rows

/** Puts overrides in place of whatever overrides an entry has. */
export const replaceOverrides = async (
  sql: Sql,
  entryId: string,
  overrides: readonly KeptOverride[],
): Promise<void> => {
  const gone = sql.query('delete from override where entry_id = $1', [entryId])
  if (overrides.length === 0) {
    await gone
    return
  }
  const made = sql.query(
    `insert into override (entry_id, recurrence, cancelled, starts, minutes, title, place, note, shows, private)
     select $1, * from unnest($2::timestamp[], $3::boolean[], $4::timestamp[], $5::integer[], $6::text[], $7::text[],
                              $8::text[], $9::text[], $10::boolean[])`,
    [
      entryId,
      overrides.map((one) => one.recurrence),
      overrides.map((one) => one.cancelled),
      overrides.map((one) => one.starts),
      overrides.map((one) => one.minutes),
      overrides.map((one) => one.title),
      overrides.map((one) => one.place),
      overrides.map((one) => one.note),
      overrides.map((one) => one.shows),
      overrides.map((one) => one.private),
    ],
  )
  await together([gone, made])
}

export const readAttachments = async (sql: Sql, entryId: string): Promise<Attachment[]> =>
  (
    await sql.query<Attachment>(
      'select id, name, type, size from attachment where entry_id = $1 and removed_at is null order by at, name',
      [entryId],
    )
  ).rows

/**
 * An entry whole, seen from one of its dates by somebody who may see everything of that date; null when they may not, or
 * when there is none. It is shown as it stands on the lane of `laneOf`: with their category, reminders and answer.
 */
export const readWhole = async (
  sql: Sql,
  entryId: string,
  recurrence: string | undefined,
  laneOf: string,
  looking: Looking,
  now: number,
): Promise<EntryOnWire | null> => {
  const kept = await readKept(sql, entryId, now, false)
  if (!kept || kept.deleted) return null
  const rows = await sql.query<
    Row & { note: string; reminders: number[] | null; contacts: { name: string; address: string }[] }
  >(
    `select ${OCCURRENCE}, p.answer, e.owner_id = p.person_id as own, p.category_id as "categoryId", ${COMPANY},
            coalesce(v.note, e.note) as note, p.reminders, e.contacts
       from entry e join occurrence o on o.entry_id = e.id
       join participant p on p.entry_id = e.id and p.person_id = $3
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where e.id = $1 and ($2::timestamp is null or o.recurrence = $2) order by o.recurrence limit 1`,
    [entryId, recurrence ?? null, laneOf],
  )
  const [row] = rows.rows
  if (!row || detailFor(row, looking) !== 'everything') return null
  const { note, reminders, contacts, ...date } = row
  return {
    ...onWire(date, false),
    ownerId: kept.ownerId,
    owner: kept.owner,
    mayChange: mayChange(row, looking) && !kept.meeting,
    note,
    reminders,
    contacts,
    seriesStarts: kept.starts,
    seriesMinutes: kept.minutes,
    repetition: { rule: kept.rule, added: [...kept.added], excepted: [...kept.excepted] },
    overrides: (await readOverrides(sql, entryId)).map(({ recurrence, cancelled, starts, minutes }) => ({
      recurrence,
      cancelled,
      starts,
      minutes,
    })),
    attachments: await readAttachments(sql, entryId),
  }
}

const stateValues = (state: EntryState): unknown[] => [
  state.zone,
  state.starts,
  state.minutes,
  state.allDay,
  state.rule,
  state.added,
  state.excepted,
  state.title,
  state.place,
  state.note,
  state.shows,
  state.private,
]

/** Makes an entry with its owner as its organizer. Occurrences are the caller's to write once all take part. */
export const insertEntry = async (
  sql: Sql,
  ownerId: string,
  state: EntryState,
  now: number,
  id: string = randomUUID(),
): Promise<string> => {
  await sql.query(
    `with made as (
       insert into entry (id, uid, owner_id, created_at, zone, starts, minutes, all_day, rule, added, excepted, title,
                          place, note, shows, private)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16) returning id, owner_id)
     insert into participant (entry_id, person_id, organizer, answer) select id, owner_id, true, 'accepted' from made`,
    [id, id, ownerId, at(now), ...stateValues(state)],
  )
  return id
}

/** Changes an entry whole. */
export const updateEntry = async (sql: Sql, entryId: string, state: EntryState): Promise<void> => {
  await sql.query(
    `update entry set zone = $2, starts = $3, minutes = $4, all_day = $5, rule = $6, added = $7, excepted = $8,
            title = $9, place = $10, note = $11, shows = $12, private = $13 where id = $1`,
    [entryId, ...stateValues(state)],
  )
}

/** Keeps a person's own category and reminders of an entry. False when they do not take part, or it is not theirs. */
export const setOwn = async (
  sql: Sql,
  entryId: string,
  personId: string,
  own: { categoryId: string | null; reminders: readonly number[] | null },
): Promise<boolean> =>
  ((
    await sql.query(
      `update participant set reminders = $4,
              category_id = (select id from category where id = $3 and person_id = $2)
        where entry_id = $1 and person_id = $2`,
      [entryId, personId, own.categoryId, own.reminders],
    )
  ).rowCount ?? 0) > 0

/** Files of one entry belong to its continuation too. */
export const copyAttachments = async (sql: Sql, fromId: string, toId: string): Promise<void> => {
  await sql.query(
    `insert into attachment (entry_id, name, type, content, added_by, at)
     select $2, name, type, content, added_by, at from attachment where entry_id = $1 and removed_at is null`,
    [fromId, toId],
  )
}

export const setDeleted = async (sql: Sql, entryId: string, now: number): Promise<void> => {
  await sql.query('update entry set deleted_at = $2 where id = $1', [entryId, at(now)])
}

export const nextVersion = async (sql: Sql, entryId: string): Promise<number> => {
  const rows = await sql.query<{ version: number }>(
    'update entry set version = version + 1 where id = $1 returning version',
    [entryId],
  )
  return rows.rows[0]?.version ?? 0
}

export const isOccurrence = async (sql: Sql, entryId: string, recurrence: string): Promise<boolean> =>
  ((
    await sql.query('select 1 from occurrence where entry_id = $1 and recurrence = $2', [entryId, recurrence])
  ).rowCount ?? 0) > 0
