import type { Answer } from '@marmot/core/sharing'
import { at, msSql, type Sql, together } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { takesPartSql } from './dates.ts'

/** Somebody to take part: a person by their id, or a guest by their address. */
export interface Invited {
  readonly personId: string | null
  readonly address: string | null
  readonly name: string
  readonly required: boolean
  /** Whether they are asked to every date of a series; as before, and to every one who is new, where it is not said. */
  readonly everyDate?: boolean | undefined
}

export const insertParticipants = async (
  sql: Sql,
  entryId: string,
  invited: readonly Invited[],
): Promise<void> => {
  if (invited.length === 0) return
  await sql.query(
    `insert into participant (entry_id, person_id, guest_address, guest_name, required, every_date)
     select $1, * from unnest($2::uuid[], $3::text[], $4::text[], $5::boolean[], $6::boolean[])`,
    [
      entryId,
      invited.map((one) => one.personId),
      invited.map((one) => one.address),
      invited.map((one) => one.name),
      invited.map((one) => one.required),
      invited.map((one) => one.everyDate ?? true),
    ],
  )
}

const keyOf = ({ personId, address }: Pick<Invited, 'personId' | 'address'>) => personId ?? address

interface Known extends Invited {
  readonly id: string
  readonly everyDate: boolean
}

/** What putting participants comes to: who is new, who is let off, and who stays, as they were and as they are wanted. */
const comparing = (before: readonly Known[], invited: readonly Invited[]) => {
  const wanted = new Map(invited.map((one) => [keyOf(one), one]))
  const known = new Set(before.map(keyOf))
  return {
    added: invited.filter((one) => !known.has(keyOf(one))),
    letOff: before.filter((one) => !wanted.has(keyOf(one))),
    staying: before.flatMap((was) => {
      const now = wanted.get(keyOf(was))
      return now ? [{ was, now }] : []
    }),
  }
}

const KNOWN = `p.id, p.person_id as "personId", p.guest_address as address, p.guest_name as name, p.required,
  p.every_date as "everyDate"`

/**
 * Makes exactly these take part in an entry beside its organizer: who is new is asked, who is not among them any more is
 * let off, and the others keep their answers, and the dates that they are asked to. Gives the people concerned.
 */
export const putParticipants = async (
  sql: Sql,
  entryId: string,
  invited: readonly Invited[],
): Promise<string[]> => {
  const before = await sql.query<Known>(
    `select ${KNOWN} from participant p where p.entry_id = $1 and not p.organizer`,
    [entryId],
  )
  const { added, letOff, staying } = comparing(before.rows, invited)
  const otherwise = staying.filter(({ was, now }) => was.required !== now.required).map(({ was }) => was)
  const fromNowOn = staying.filter(({ was, now }) => now.everyDate && !was.everyDate).map(({ was }) => was)
  const ids = (some: readonly Known[]) => some.map((one) => one.id)
  await sql.query('delete from participant where id = any($1)', [ids(letOff)])
  await sql.query('update participant set required = not required where id = any($1)', [ids(otherwise)])
  await sql.query('update participant set every_date = true where id = any($1)', [ids(fromNowOn)])
  await sql.query('delete from participant_date where participant_id = any($1)', [ids(fromNowOn)])
  if (added.length) await insertParticipants(sql, entryId, added)
  return [...letOff, ...otherwise, ...fromNowOn, ...added].flatMap((one) => one.personId ?? [])
}

/**
 * Makes exactly these take part in one date of a series beside its organizer; in its other dates nothing changes. Gives
 * the people concerned. Throws where somebody would be required on one date and optional on others.
 */
export const putParticipantsOn = async (
  sql: Sql,
  entryId: string,
  recurrence: string,
  invited: readonly Invited[],
): Promise<string[]> => {
  const rows = await sql.query<Known & { here: boolean; occurrenceId: string }>(
    `select ${KNOWN}, ${takesPartSql('p', 'd')} as here, o.id as "occurrenceId"
       from participant p join occurrence o on o.entry_id = p.entry_id and o.recurrence = $2 and o.gone_at is null
       left join participant_date d on d.participant_id = p.id and d.occurrence_id = o.id
      where p.entry_id = $1 and not p.organizer`,
    [entryId, recurrence],
  )
  const { added, letOff, staying } = comparing(
    rows.rows.filter((one) => one.here),
    invited,
  )
  if (staying.some(({ was, now }) => was.required !== now.required))
    throw new ProblemError(
      422,
      'required-on-all',
      'Whether somebody must come holds for all dates. Change it there; nothing was changed.',
      { fields: [{ path: 'people', message: 'are required or optional on all dates' }] },
    )
  const elsewhere = new Map(rows.rows.filter((one) => !one.here).map((one) => [keyOf(one), one.id]))
  const stranger = added.filter((one) => !elsewhere.has(keyOf(one)))
  await insertParticipants(
    sql,
    entryId,
    stranger.map((one) => ({ ...one, everyDate: false })),
  )
  const put = async (who: readonly Invited[], takesPart: boolean) => {
    await sql.query(
      `insert into participant_date (participant_id, occurrence_id, takes_part)
       select p.id, o.id, $5 from participant p
         join occurrence o on o.entry_id = p.entry_id and o.recurrence = $2 and o.gone_at is null
        where p.entry_id = $1 and not p.organizer and (p.person_id = any($3) or p.guest_address = any($4))
       on conflict (participant_id, occurrence_id) do update set takes_part = excluded.takes_part`,
      [
        entryId,
        recurrence,
        who.flatMap((one) => one.personId ?? []),
        who.flatMap((one) => one.address ?? []),
        takesPart,
      ],
    )
  }
  if (added.length) await put(added, true)
  if (letOff.length) await put(letOff, false)
  await dropDateless(sql, entryId)
  return [...added, ...letOff].flatMap((one) => one.personId ?? [])
}

/** Lets those go who were asked to some dates of an entry alone, none of which is left to them. */
export const dropDateless = async (sql: Sql, entryId: string): Promise<void> => {
  await sql.query(
    `delete from participant p where p.entry_id = $1 and not p.every_date and not exists (
       select 1 from participant_date d join occurrence o on o.id = d.occurrence_id
        where d.participant_id = p.id and d.takes_part and o.entry_id = p.entry_id)`,
    [entryId],
  )
}

/**
 * Notes from whom somebody has an invitation who takes part now: whoever passes on some dates alone passes those on.
 */
export const noteDelegated = async (
  sql: Sql,
  fromId: string,
  to: Pick<Invited, 'personId' | 'address'>,
): Promise<void> => {
  const noted = await sql.query<{ id: string }>(
    `update participant n set delegated_from = p.id from participant p
      where p.id = $1 and n.entry_id = p.entry_id and (n.person_id = $2 or n.guest_address = $3) returning n.id`,
    [fromId, to.personId, to.address],
  )
  await sql.query(
    `insert into participant_date (participant_id, occurrence_id, takes_part)
     select n.id, d.occurrence_id, d.takes_part
       from participant n, participant p join participant_date d on d.participant_id = p.id
      where p.id = $1 and n.id = any($2) and n.every_date = p.every_date
     on conflict (participant_id, occurrence_id) do nothing`,
    [fromId, noted.rows.map((row) => row.id)],
  )
}

export const takesPart = async (sql: Sql, entryId: string, personId: string): Promise<boolean> =>
  ((await sql.query('select 1 from participant where entry_id = $1 and person_id = $2', [entryId, personId]))
    .rowCount ?? 0) > 0

/** The people who take part in an entry, its owner among them. */
export const peopleIn = async (sql: Sql, entryId: string): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      'select person_id as id from participant where entry_id = $1 and person_id is not null',
      [entryId],
    )
  ).rows.map((row) => row.id)

/** Who hears live what happens in an entry: people, and guests by their ids as participants. */
export const listenersIn = async (sql: Sql, entryId: string): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      'select coalesce(person_id, id) as id from participant where entry_id = $1',
      [entryId],
    )
  ).rows.map((row) => row.id)

/** The entry in which somebody takes part, by their id as a participant. */
export const entryOf = async (sql: Sql, participantId: string): Promise<string | null> =>
  (
    await sql.query<{ entryId: string }>('select entry_id as "entryId" from participant where id = $1', [
      participantId,
    ])
  ).rows[0]?.entryId ?? null

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

/** Keeps the owner's own category and reminders of many entries at once; the category is one of theirs. */
export const setOwnOfMany = async (
  sql: Sql,
  own: readonly { entryId: string; categoryId: string | null; reminders: readonly number[] }[],
): Promise<void> => {
  await sql.query(
    `update participant p set category_id = d.category, reminders = d.reminders::integer[]
       from unnest($1::uuid[], $2::uuid[], $3::text[]) d(entry, category, reminders)
      where p.entry_id = d.entry and p.organizer`,
    [
      own.map((one) => one.entryId),
      own.map((one) => one.categoryId),
      own.map((one) => `{${one.reminders.join()}}`),
    ],
  )
}

/** Notes that somebody has looked at their invitation; the first look counts. */
export const noteSeen = async (
  sql: Sql,
  who: { readonly entryId: string; readonly personId: string } | { readonly participantId: string },
  now: number,
): Promise<boolean> => {
  const seen =
    'participantId' in who
      ? await sql.query('update participant set seen_at = $2 where id = $1 and seen_at is null', [
          who.participantId,
          at(now),
        ])
      : await sql.query(
          `update participant set seen_at = $3
            where entry_id = $1 and person_id = $2 and seen_at is null and not organizer`,
          [who.entryId, who.personId, at(now)],
        )
  return (seen.rowCount ?? 0) > 0
}

/**
 * Gives those who take part in the continuation of a series the answers that they gave to the whole of it, and their own
 * marks. The answers are to the continuation as it begins, or, where it is at another time, to none of its versions.
 */
export const copyAnswers = async (
  sql: Sql,
  fromId: string,
  toId: string,
  elsewhere: boolean,
): Promise<void> => {
  const version = elsewhere ? 0 : 1
  await sql.query(
    `update participant n set answer = p.answer, message = p.message, answered_at = p.answered_at,
            answered_by = p.answered_by, answer_stamp = p.answer_stamp, seen_at = p.seen_at,
            category_id = p.category_id, reminders = p.reminders, quiet = p.quiet,
            delegated_from = (select m.id from participant q join participant m on m.entry_id = $2
                 and (m.person_id = q.person_id or m.guest_address = q.guest_address) where q.id = p.delegated_from),
            answered_version = case when p.answered_version is null then null else $3::integer end
       from participant p
      where p.entry_id = $1 and n.entry_id = $2
        and (n.person_id = p.person_id or n.guest_address = p.guest_address)`,
    [fromId, toId, version],
  )
  await sql.query(
    `update attendance a set answered_version = $2 from occurrence o
      where o.id = a.occurrence_id and o.entry_id = $1 and a.answered_version is not null`,
    [toId, version],
  )
}

/** An answer as it is kept. `stamp` is when it was given, by the giver's clock; `now` when it came here. */
export interface KeptAnswer {
  readonly answer: Answer
  readonly message: string
  readonly answeredBy: string | null
  readonly stamp: number
  readonly now: number
  /** The version of the entry that whoever answered had seen. */
  readonly version: number
  /** Whether it is kept from the organizer. */
  readonly quiet: boolean
}

/** Keeps on which clock a meeting's guests read its times. */
export const setGuestZone = async (sql: Sql, entryId: string, zone: string): Promise<void> => {
  await sql.query('update participant set guest_zone = $2 where entry_id = $1 and person_id is null', [
    entryId,
    zone,
  ])
}

/** When somebody answered: not at all where they took their answer back. */
const answeredWhen = ({ answer, now }: KeptAnswer): string | null =>
  answer === 'needs-action' ? null : at(now)

/** Keeps an answer to all dates, those included that had an answer of their own. */
export const setAnswer = async (sql: Sql, participantId: string, given: KeptAnswer): Promise<void> => {
  await together([
    sql.query(
      `update participant set answer = $2, message = $3, answered_at = $4, seen_at = coalesce(seen_at, $9),
              answered_by = $5, answer_stamp = $6, answered_version = $7, quiet = $8 where id = $1`,
      [
        participantId,
        given.answer,
        given.message,
        answeredWhen(given),
        given.answeredBy,
        at(given.stamp),
        given.version,
        given.quiet,
        at(given.now),
      ],
    ),
    sql.query(
      `update attendance set answer = $2, message = null, answered_at = null, answered_by = null, answer_stamp = null,
              answered_version = null, quiet = false
        where participant_id = $1`,
      [participantId, given.answer],
    ),
  ])
}

/** Keeps an answer to one date of a series. False when there is no such date. */
export const setAnswerOn = async (
  sql: Sql,
  participantId: string,
  entryId: string,
  recurrence: string,
  given: KeptAnswer,
): Promise<boolean> => {
  await noteSeen(sql, { participantId }, given.now)
  const set = await sql.query(
    `update attendance a set answer = $4, message = $5, answered_at = $6, answered_by = $7, answer_stamp = $8,
            answered_version = $9, quiet = $10
       from occurrence o
      where a.occurrence_id = o.id and a.participant_id = $1 and o.entry_id = $2 and o.recurrence = $3
        and o.gone_at is null`,
    [
      participantId,
      entryId,
      recurrence,
      given.answer,
      given.message,
      answeredWhen(given),
      given.answeredBy,
      at(given.stamp),
      given.version,
      given.quiet,
    ],
  )
  return (set.rowCount ?? 0) > 0
}

/** When the answer that stands was given, in milliseconds: to one date of a series, or to all. Null when there is none. */
export const answeredAt = async (
  sql: Sql,
  participantId: string,
  entryId: string,
  recurrence: string | null,
): Promise<number | null> =>
  (
    await sql.query<{ at: number | null }>(
      `select greatest(${msSql('p.answer_stamp')},
                (select max(${msSql('a.answer_stamp')}) from attendance a join occurrence o on o.id = a.occurrence_id
                  where a.participant_id = p.id and o.entry_id = $2 and o.recurrence = $3)) as at
         from participant p where p.id = $1`,
      [participantId, entryId, recurrence],
    )
  ).rows[0]?.at ?? null

/**
 * Asks participants for their answers anew: to all dates, or to some. An answer that was given to the time and place that
 * are asked about now stays (`asked_version`).
 */
export const askAnswersAgain = async (
  sql: Sql,
  participantIds: readonly string[],
  dates: 'all' | readonly string[],
): Promise<void> => {
  const some = dates === 'all' ? null : dates
  await sql.query(
    `update attendance a set answer = 'needs-action', message = null, answered_at = null, answered_by = null,
            answer_stamp = null, answered_version = null, quiet = false
       from occurrence o, participant p, entry e
      where o.id = a.occurrence_id and p.id = a.participant_id and e.id = p.entry_id
        and p.id = any($1) and not p.organizer and ($2::timestamp[] is null or o.recurrence = any($2))
        and coalesce(a.answered_version, p.answered_version, 0) < e.asked_version`,
    [participantIds, some],
  )
  if (some === null)
    await sql.query(
      `update participant p set answer = 'needs-action', message = '', answered_at = null, answered_by = null,
              answer_stamp = null, answered_version = null, quiet = false
         from entry e
        where e.id = p.entry_id and p.id = any($1) and not p.organizer
          and coalesce(p.answered_version, 0) < e.asked_version`,
      [participantIds],
    )
}
