import type { Meeting, Participant } from '@marmot/contract/meetings'
import { seriesInWords } from '@marmot/core/invitations'
import type { Answer } from '@marmot/core/sharing'
import { instantOf, MINUTE, wallFromText, zoneTable } from '@marmot/core/time'
import { at, endMs, msSql, type Sql, startMs, together, wallSql } from '../platform/database.ts'

interface MeetingRow {
  entryId: string
  uid: string
  title: string
  note: string
  place: string
  zone: string
  organizer: string
  organizerId: string
  organizerAddress: string
  organizerZone: string
  cancelled: boolean
  repeats: boolean
  rule: string | null
  version: number
  sequence: number
  starts: string
  minutes: number
  start: number | null
  end: number | null
  /** The date that this is. */
  recurrence: string | null
}

interface ParticipantRow extends Omit<Participant, 'answeredAt' | 'seenAt'> {
  entryId: string
  answeredAt: Date | null
  seenAt: Date | null
}

/** A meeting as the server knows it: what its messages and pages are made of. */
export interface WholeMeeting extends Omit<MeetingRow, 'start' | 'end'> {
  readonly start: number
  readonly end: number
  readonly participants: readonly ParticipantRow[]
  readonly places: readonly { id: string; name: string; siteId: string }[]
  /** Dates of a series that differ from its rule. Walls as `YYYY-MM-DDTHH:mm`. */
  readonly changes: readonly { recurrence: string; starts: string | null; place: string | null }[]
  /** Dates of a series that were called off. */
  readonly cancelledDates: readonly string[]
  /** The end of the last date that is written out, in milliseconds. */
  readonly lastEnd: number
}

/** Everybody who takes part, with the answers that stand for one date of each meeting: of a series, to that date. */
const readParticipants = (sql: Sql, entryIds: readonly string[], dates: readonly (string | null)[]) =>
  sql.query<ParticipantRow>(
    `select p.entry_id as "entryId", p.id, p.person_id as "personId",
            coalesce(w.name, nullif(p.guest_name, ''), p.guest_address) as name,
            coalesce(w.address, p.guest_address) as address, w.zone, p.required, p.organizer,
            coalesce(a.answer, p.answer) as answer,
            case when a.answered_at is null then p.message else coalesce(a.message, '') end as message,
            (select b.name from person b
              where b.id = case when a.answered_at is null then p.answered_by else a.answered_by end) as "answeredBy",
            coalesce(a.answered_at, p.answered_at) as "answeredAt", p.seen_at as "seenAt",
            coalesce(m.state, 'none') as mail, m.method as "mailMethod"
       from unnest($1::uuid[], $2::timestamp[]) d(entry_id, recurrence)
       join participant p on p.entry_id = d.entry_id
       left join person w on w.id = p.person_id
       left join occurrence o on o.entry_id = d.entry_id and o.recurrence = d.recurrence
       left join attendance a on a.occurrence_id = o.id and a.participant_id = p.id
       left join lateral (select x.state, x.method from mail x where x.participant_id = p.id and x.recurrence is null
                           order by x.sequence desc, x.written_at desc limit 1) m on true
      order by p.organizer desc, p.required desc, name`,
    [entryIds, dates],
  )

/** The dates of series that differ from their rule, or were called off. */
const readChanges = async (sql: Sql, entryIds: readonly string[]) =>
  (
    await sql.query<WholeMeeting['changes'][number] & { entryId: string; cancelled: boolean }>(
      `select entry_id as "entryId", ${wallSql('recurrence')} as recurrence, ${wallSql('starts')} as starts, place,
              cancelled
         from override where entry_id = any($1) order by recurrence`,
      [entryIds],
    )
  ).rows

/** When the last date of each series that is written out ends, in milliseconds. */
const readEnds = async (sql: Sql, entryIds: readonly string[]) =>
  (
    await sql.query<{ entryId: string; end: number }>(
      `select entry_id as "entryId", max(${endMs('span')}) as end from occurrence where entry_id = any($1) group by entry_id`,
      [entryIds],
    )
  ).rows

const NONE = Promise.resolve([])

/**
 * Meetings by their ids, whole, each at its next date (a past one at its last), or at the date that is named. Unknown ids
 * are left out.
 */
export const readMeetings = async (
  sql: Sql,
  entryIds: readonly string[],
  now: number,
  recurrence: string | null = null,
): Promise<WholeMeeting[]> => {
  const meetings = await sql.query<MeetingRow>(
    `select e.id as "entryId", e.uid, coalesce(v.title, e.title) as title, coalesce(v.note, e.note) as note,
            coalesce(v.place, e.place) as place, e.zone, o.name as organizer, o.id as "organizerId",
            o.address as "organizerAddress", o.zone as "organizerZone",
            (e.cancelled_at is not null) as cancelled, (e.rule is not null) as repeats, e.rule, e.version, e.sequence,
            ${wallSql('e.starts')} as starts, e.minutes, ${startMs('d.span')} as start, ${endMs('d.span')} as end,
            ${wallSql('d.recurrence')} as recurrence
       from entry e join person o on o.id = e.owner_id
       left join lateral (
         select c.span, c.recurrence from occurrence c where c.entry_id = e.id
          order by (c.recurrence = $3::timestamp) desc nulls last, (upper(c.span) > $2) desc, case when upper(c.span) > $2 then lower(c.span) end,
                   lower(c.span) desc limit 1) d on true
       left join override v on v.entry_id = e.id and v.recurrence = d.recurrence
      where e.id = any($1) and e.deleted_at is null`,
    [entryIds, at(now), recurrence],
  )
  const series = meetings.rows.filter((row) => row.repeats).map((row) => row.entryId)
  const [participants, places, changes, ends] = await together([
    readParticipants(
      sql,
      meetings.rows.map((row) => row.entryId),
      meetings.rows.map((row) => row.recurrence),
    ),
    sql.query<{ entryId: string; id: string; name: string; siteId: string }>(
      `select distinct r.entry_id as "entryId", s.id, s.name, s.site_id as "siteId" from reservation r
         join resource s on s.id = r.resource_id where r.entry_id = any($1) and r.state <> 'released' order by s.name`,
      [entryIds],
    ),
    series.length ? readChanges(sql, series) : NONE,
    series.length ? readEnds(sql, series) : NONE,
  ])
  return meetings.rows.map((row) => {
    const start = row.start ?? instantOf(zoneTable(row.zone), wallFromText(row.starts) ?? 0)
    return {
      ...row,
      start,
      end: row.end ?? start + row.minutes * MINUTE,
      participants: participants.rows.filter((participant) => participant.entryId === row.entryId),
      places: places.rows.filter((place) => place.entryId === row.entryId),
      changes: changes.filter((change) => change.entryId === row.entryId && !change.cancelled),
      cancelledDates: changes.flatMap((change) =>
        change.entryId === row.entryId && change.cancelled ? change.recurrence : [],
      ),
      lastEnd:
        ends.find((each) => each.entryId === row.entryId)?.end ?? row.end ?? start + row.minutes * MINUTE,
    }
  })
}

const wallOf = (text: string): number => wallFromText(text) ?? 0

/** How a series repeats, and each date that differs from it, in the meeting's own zone. */
export const repeatsInWords = (meeting: WholeMeeting): string[] =>
  seriesInWords({
    rule: meeting.rule,
    starts: wallOf(meeting.starts),
    changes: meeting.changes.map(({ recurrence, starts, place }) => ({
      recurrence: wallOf(recurrence),
      starts: starts === null ? null : wallOf(starts),
      place,
    })),
    cancelled: meeting.cancelledDates.map(wallOf),
  })

/** The coming dates of a series with a participant's answer to each; a few months of a weekly one. */
export const comingDates = async (sql: Sql, entryId: string, participantId: string, now: number) =>
  (
    await sql.query<{ recurrence: string; start: number; end: number; place: string; answer: Answer }>(
      `select ${wallSql('o.recurrence')} as recurrence, ${startMs('o.span')} as start, ${endMs('o.span')} as end,
              coalesce(v.place, e.place) as place, a.answer
         from occurrence o join entry e on e.id = o.entry_id
         join attendance a on a.occurrence_id = o.id and a.participant_id = $2
         left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
        where o.entry_id = $1 and upper(o.span) > $3 order by lower(o.span) limit 30`,
      [entryId, participantId, at(now)],
    )
  ).rows

/** A meeting as a participant gets it: what somebody wrote with an answer is for the organizer alone. */
export const meetingFor = (meeting: WholeMeeting, viewerId: string): Meeting => {
  const iOrganize = meeting.organizerId === viewerId
  return {
    ...meeting,
    start: new Date(meeting.start).toISOString(),
    end: new Date(meeting.end).toISOString(),
    places: meeting.places.map(({ id, name, siteId }) => ({ id, name, siteId })),
    iOrganize,
    recurrence: meeting.repeats ? meeting.recurrence : null,
    series: repeatsInWords(meeting),
    myAnswer: meeting.participants.find((participant) => participant.personId === viewerId)?.answer ?? null,
    participants: meeting.participants.map((participant) => ({
      ...participant,
      message: iOrganize || participant.personId === viewerId ? participant.message : '',
      answeredAt: participant.answeredAt?.toISOString() ?? null,
      seenAt: participant.seenAt?.toISOString() ?? null,
    })),
  }
}

export const takesPart = async (sql: Sql, entryId: string, personId: string): Promise<boolean> =>
  ((await sql.query('select 1 from participant where entry_id = $1 and person_id = $2', [entryId, personId]))
    .rowCount ?? 0) > 0

/** Notes that somebody has looked at their invitation; the first look counts. */
export const noteSeen = async (sql: Sql, entryId: string, personId: string, now: number): Promise<boolean> =>
  ((
    await sql.query(
      'update participant set seen_at = $3 where entry_id = $1 and person_id = $2 and seen_at is null and not organizer',
      [entryId, personId, at(now)],
    )
  ).rowCount ?? 0) > 0

export interface Invited {
  readonly personId: string | null
  readonly address: string | null
  readonly name: string
  readonly required: boolean
}

export const insertParticipants = async (
  sql: Sql,
  entryId: string,
  invited: readonly Invited[],
): Promise<void> => {
  await sql.query(
    `insert into participant (entry_id, person_id, guest_address, guest_name, required)
     select $1, * from unnest($2::uuid[], $3::text[], $4::text[], $5::boolean[])`,
    [
      entryId,
      invited.map((one) => one.personId),
      invited.map((one) => one.address),
      invited.map((one) => one.name),
      invited.map((one) => one.required),
    ],
  )
}

/** People of these addresses: a guest who turns out to be a colleague is invited as one. */
export const peopleByAddress = async (sql: Sql, addresses: readonly string[]) =>
  (
    await sql.query<{ id: string; address: string }>(
      'select id, address from person where address = any($1)',
      [addresses],
    )
  ).rows

/** Marks a meeting cancelled if its organizer asks and it is not yet; gives whether that changed anything. */
export const markCancelled = async (
  sql: Sql,
  entryId: string,
  organizerId: string,
  now: number,
): Promise<boolean> =>
  ((
    await sql.query(
      `update entry set cancelled_at = $3, sequence = sequence + 1, version = version + 1
        where id = $1 and owner_id = $2 and cancelled_at is null`,
      [entryId, organizerId, at(now)],
    )
  ).rowCount ?? 0) > 0

/** Ids of meetings that wait for a person's answer, soonest first. */
export const idsToAnswer = async (sql: Sql, personId: string, now: number): Promise<string[]> =>
  (
    await sql.query<{ entry_id: string }>(
      `select o.entry_id, min(lower(a.span)) as first from attendance a join occurrence o on o.id = a.occurrence_id
         join participant p on p.id = a.participant_id
        where a.person_id = $1 and a.answer = 'needs-action' and p.answer = 'needs-action' and upper(a.span) > $2
        group by o.entry_id order by first limit 50`,
      [personId, at(now)],
    )
  ).rows.map((row) => row.entry_id)

/** Ids of meetings that a person organizes for others from now on, those with the soonest date first. */
export const idsOrganized = async (sql: Sql, personId: string, now: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select e.id, min(lower(o.span)) as first from entry e join occurrence o on o.entry_id = e.id
        where e.owner_id = $1 and upper(o.span) > $2
          and exists (select 1 from participant p where p.entry_id = e.id and not p.organizer)
        group by e.id order by first limit 50`,
      [personId, at(now)],
    )
  ).rows.map((row) => row.id)

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

/** An answer as it is kept. `stamp` is when it was given, by the giver's clock; `now` when it came here. */
export interface KeptAnswer {
  readonly answer: Answer
  readonly message: string
  readonly answeredBy: string | null
  readonly stamp: number
  readonly now: number
}

/** Keeps an answer to all dates, those included that had an answer of their own. */
export const setAnswer = async (sql: Sql, participantId: string, given: KeptAnswer): Promise<void> => {
  await sql.query(
    `update participant set answer = $2, message = $3, answered_at = $4, seen_at = coalesce(seen_at, $4),
            answered_by = $5, answer_stamp = $6 where id = $1`,
    [participantId, given.answer, given.message, at(given.now), given.answeredBy, at(given.stamp)],
  )
  await sql.query(
    `update attendance set answer = $2, message = null, answered_at = null, answered_by = null, answer_stamp = null
      where participant_id = $1`,
    [participantId, given.answer],
  )
}

/** Keeps an answer to one date of a series. False when there is no such date. */
export const setAnswerOn = async (
  sql: Sql,
  participantId: string,
  entryId: string,
  recurrence: string,
  given: KeptAnswer,
): Promise<boolean> => {
  await sql.query('update participant set seen_at = coalesce(seen_at, $2) where id = $1', [
    participantId,
    at(given.now),
  ])
  const set = await sql.query(
    `update attendance a set answer = $4, message = $5, answered_at = $6, answered_by = $7, answer_stamp = $8
       from occurrence o
      where a.occurrence_id = o.id and a.participant_id = $1 and o.entry_id = $2 and o.recurrence = $3`,
    [
      participantId,
      entryId,
      recurrence,
      given.answer,
      given.message,
      at(given.now),
      given.answeredBy,
      at(given.stamp),
    ],
  )
  return (set.rowCount ?? 0) > 0
}

/** Calls off one date of a series; gives whether that changed anything. */
export const markDateCancelled = async (sql: Sql, entryId: string, recurrence: string): Promise<boolean> => {
  // Locked, since whoever cancels the whole of it in the same second must not be followed by a letter about a date.
  const stands = await sql.query('select 1 from entry where id = $1 and cancelled_at is null for update', [
    entryId,
  ])
  if (!stands.rowCount) return false
  const marked = await sql.query(
    `insert into override (entry_id, recurrence, cancelled) values ($1, $2, true)
     on conflict (entry_id, recurrence) do update set cancelled = true where not override.cancelled`,
    [entryId, recurrence],
  )
  if (!marked.rowCount) return false
  await sql.query('update entry set version = version + 1 where id = $1', [entryId])
  return true
}
