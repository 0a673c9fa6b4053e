import type { CalendarMethod, Told } from '@marmot/core/letters'
import { at, endMs, msSql, type Sql, startMs, together, wallSql } from '../platform/database.ts'

/** Whom a letter is to: a person, or a guest by their address. */
export interface Reader {
  readonly personId: string | null
  readonly address: string | null
  readonly guestName: string
}

/** One name for each reader, whoever they are. */
export const readerKey = ({ personId, address }: Pick<Reader, 'personId' | 'address'>): string =>
  personId ?? address ?? ''

/** Somebody who takes part as a reader of letters. */
export const readerOf = (participant: {
  readonly personId: string | null
  readonly address: string
  readonly guestName: string
}): Reader => ({
  personId: participant.personId,
  address: participant.personId === null ? participant.address : null,
  guestName: participant.guestName,
})

/** What the last letter that may have reached somebody told them of a meeting, and how many there were, also in vain. */
export interface LastLetter extends Reader {
  readonly number: number
  readonly told: Told | null
  /** What it told, as it is kept. */
  readonly toldId: string | null
  /** Of a person: what they are called, and where they are. */
  readonly name: string | null
  readonly zone: string | null
}

/** What letters told before they could tell otherwise. */
const TOLD = `'{"rsvp": true, "conference": null}'::jsonb`

/**
 * A letter that cannot have left yet, of those that tell what is true: that a proposal is declined stays said, and an answer
 * that is asked for once more stays asked for.
 */
const UNTRIED =
  "l.tried_at is null and l.state = 'waiting' and l.method <> 'DECLINECOUNTER' and l.nudges is null"

/**
 * What each reader of a meeting may have been told last; with `upTo` of its versions so far. What cannot have left yet was
 * not told, nor was what a server refused; it has its number all the same.
 */
export const readLast = async (
  sql: Sql,
  entryId: string,
  upTo: number | null = null,
): Promise<LastLetter[]> =>
  (
    await sql.query<LastLetter>(
      `select distinct on (x."personId", x.address) x."personId", x.address, x."guestName", x.name, x.zone, x.number,
              x."toldId", x.told
         from (
           select l.person_id as "personId", l.guest_address as address, l.guest_name as "guestName", w.name, w.zone,
                  max(l.number) over (partition by l.person_id, l.guest_address) as number, l.number as own,
                  l.state = 'failed' or ${UNTRIED} as vain, l.method, t.id as "toldId",
                  ${TOLD} || t.told || jsonb_build_object('required', l.required) as told
             from letter l left join telling t on t.id = l.told_id and l.state <> 'failed' and not (${UNTRIED})
             left join person w on w.id = l.person_id
            where l.entry_id = $1 and ($2::integer is null or l.version <= $2)) x
        where x.method <> 'DECLINECOUNTER'
        order by x."personId", x.address, x.vain, x.own desc`,
      [entryId, upTo],
    )
  ).rows

/** A letter that was taken back: to whom it was, and when it was written, in milliseconds. */
export interface Untold {
  readonly personId: string | null
  readonly writtenAt: number
}

/**
 * Takes back the letters about a meeting that cannot have left yet, to be compared anew; gives these, and what was told for
 * good.
 */
export const takeBackUntried = async (
  sql: Sql,
  entryId: string,
): Promise<{ untold: Untold[]; last: LastLetter[] }> => {
  const [untold, last] = await together([
    sql.query<Untold>(
      `delete from letter l where l.entry_id = $1 and ${UNTRIED}
       returning l.person_id as "personId", ${msSql('l.written_at')} as "writtenAt"`,
      [entryId],
    ),
    readLast(sql, entryId),
  ])
  if (untold.rowCount)
    await sql.query(
      `delete from telling t where t.entry_id = $1 and not exists (
         select 1 from letter l where l.about_id = t.id or l.before_id = t.id or l.told_id = t.id)`,
      [entryId],
    )
  return { untold: untold.rows, last }
}

/** A letter to be written. */
export interface NewLetter extends Reader {
  readonly id: string
  readonly number: number
  readonly method: CalendarMethod
  readonly recurrence: string | null
  readonly required: boolean
  readonly aboutId: string
  readonly beforeId: string | null
  readonly asksAgain: boolean
  /** Why it is off, where it is. */
  readonly reason: string
  /** Where it only asks once more: for how long it is the only one that does. In milliseconds. */
  readonly nudges: { readonly from: number; readonly to: number } | null
  /** The time that was proposed, where that is declined. In milliseconds. */
  readonly proposed?: { readonly start: number; readonly end: number } | null
  readonly toldId: string | null
}

/** Keeps what is true of a meeting, for the letters that tell it; whether one must come is said by each of them. */
export const insertTellings = async (
  sql: Sql,
  entryId: string,
  tellings: readonly { readonly id: string; readonly told: Told }[],
): Promise<void> => {
  if (tellings.length === 0) return
  await sql.query(
    'insert into telling (id, entry_id, told) select t.id, $1, t.told from unnest($2::uuid[], $3::jsonb[]) t(id, told)',
    [
      entryId,
      tellings.map((one) => one.id),
      tellings.map(({ told: { required: _, ...told } }) => JSON.stringify(told)),
    ],
  )
}

/** Writes letters about a meeting. The database refuses a second letter of one number. */
export const insertLetters = async (
  sql: Sql,
  meeting: { readonly entryId: string; readonly sequence: number; readonly version: number },
  letters: readonly NewLetter[],
  actorId: string | null,
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into letter (id, entry_id, sequence, version, actor_id, written_at, person_id, guest_address, guest_name, number,
                           method, recurrence, required, about_id, before_id, asks_again, reason, nudges, proposed, told_id)
       select r.id, $1, $2, $3, $4, $5, r.person_id, r.guest_address, r.guest_name, r.number, r.method, r.recurrence, r.required,
              r.about_id, r.before_id, r.asks_again, r.reason, r.nudges, r.proposed, r.told_id
         from jsonb_populate_recordset(null::letter, $6::jsonb) r`,
    [
      meeting.entryId,
      meeting.sequence,
      meeting.version,
      actorId,
      at(now),
      JSON.stringify(
        letters.map((letter) => ({
          id: letter.id,
          person_id: letter.personId,
          guest_address: letter.address,
          guest_name: letter.guestName,
          number: letter.number,
          method: letter.method,
          recurrence: letter.recurrence,
          required: letter.required,
          about_id: letter.aboutId,
          before_id: letter.beforeId,
          asks_again: letter.asksAgain,
          reason: letter.reason,
          nudges: letter.nudges && `[${at(letter.nudges.from)},${at(letter.nudges.to)})`,
          proposed: letter.proposed && `[${at(letter.proposed.start)},${at(letter.proposed.end)})`,
          told_id: letter.toldId,
        })),
      ),
    ],
  )
}

/** A letter as it is kept, to be sent. */
export interface KeptLetter extends Reader {
  readonly id: string
  readonly entryId: string
  readonly method: Exclude<CalendarMethod, 'PUBLISH'>
  readonly sequence: number
  readonly recurrence: string | null
  readonly about: Told
  readonly before: Told | null
  /** What the first date was called in the series that this one goes on from, where `before` speaks of that. */
  readonly splitAt: string | null
  readonly asksAgain: boolean
  readonly reason: string
  /** Whether it only asks for an answer once more. */
  readonly nudges: boolean
  /** The time that was proposed, where that is declined. In milliseconds. */
  readonly proposedStart: number | null
  readonly proposedEnd: number | null
  readonly writtenAt: Date
  /** A stand-in who had it sent in the organizer’s name. */
  readonly actor: string | null
  /** Its reader, where they are a person. */
  readonly name: string | null
  readonly personAddress: string | null
  /** On whose clock they read times, where that is known. */
  readonly zone: string | null
}

/**
 * Letters that are to be sent now: from here on they may have left. Left out are those that were sent already, unless
 * they are sent once more, those that a later letter about the same makes moot, and, for a while, those before which
 * another to the same reader is on its way: `waits` is true where there is such a one.
 */
export const startSending = async (
  sql: Sql,
  letterIds: readonly string[],
  again: boolean,
  now: number,
): Promise<{ letters: KeptLetter[]; waits: boolean }> => {
  const [, rows] = await together([
    // Whoever changes the meeting, or takes a change back, knows by this whether they have left.
    sql.query('select 1 from entry where id in (select entry_id from letter where id = any($1)) for share', [
      letterIds,
    ]),
    sql.query<KeptLetter & { waits: boolean }>(
      `with mine as (
       select l.* from letter l
        where l.id = any($1) and ($2 or l.state <> 'sent')
          and not exists (select 1 from letter m where m.entry_id = l.entry_id and ${SAME_READER} and m.number > l.number
                             and l.method <> 'DECLINECOUNTER' and m.method <> 'DECLINECOUNTER'
                             and (m.recurrence is null or m.recurrence = l.recurrence))
          for update),
     told as (
       select l.id, exists (select 1 from letter m where m.entry_id = l.entry_id and ${SAME_READER}
                               and m.number < l.number and m.state = 'waiting'
                               and m.tried_at > $3::timestamptz - interval '1 minute') as waits from mine l),
     tried as (
       update letter t set tried_at = $3 from told where t.id = told.id and not told.waits returning t.id)
     select l.id, l.entry_id as "entryId", l.person_id as "personId", l.guest_address as address,
            l.guest_name as "guestName", l.method, l.sequence, ${wallSql('l.recurrence')} as recurrence,
            ${TOLD} || x.told || jsonb_build_object('required', l.required) as about,
            ${TOLD} || y.told || jsonb_build_object('required', l.required) as before,
            case when y.entry_id <> l.entry_id then ${wallSql('e.split_at')} end as "splitAt", l.asks_again as "asksAgain", l.reason, l.nudges is not null as nudges,
            ${startMs('l.proposed')} as "proposedStart", ${endMs('l.proposed')} as "proposedEnd", l.written_at as "writtenAt", a.name as actor, w.name,
            w.address as "personAddress", coalesce(w.zone, g.guest_zone) as zone, told.waits
       from mine l join told on told.id = l.id join telling x on x.id = l.about_id left join telling y on y.id = l.before_id
       join entry e on e.id = l.entry_id
       left join person a on a.id = l.actor_id left join person w on w.id = l.person_id
       left join participant g on g.entry_id = l.entry_id and g.guest_address = l.guest_address
      order by l.number, l.id`,
      [letterIds, again, at(now)],
    ),
  ])
  return {
    letters: rows.rows.filter((row) => !row.waits),
    waits: rows.rows.some((row) => row.waits),
  }
}

const SAME_READER =
  'm.person_id is not distinct from l.person_id and m.guest_address is not distinct from l.guest_address'

export const setLetterState = async (
  sql: Sql,
  letterId: string,
  state: 'waiting' | 'sent' | 'failed',
  error: string | null,
  now: number,
  /** It surely did not leave: until it is tried again, it can still be taken back. */
  stayed = false,
): Promise<void> => {
  await sql.query(
    `update letter set state = $2, error = $3, sent_at = $4, tried_at = case when $5 then null else tried_at end
      where id = $1`,
    [letterId, state, error, state === 'sent' ? at(now) : null, stayed],
  )
}

/** The newest invitation of all of a meeting that was written to somebody who takes part. */
export const invitationTo = async (sql: Sql, participantId: string): Promise<string | null> =>
  (
    await sql.query<{ id: string }>(
      `select l.id from letter l join participant p on p.entry_id = l.entry_id
          and p.person_id is not distinct from l.person_id and p.guest_address is not distinct from l.guest_address
        where p.id = $1 and l.method = 'REQUEST' and l.recurrence is null order by l.number desc limit 1`,
      [participantId],
    )
  ).rows[0]?.id ?? null

/** What became of the last letter to each reader about some entries. */
export interface LetterState {
  readonly mail: 'waiting' | 'sent' | 'failed'
  readonly mailMethod: 'REQUEST' | 'CANCEL'
}

/** Of the last letter about all of each meeting, by entry and reader (`letterKey`). */
export const lettersOf = async (sql: Sql, entryIds: readonly string[]): Promise<Map<string, LetterState>> => {
  const rows = await sql.query<LetterState & Reader & { entryId: string }>(
    `select distinct on (entry_id, person_id, guest_address) entry_id as "entryId", person_id as "personId",
            guest_address as address, state as mail, method as "mailMethod"
       from letter where entry_id = any($1) and recurrence is null and method <> 'DECLINECOUNTER'
      order by entry_id, person_id, guest_address, number desc`,
    [entryIds],
  )
  return new Map(
    rows.rows.map(({ entryId, personId, address, mail, mailMethod }) => [
      letterKey(entryId, { personId, address }),
      { mail, mailMethod },
    ]),
  )
}

/** When each reader was last nudged about each of some meetings, in milliseconds, by entry and reader (`letterKey`). */
export const nudgedIn = async (
  sql: Sql,
  entryIds: readonly string[],
): Promise<ReadonlyMap<string, number>> => {
  const rows = await sql.query<Reader & { entryId: string; at: number }>(
    `select entry_id as "entryId", person_id as "personId", guest_address as address, ${msSql('max(written_at)')} as at
       from letter where entry_id = any($1) and nudges is not null group by entry_id, person_id, guest_address`,
    [entryIds],
  )
  return new Map(rows.rows.map((row) => [letterKey(row.entryId, row), row.at]))
}

/** One name for each reader of letters about each meeting. */
export const letterKey = (entryId: string, reader: Pick<Reader, 'personId' | 'address'>): string =>
  `${entryId} ${readerKey(reader)}`

/** What somebody who takes part was told last of all of a meeting, or of one date: its SEQUENCE, and the version it tells. */
export const toldLast = async (
  sql: Sql,
  participantId: string,
  recurrence: string | null,
): Promise<{ sequence: number; version: number } | null> =>
  (
    await sql.query<{ sequence: number; version: number }>(
      `select l.sequence, l.version from letter l join participant p on p.entry_id = l.entry_id
          and p.person_id is not distinct from l.person_id and p.guest_address is not distinct from l.guest_address
        where p.id = $1 and l.method <> 'DECLINECOUNTER' and (l.recurrence is null or l.recurrence = $2)
        order by l.number desc limit 1`,
      [participantId, recurrence],
    )
  ).rows[0] ?? null

/** What stands of the letters to somebody who takes part: how many there were, and what the last that left told them. */
export const lettersTo = async (
  sql: Sql,
  entryId: string,
  { personId, address }: Pick<Reader, 'personId' | 'address'>,
): Promise<{ number: number; toldId: string | null }> =>
  (
    await sql.query<{ number: number; toldId: string | null }>(
      `select max(l.number) as number,
              (array_agg(l.told_id order by l.number desc) filter (where l.told_id is not null)) [1] as "toldId"
         from letter l where l.entry_id = $1 and l.person_id is not distinct from $2
          and l.guest_address is not distinct from $3`,
      [entryId, personId, address],
    )
  ).rows[0] ?? { number: 0, toldId: null }
