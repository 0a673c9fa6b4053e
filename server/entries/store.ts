import { randomUUID } from 'node:crypto'
import type { EntryOnWire, OccurrenceOnWire } from '@marmot/contract/entries'
import {
  type Answer,
  detailFor,
  type Looking,
  mayChange,
  type SpanState,
  stateOnLane,
} from '@marmot/core/sharing'
import { instantText } from '@marmot/core/time'
import { readOffOf } from '../holidays/index.ts'
import { at, endMs, type Sql, startMs, together } from '../platform/database.ts'
import { readAttachments } from './attachments.ts'
import { takesPartSql } from './dates.ts'
import { elsewhereOf } from './elsewhere.ts'
import {
  changedRow,
  columnsOf,
  ENTRY_COLUMNS,
  type EntryState,
  entryRow,
  type KeptOverride,
  type NewOverride,
  OVERRIDE_COLUMNS,
  overrideRow,
  readEntrySql,
  readOverrideSql,
} from './fields.ts'
import { isPlaced, outdoorsAt, type PlacesByDate, placesOf, placesOnLane, whereOf } from './places.ts'

interface Row {
  occurrenceId: string
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
  outdoorsSaid: string | null
  categoryId: string | null
  attached: boolean
  version: number
}

/** How many of those invited to a date of one's own meeting have answered. */
type AnsweredByDate = ReadonlyMap<string, { said: number; asked: number }>

const OCCURRENCE = `o.id as "occurrenceId", e.id as "entryId", o.recurrence::text as recurrence, ${startMs('o.span')} as start,
  ${endMs('o.span')} as end, e.zone, e.all_day as "allDay", coalesce(v.title, e.title) as title,
  coalesce(v.place, e.place) as place, coalesce(v.shows, e.shows) as shows,
  (e.rule is not null or e.added <> '{}') as repeats, v.entry_id is not null as changed,
  coalesce(v.private, e.private) as private, e.outdoors_site_id as "outdoorsSaid", e.version`

/** SQL: whether others take part in an entry, can join it, or somebody outside organizes it: a meeting. */
export const isMeetingSql = (entry: string): string =>
  `(${entry}.organizer_address is not null or ${entry}.conference is not null or exists (
      select 1 from participant x where x.entry_id = ${entry}.id and not x.organizer))`

/** Whether others take part, and whether files are attached: sets that are small beside the entries. */
const COMPANY = `${isMeetingSql('e')} as meeting,
  exists (select 1 from attachment t where t.entry_id = e.id and t.removed_at is null) as attached`

/** PostgreSQL's text of a wall time in the contract's form; its own `to_char` took a tenth of the whole query. */
const wallOfStamp = (stamp: string): string => `${stamp.slice(0, 10)}T${stamp.slice(11, 16)}`

const NOWHERE = '00000000-0000-0000-0000-000000000000'

const NOTHING_TOLD = {
  entryId: NOWHERE,
  title: '',
  place: '',
  outdoors: null,
  categoryId: null,
  attached: false,
  answered: null,
  meeting: false,
  reserved: false,
  own: false,
}

/** A row as it travels: field by field, since a year has thousands, and spreading each took longer than reading it. */
const onWire = (
  row: Row,
  places: PlacesByDate,
  answered: AnsweredByDate,
  hidden: boolean,
): OccurrenceOnWire => {
  const told: OccurrenceOnWire = {
    entryId: row.entryId,
    recurrence: wallOfStamp(row.recurrence),
    start: instantText(row.start),
    end: instantText(row.end),
    zone: row.zone,
    allDay: row.allDay,
    title: row.title,
    place: whereOf(places, row.occurrenceId, row.place),
    shows: row.shows,
    state: stateOnLane(row.shows, row.answer),
    answer: row.answer,
    answered: answered.get(row.occurrenceId) ?? null,
    repeats: row.repeats,
    changed: row.changed,
    meeting: row.meeting,
    reserved: isPlaced(places, row.occurrenceId),
    own: row.own,
    private: row.private,
    outdoors: outdoorsAt(places, row.occurrenceId, row.outdoorsSaid),
    categoryId: row.categoryId,
    attached: row.attached,
    hidden,
    version: row.version,
  }
  return hidden ? { ...told, ...NOTHING_TOLD } : told
}

/** Answers are counted where blocks have words, and in no longer range: nine weeks, in milliseconds. */
const COUNTED_MS = 63 * 86_400_000

/**
 * How many have answered, of each date of a person's own meetings in `[from, to)` that ask for answers. Whoever keeps their answer
 * to themselves has not answered, here as elsewhere.
 */
const answeredOnLane = async (
  sql: Sql,
  personId: string,
  from: number,
  to: number,
): Promise<AnsweredByDate> => {
  if (to - from > COUNTED_MS) return new Map()
  const { rows } = await sql.query<{ id: string; said: number; asked: number }>(
    `select a.occurrence_id as id, count(*) filter (
              where x.answer <> 'needs-action'
                and not case when x.answered_at is null then y.quiet else x.quiet end)::int as said, count(*)::int as asked
       from attendance a
       join participant p on p.id = a.participant_id and p.organizer
       join entry e on e.id = p.entry_id and e.rsvp
       join attendance x on x.occurrence_id = a.occurrence_id and x.participant_id <> a.participant_id
       join participant y on y.id = x.participant_id
      where a.person_id = $1 and a.span && tstzrange($2, $3)
      group by a.occurrence_id`,
    [personId, at(from), at(to)],
  )
  return new Map(rows.map(({ id, said, asked }) => [id, { said, asked }]))
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
  const [rows, places, answered] = await together([
    sql.query<Row>(
      `select ${OCCURRENCE}, a.answer, (e.owner_id = a.person_id and e.organizer_address is null) as own, p.category_id as "categoryId", ${COMPANY}
       from attendance a
       join occurrence o on o.id = a.occurrence_id
       join entry e on e.id = o.entry_id
       join participant p on p.id = a.participant_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where a.person_id = $1 and a.span && tstzrange($2, $3) and (e.lapses_at is null or e.lapses_at > $4)
      order by lower(a.span), e.id`,
      [personId, at(from), at(to), at(now)],
    ),
    placesOnLane(sql, personId, from, to),
    answeredOnLane(sql, personId, from, to),
  ])
  const through = { ...looking, participates: false }
  return rows.rows.map((row) => onWire(row, places, answered, detailFor(row, through) !== 'everything'))
}

/** A coming date of a series on somebody's lane, and what else they have then. */
export interface ComingDate {
  readonly recurrence: string
  readonly start: number
  readonly end: number
  readonly answer: Answer
  readonly clash: { readonly title: string; readonly state: SpanState } | null
}

/** What keeps somebody from being elsewhere; what they have only been asked to does not. */
const TAKES_TIME: readonly (SpanState | null)[] = ['busy', 'away']

/** The coming dates of an entry on a person's own lane, at most so many, in order, each with the first other that takes their time then, here or in a calendar of theirs elsewhere, or a day off of their site. */
export const comingOnLane = async (
  sql: Sql,
  personId: string,
  entryId: string,
  now: number,
  most: number,
): Promise<ComingDate[]> => {
  const { rows } = await sql.query<{
    recurrence: string
    start: number
    end: number
    answer: Answer
    title: string | null
    shows: SpanState | null
    said: Answer | null
  }>(
    `select d.recurrence, ${startMs('d.span')} as start, ${endMs('d.span')} as end, d.answer,
            coalesce(v.title, f.title) as title, coalesce(v.shows, f.shows) as shows, b.answer as said
       from (select o.recurrence::text as recurrence, a.span, a.answer, a.person_id
               from participant p
               join attendance a on a.participant_id = p.id
               join occurrence o on o.id = a.occurrence_id
              where p.entry_id = $2 and p.person_id = $1 and upper(a.span) > $3
              order by lower(a.span) limit $4) d
       left join (attendance b
         join occurrence c on c.id = b.occurrence_id
         join entry f on f.id = c.entry_id and (f.lapses_at is null or f.lapses_at > $3)
         left join override v on v.entry_id = c.entry_id and v.recurrence = c.recurrence)
         on b.person_id = d.person_id and b.span && d.span and c.entry_id <> $2
      order by lower(d.span), lower(b.span)`,
    [personId, entryId, at(now), most],
  )
  const ends = Math.max(now, ...rows.map((row) => row.end))
  const { taken } = rows.length ? await elsewhereOf(sql, personId, now, ends) : { taken: [] }
  const off = rows.length ? await readOffOf(sql, personId, now, ends) : []
  const other = (start: number, end: number) =>
    [...taken, ...off].find(
      (span) => span.start < end && span.end > start && TAKES_TIME.includes(span.state),
    ) ?? null
  const dates = new Map<string, ComingDate>()
  for (const { recurrence, start, end, answer, title, shows, said } of rows) {
    const name = wallOfStamp(recurrence)
    const before = dates.get(name)
    const state = shows && said && stateOnLane(shows, said)
    const clash = state && TAKES_TIME.includes(state) ? { title: title || '(no title)', state } : null
    if (!before?.clash) dates.set(name, { recurrence: name, start, end, answer, clash })
  }
  return [...dates.values()].map((date) => ({ ...date, clash: date.clash ?? other(date.start, date.end) }))
}

/** An entry as it is kept, locked until the transaction ends. */
export interface KeptEntry extends EntryState {
  readonly id: string
  readonly ownerId: string
  readonly owner: string
  readonly version: number
  readonly deleted: boolean
  readonly meeting: boolean
  /** Whether places are reserved for any of its dates: a reservation, where it is no meeting. */
  readonly placed: boolean
}

/** An entry by its id; a hold that has lapsed by `now` counts as deleted, though its job has not come yet. */
export const readKept = async (
  sql: Sql,
  entryId: string,
  now: number,
  lock: boolean,
): Promise<KeptEntry | null> =>
  (
    await sql.query<KeptEntry>(
      `select e.id, e.owner_id as "ownerId", w.name as owner, e.version, ${readEntrySql('e')},
              (e.deleted_at is not null or e.lapses_at is not null and e.lapses_at <= $2) as deleted,
              ${isMeetingSql('e')} as meeting,
              exists (select 1 from occurrence o join reservation r on r.occurrence_id = o.id
                       where o.entry_id = e.id and r.state <> 'released') as placed
         from entry e join person w on w.id = e.owner_id where e.id = $1 ${lock ? 'for update of e' : ''}`,
      [entryId, at(now)],
    )
  ).rows[0] ?? null

export const readOverrides = async (sql: Sql, entryId: string): Promise<KeptOverride[]> =>
  (
    await sql.query<KeptOverride>(
      `select ${readOverrideSql('v')} from override v where v.entry_id = $1 order by v.recurrence`,
      [entryId],
    )
  ).rows

/** Puts overrides in place of whatever overrides an entry has. */
export const replaceOverrides = async (
  sql: Sql,
  entryId: string,
  overrides: readonly NewOverride[],
): Promise<void> => {
  const gone = sql.query('delete from override where entry_id = $1', [entryId])
  if (overrides.length === 0) {
    await gone
    return
  }
  await together([gone, insertOverrides(sql, entryId, overrides)])
}

const insertOverrides = (sql: Sql, entryId: string, overrides: readonly NewOverride[]) =>
  sql.query(
    `insert into override (entry_id, ${OVERRIDE_COLUMNS.join()})
     select $1, ${columnsOf('r', OVERRIDE_COLUMNS)} from jsonb_populate_recordset(null::override, $2::jsonb) r`,
    [entryId, JSON.stringify(overrides.map(overrideRow))],
  )

/** Puts one override in the place of another, or of none, of the same date. */
export const putOverride = async (sql: Sql, entryId: string, override: NewOverride): Promise<void> => {
  await together([
    sql.query('delete from override where entry_id = $1 and recurrence = $2', [entryId, override.recurrence]),
    insertOverrides(sql, entryId, [override]),
  ])
}

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
    Row & {
      note: string
      reminders: number[] | null
      contacts: { name: string; address: string }[]
      everyDate: boolean
    }
  >(
    `select ${OCCURRENCE}, p.answer, (e.owner_id = p.person_id and e.organizer_address is null) as own, p.category_id as "categoryId", ${COMPANY},
            coalesce(v.note, e.note) as note, p.reminders, e.contacts, p.every_date as "everyDate"
       from entry e join occurrence o on o.entry_id = e.id and o.gone_at is null
       join participant p on p.entry_id = e.id and p.person_id = $3
       left join participant_date d on d.participant_id = p.id and d.occurrence_id = o.id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where e.id = $1 and ($2::timestamp is null or o.recurrence = $2) and ${takesPartSql('p', 'd')} order by o.recurrence limit 1`,
    [entryId, recurrence ?? null, laneOf],
  )
  const [row] = rows.rows
  if (!row || detailFor(row, looking) !== 'everything') return null
  const { note, reminders, contacts, everyDate, ...date } = row
  const places = await placesOf(sql, [row.occurrenceId])
  return {
    ...onWire(everyDate ? date : { ...date, repeats: false }, places, new Map(), false),
    placeText: row.place,
    outdoorsSaid: row.outdoorsSaid,
    ownerId: kept.ownerId,
    owner: kept.owner,
    mayChange: mayChange(row, looking) && !kept.meeting && !kept.placed,
    note,
    reminders,
    contacts,
    seriesStarts: kept.starts,
    seriesMinutes: kept.minutes,
    // How a series goes on is nothing to those who were asked to some of its dates alone.
    repetition: everyDate
      ? { rule: kept.rule, added: [...kept.added], excepted: [...kept.excepted] }
      : { rule: null, added: [], excepted: [] },
    overrides: everyDate
      ? (await readOverrides(sql, entryId)).map(({ recurrence, cancelled, starts, minutes }) => ({
          recurrence,
          cancelled,
          starts,
          minutes,
        }))
      : [],
    attachments: await readAttachments(sql, entryId),
  }
}

/** A new entry: what is not said of it is as usual. Its own id, where somebody has one already. */
export type NewEntry = Partial<EntryState> & { readonly id?: string }

/**
 * Makes entries, each with its owner as its organizer, and gives their ids. Occurrences are the caller's to write once
 * all take part.
 */
export const insertEntries = async (
  sql: Sql,
  ownerId: string,
  entries: readonly NewEntry[],
  now: number,
): Promise<string[]> => {
  const rows = entries.map((entry) => ({ ...entryRow(entry), id: entry.id ?? randomUUID() }))
  await sql.query(
    `with made as (
       insert into entry (id, uid, owner_id, created_at, ${ENTRY_COLUMNS.join()})
       select r.id, r.id::text, $1, $2, ${columnsOf('r', ENTRY_COLUMNS)}
         from jsonb_populate_recordset(null::entry, $3::jsonb) r returning id, owner_id)
     insert into participant (entry_id, person_id, organizer, answer) select id, owner_id, true, 'accepted' from made`,
    [ownerId, at(now), JSON.stringify(rows)],
  )
  return rows.map((row) => row.id)
}

/** Changes what is given of an entry, and nothing else of it. */
export const updateEntry = async (sql: Sql, entryId: string, given: Partial<EntryState>): Promise<void> => {
  await sql.query(
    `update entry e set (${ENTRY_COLUMNS.join()}) =
        (select ${columnsOf('r', ENTRY_COLUMNS)} from jsonb_populate_record(e, $2::jsonb) r) where e.id = $1`,
    [entryId, JSON.stringify(changedRow(given))],
  )
}

/** Whether a to-do is somebody's to do: their own, or given to them. */
export const isTodoFor = async (sql: Sql, todoId: string, personId: string): Promise<boolean> =>
  (
    await sql.query(
      'select 1 from todo where id = $1 and deleted_at is null and (owner_id = $2 or given_to = $2)',
      [todoId, personId],
    )
  ).rowCount === 1

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

/** What participants were told of an entry, counted (RFC 5545 SEQUENCE), and which version it has; locked. */
export const lockCounts = async (
  sql: Sql,
  entryId: string,
): Promise<{ sequence: number; version: number } | null> =>
  (
    await sql.query<{ sequence: number; version: number }>(
      'select sequence, version from entry where id = $1 for update',
      [entryId],
    )
  ).rows[0] ?? null

/** Counts on what participants are told: older answers do not count any more. */
export const nextSequence = async (sql: Sql, entryId: string): Promise<number> => {
  const rows = await sql.query<{ sequence: number }>(
    'update entry set sequence = sequence + 1 where id = $1 returning sequence',
    [entryId],
  )
  return rows.rows[0]?.sequence ?? 0
}

/** Notes that the time or place of an entry is another from its version of now on: answers to older ones are asked again. */
export const noteAsked = async (sql: Sql, entryId: string): Promise<void> => {
  await sql.query('update entry set asked_version = version where id = $1', [entryId])
}

/**
 * Notes which series an entry goes on from, by what name its first date went there, and the last version of that one that
 * had it.
 */
export const noteSplit = async (
  sql: Sql,
  entryId: string,
  from: { readonly entryId: string; readonly recurrence: string; readonly version: number },
): Promise<void> => {
  await sql.query('update entry set split_from = $2, split_at = $3, split_version = $4 where id = $1', [
    entryId,
    from.entryId,
    from.recurrence,
    from.version,
  ])
}

/** Marks an entry cancelled, as a whole; gives whether that changed anything. */
export const markCancelled = async (
  sql: Sql,
  entryId: string,
  organizerId: string,
  reason: string,
  now: number,
): Promise<boolean> =>
  ((
    await sql.query(
      `update entry set cancelled_at = $3, cancel_reason = $4, version = version + 1
        where id = $1 and owner_id = $2 and cancelled_at is null`,
      [entryId, organizerId, at(now), reason],
    )
  ).rowCount ?? 0) > 0

/** Calls off one date of a series; gives whether that changed anything. */
export const markDateCancelled = async (
  sql: Sql,
  entryId: string,
  recurrence: string,
  reason: string,
): Promise<boolean> => {
  // Locked, since whoever cancels the whole of it in the same second must not be followed by a letter about a date.
  const stands = await sql.query('select 1 from entry where id = $1 and cancelled_at is null for update', [
    entryId,
  ])
  if (!stands.rowCount) return false
  const marked = await sql.query(
    `insert into override (entry_id, recurrence, cancelled, cancel_reason) values ($1, $2, true, $3)
     on conflict (entry_id, recurrence) do update set cancelled = true, cancel_reason = excluded.cancel_reason
      where not override.cancelled`,
    [entryId, recurrence, reason],
  )
  if (!marked.rowCount) return false
  await sql.query('update entry set version = version + 1 where id = $1', [entryId])
  return true
}

/** Locks an entry until the transaction ends, so that of two who change it the second sees what the first did. */
export const lockEntry = async (sql: Sql, entryId: string): Promise<void> => {
  await sql.query('select 1 from entry where id = $1 for update', [entryId])
}

/** The id of an entry by its UID (RFC 5545), locked until the transaction ends. */
export const lockByUid = async (sql: Sql, uid: string): Promise<string | null> =>
  (await sql.query<{ id: string }>('select id from entry where uid = $1 for update', [uid])).rows[0]?.id ??
  null

/** Locks a hold of somebody's; false when there is none such. */
export const lockHold = async (sql: Sql, entryId: string, ownerId: string): Promise<boolean> =>
  ((
    await sql.query(
      'select 1 from entry where id = $1 and owner_id = $2 and lapses_at is not null for update',
      [entryId, ownerId],
    )
  ).rowCount ?? 0) > 0

/** The holds that have lapsed by now, locked; those that another server is at are left to it. */
export const lockLapsed = async (sql: Sql, now: number): Promise<{ id: string; ownerId: string }[]> =>
  (
    await sql.query<{ id: string; ownerId: string }>(
      'select id, owner_id as "ownerId" from entry where lapses_at <= $1 for update skip locked',
      [at(now)],
    )
  ).rows

/** Takes entries away with all that was theirs, for good: what nobody was told of, as a hold. Their places must be gone. */
export const removeEntries = async (sql: Sql, entryIds: readonly string[]): Promise<void> => {
  await sql.query('delete from entry where id = any($1)', [entryIds])
}

export const isEntry = async (sql: Sql, entryId: string): Promise<boolean> =>
  ((await sql.query('select 1 from entry where id = $1', [entryId])).rowCount ?? 0) > 0

/** Whether an entry had a date of this name, which it gives no more. */
export const wasDate = async (sql: Sql, entryId: string, recurrence: string): Promise<boolean> =>
  ((
    await sql.query(
      'select 1 from occurrence where entry_id = $1 and recurrence = $2 and gone_at is not null limit 1',
      [entryId, recurrence],
    )
  ).rowCount ?? 0) > 0

export const isOccurrence = async (sql: Sql, entryId: string, recurrence: string): Promise<boolean> =>
  ((
    await sql.query('select 1 from occurrence where entry_id = $1 and recurrence = $2 and gone_at is null', [
      entryId,
      recurrence,
    ])
  ).rowCount ?? 0) > 0

/** Those of some entries in which others than their owner take part. */
export const withOthers = async (sql: Sql, entryIds: readonly string[]): Promise<Set<string>> => {
  const rows = await sql.query<{ id: string }>(
    'select distinct entry_id as id from participant where entry_id = any($1) and not organizer',
    [entryIds],
  )
  return new Set(rows.rows.map((row) => row.id))
}
