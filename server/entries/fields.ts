import type { Joining } from '@marmot/core/conferences'
import type { Contact } from '@marmot/core/feeds'
import type { AskWhom } from '@marmot/core/reservations'
import type { SpanState } from '@marmot/core/sharing'
import { wallSql } from '../platform/database.ts'

/**
 * How one joins a meeting: the room of the conference service, and the ways into it; no link while the service has not
 * answered. What somebody outside organizes has the ways of their own service, and no room of ours.
 */
export interface Conference extends Joining {
  readonly room: string
}

/** Walls of an array column, in order, in the contract's form. */
const wallsSql = (column: string) => `array(select ${wallSql('w')} from unnest(${column}) w order by w)`

/** An instant as ISO 8601. */
const instantSql = (column: string) => `to_json(${column}) #>> '{}'`

/** One field of an entry: its column, and how the column is read where that is not as it stands. */
interface Field<T, P extends boolean> {
  readonly column: string
  readonly read: (column: string) => string
  /** One date of a series can have it otherwise: `override` has a column of the same name, null for "as the series". */
  readonly perDate: P
  /** What a new entry has that says nothing of it. */
  readonly usual: T
}

const asItIs = (column: string) => column

const ofAll = <T>(column: string, usual: T, read = asItIs): Field<T, false> => ({
  column,
  usual,
  read,
  perDate: false,
})

const ofEachDate = <T>(column: string, usual: T, read = asItIs): Field<T, true> => ({
  column,
  usual,
  read,
  perDate: true,
})

/**
 * What an entry is, besides whose it is: **the one list of its fields.** Making, changing, reading, keeping for undo,
 * restoring and importing all go by it, so a new field is a migration and a line here; a test fails when a column of
 * `entry` or `override` is in none of the lists of this file.
 */
export const ENTRY_FIELDS = {
  zone: ofAll<string>('zone', 'UTC'),
  starts: ofEachDate<string>('starts', '', wallSql),
  minutes: ofEachDate<number>('minutes', 30),
  allDay: ofAll<boolean>('all_day', false),
  rule: ofAll<string | null>('rule', null),
  added: ofAll<readonly string[]>('added', [], wallsSql),
  excepted: ofAll<readonly string[]>('excepted', [], wallsSql),
  title: ofEachDate<string>('title', ''),
  place: ofEachDate<string>('place', ''),
  note: ofEachDate<string>('note', ''),
  shows: ofEachDate<SpanState>('shows', 'busy'),
  private: ofEachDate<boolean>('private', false),
  /** Why it was cancelled, in the words of whoever did. */
  cancelReason: ofEachDate<string>('cancel_reason', ''),
  /** Whether those who have not answered are nudged by themselves, two days before. */
  autoNudge: ofAll<boolean>('auto_nudge', false),
  /** Whether those who are invited are asked for an answer (RFC 5545 RSVP). */
  rsvp: ofAll<boolean>('rsvp', true),
  /** How one joins it from afar, where that is wanted. */
  conference: ofAll<Conference | null>('conference', null),
  /** What its places are for, how many will be there, and whom to ask; for whoever looks after them. */
  purpose: ofAll<string>('purpose', ''),
  headCount: ofAll<number | null>('head_count', null),
  contact: ofAll<AskWhom | null>('contact', null),
  /** People named where it was imported from; they were not invited by Marmot. */
  contacts: ofAll<readonly Contact[]>('contacts', []),
  /** Where it was imported from: its UID there, and which version of it (RFC 5545 SEQUENCE and DTSTAMP, in ISO 8601). */
  sourceUid: ofAll<string | null>('source_uid', null),
  sourceSequence: ofAll<number>('source_sequence', 0),
  sourceStamp: ofAll<string | null>('source_stamp', null, instantSql),
  /** Who organizes it, where that is somebody outside, whose meeting it is. */
  organizerAddress: ofAll<string | null>('organizer_address', null),
  organizerName: ofAll<string>('organizer_name', ''),
  /** Whether they invite to some dates of a series alone, each of which an answer names. */
  sourceDates: ofAll<boolean>('source_dates', false),
  /** At which site it is out of doors, where it is. */
  outdoors: ofAll<string | null>('outdoors_site_id', null),
  /** The to-do for which this time is set aside. */
  todoId: ofAll<string | null>('todo_id', null),
  /** When it goes by itself, in ISO 8601: a hold. */
  lapsesAt: ofAll<string | null>('lapses_at', null, instantSql),
}

type Fields = typeof ENTRY_FIELDS
type Kept<F> = F extends Field<infer T, boolean> ? T : never
type PerDate = { [K in keyof Fields]: Fields[K]['perDate'] extends true ? K : never }[keyof Fields]

/** An entry as it is kept, whosever it is. Walls as `YYYY-MM-DDTHH:mm` in `zone`. */
export type EntryState = { readonly [K in keyof Fields]: Kept<Fields[K]> }

/** One date of a series that differs from its rule. What is null is as in the series. */
export type KeptOverride = { readonly recurrence: string; readonly cancelled: boolean } & {
  readonly [K in PerDate]: Kept<Fields[K]> | null
}

const fields = Object.entries(ENTRY_FIELDS)
const datedFields = fields.filter(([, field]) => field.perDate)

/** Columns of `entry` that say which it is and what became of it: none is given when one is made or changed. */
export const ENTRY_IDENTITY = [
  'id',
  'uid',
  'owner_id',
  'created_at',
  'version',
  'sequence',
  'asked_version',
  'split_from',
  'split_at',
  'split_version',
  // Kept by the database, of what else is there.
  'words',
]
/** What became of an entry; undo brings it back. */
export const ENTRY_FATE = ['cancelled_at', 'deleted_at']

export const ENTRY_COLUMNS = fields.map(([, field]) => field.column)
export const OVERRIDE_COLUMNS = ['recurrence', 'cancelled', ...datedFields.map(([, field]) => field.column)]

/** What a participant is in an entry, beside which person or guest it is. Undo brings all of it back. */
export const ANSWER_COLUMNS = [
  'answer',
  'message',
  'answered_at',
  'answered_by',
  'answer_stamp',
  'answered_version',
  'quiet',
]
export const PARTICIPANT_COLUMNS = [
  'guest_name',
  'guest_zone',
  'required',
  'organizer',
  'every_date',
  'delegated_from',
  'category_id',
  'reminders',
  ...ANSWER_COLUMNS,
]
/** What a participant is in a state that was kept before it could be otherwise, as JSON. */
export const PARTICIPANT_USUAL = JSON.stringify({ every_date: true, quiet: false })
/** Who a participant is, and what only looking and sorting change. */
export const PARTICIPANT_IDENTITY = [
  'id',
  'entry_id',
  'person_id',
  'guest_address',
  'seen_at',
  'former_category_id',
]

/** An override as it is put: what is not said of it is as in the series. */
export type NewOverride = Pick<KeptOverride, 'recurrence' | 'cancelled'> & Partial<KeptOverride>

/** One date of a series of which only so much differs. */
export const overrideOf = (recurrence: string, given: Partial<KeptOverride>): NewOverride => ({
  cancelled: false,
  ...given,
  recurrence,
})

const rowOf = (
  list: readonly (readonly [string, { readonly column: string }])[],
  given: ReadonlyMap<string, unknown>,
): [string, unknown][] =>
  list.flatMap(([name, { column }]) => (given.has(name) ? [[column, given.get(name)]] : []))

/** The given fields by their columns, for PostgreSQL to read as a row; whatever else is there is left out. */
export const changedRow = (given: Partial<EntryState>): Record<string, unknown> =>
  Object.fromEntries(rowOf(fields, new Map(Object.entries(given))))

/** A new entry by its columns: what is not said is as usual. */
export const entryRow = (given: Partial<EntryState>): Record<string, unknown> => ({
  ...Object.fromEntries(fields.map(([, { column, usual }]) => [column, usual])),
  ...changedRow(given),
})

export const overrideRow = (one: NewOverride): Record<string, unknown> => ({
  recurrence: one.recurrence,
  cancelled: one.cancelled,
  ...Object.fromEntries(rowOf(datedFields, new Map(Object.entries(one)))),
})

const readSql = (row: string, list: typeof fields): string =>
  list.map(([name, { column, read }]) => `${read(`${row}.${column}`)} as "${name}"`).join(', ')

/** SQL that reads an entry's fields, each by its own name. */
export const readEntrySql = (row: string): string => readSql(row, fields)

/** SQL that reads an override, each field by its own name. */
export const readOverrideSql = (row: string): string =>
  `${wallSql(`${row}.recurrence`)} as recurrence, ${row}.cancelled, ${readSql(row, datedFields)}`

/** Columns as those of a row: `r.zone, r.starts`. */
export const columnsOf = (row: string, columns: readonly string[]): string =>
  columns.map((column) => `${row}.${column}`).join(', ')
