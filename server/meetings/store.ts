import type { Meeting, Participant } from '@marmot/contract/meetings'
import type { Answer } from '@marmot/core/sharing'
import { instantOf, MINUTE, wallFromText, zoneTable } from '@marmot/core/time'
import { at, endMs, type Sql, startMs, wallSql } from '../platform/database.ts'

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
}

const readParticipants = (sql: Sql, entryIds: readonly string[]) =>
  sql.query<ParticipantRow>(
    `select p.entry_id as "entryId", p.id, p.person_id as "personId",
            coalesce(w.name, nullif(p.guest_name, ''), p.guest_address) as name,
            coalesce(w.address, p.guest_address) as address, w.zone, p.required, p.organizer, p.answer, p.message,
            (select b.name from person b where b.id = p.answered_by) as "answeredBy",
            p.answered_at as "answeredAt", p.seen_at as "seenAt",
            coalesce((select m.state from mail m where m.participant_id = p.id order by m.sequence desc, m.written_at desc
                       limit 1), 'none') as mail
       from participant p left join person w on w.id = p.person_id
      where p.entry_id = any($1)
      order by p.organizer desc, p.required desc, name`,
    [entryIds],
  )

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
            ${wallSql('e.starts')} as starts, e.minutes, ${startMs('d.span')} as start, ${endMs('d.span')} as end
       from entry e join person o on o.id = e.owner_id
       left join lateral (
         select c.span, c.recurrence from occurrence c where c.entry_id = e.id
          order by (c.recurrence = $3::timestamp) desc nulls last, (upper(c.span) > $2) desc, case when upper(c.span) > $2 then lower(c.span) end,
                   lower(c.span) desc limit 1) d on true
       left join override v on v.entry_id = e.id and v.recurrence = d.recurrence
      where e.id = any($1) and e.deleted_at is null`,
    [entryIds, at(now), recurrence],
  )
  const participants = await readParticipants(sql, entryIds)
  const places = await sql.query<{ entryId: string; id: string; name: string; siteId: string }>(
    `select distinct r.entry_id as "entryId", s.id, s.name, s.site_id as "siteId" from reservation r
       join resource s on s.id = r.resource_id where r.entry_id = any($1) and r.state <> 'released' order by s.name`,
    [entryIds],
  )
  const changes = await sql.query<WholeMeeting['changes'][number] & { entryId: string }>(
    `select entry_id as "entryId", ${wallSql('recurrence')} as recurrence, ${wallSql('starts')} as starts, place
       from override where entry_id = any($1) and not cancelled order by recurrence`,
    [meetings.rows.filter((row) => row.repeats).map((row) => row.entryId)],
  )
  return meetings.rows.map((row) => {
    const start = row.start ?? instantOf(zoneTable(row.zone), wallFromText(row.starts) ?? 0)
    return {
      ...row,
      start,
      end: row.end ?? start + row.minutes * MINUTE,
      participants: participants.rows.filter((participant) => participant.entryId === row.entryId),
      places: places.rows.filter((place) => place.entryId === row.entryId),
      changes: changes.rows.filter((change) => change.entryId === row.entryId),
    }
  })
}

/** A meeting as a participant gets it: what somebody wrote with an answer is for the organizer alone. */
export const meetingFor = (meeting: WholeMeeting, viewerId: string): Meeting => {
  const iOrganize = meeting.organizerId === viewerId
  return {
    ...meeting,
    start: new Date(meeting.start).toISOString(),
    end: new Date(meeting.end).toISOString(),
    places: meeting.places.map(({ id, name, siteId }) => ({ id, name, siteId })),
    iOrganize,
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

export const setPlaceWords = async (sql: Sql, entryId: string, place: string): Promise<void> => {
  await sql.query('update entry set place = $2 where id = $1', [entryId, place])
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

/** Ids of single meetings that a person organizes for others from now on, soonest first. */
export const idsOrganized = async (sql: Sql, personId: string, now: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select e.id from entry e join occurrence o on o.entry_id = e.id
        where e.owner_id = $1 and e.rule is null and upper(o.span) > $2
          and exists (select 1 from participant p where p.entry_id = e.id and not p.organizer)
        order by lower(o.span) limit 50`,
      [personId, at(now)],
    )
  ).rows.map((row) => row.id)

export const setAnswer = async (
  sql: Sql,
  participantId: string,
  answer: Answer,
  message: string,
  answeredBy: string | null,
  now: number,
): Promise<void> => {
  await sql.query(
    `update participant set answer = $2, message = $3, answered_at = $4, seen_at = coalesce(seen_at, $4),
            answered_by = $5 where id = $1`,
    [participantId, answer, message, at(now), answeredBy],
  )
  await sql.query('update attendance set answer = $2 where participant_id = $1', [participantId, answer])
}
