import type { Participant } from '@marmot/contract/meetings'
import type { Contact } from '@marmot/core/feeds'
import { seriesInWords } from '@marmot/core/invitations'
import type { Part, ToldDate } from '@marmot/core/letters'
import type { AskWhom } from '@marmot/core/reservations'
import type { Answer, SpanState } from '@marmot/core/sharing'
import { DAY, instantOf, MINUTE, wallFromText, zoneTable } from '@marmot/core/time'
import { at, endMs, type Sql, startMs, together, wallSql } from '../platform/database.ts'
import { takesPartSql } from './dates.ts'
import { type Conference, ENTRY_FIELDS, readOverrideSql } from './fields.ts'
import {
  datesOfMany,
  placesOf,
  placesOfEntries,
  type ReservedPlace,
  whereDatesAre,
  whereOf,
} from './places.ts'

interface MeetingRow {
  entryId: string
  uid: string
  title: string
  note: string
  place: string
  zone: string
  organizer: string
  /** Null where somebody outside organizes it. */
  organizerId: string | null
  organizerAddress: string
  organizerZone: string
  cancelled: boolean
  /** True for a hold. */
  held: boolean
  /** Of a meeting from outside: its UID and SEQUENCE there, and who else is in it. */
  sourceUid: string | null
  sourceSequence: number
  /** Whether it is some dates of a series alone. */
  sourceDates: boolean
  contacts: readonly Contact[]
  /** Why, in the words of whoever cancelled it. */
  cancelReason: string
  /** Whether those who have not answered are nudged by themselves. */
  autoNudge: boolean
  /** Whether an answer is wanted at all. */
  rsvp: boolean
  /** How one joins it from afar, where that is wanted. */
  conference: Conference | null
  shows: SpanState
  purpose: string
  headCount: number | null
  /** At which site it was said to be out of doors. */
  outdoorsSaid: string | null
  contact: AskWhom | null
  repeats: boolean
  rule: string | null
  added: string[]
  excepted: string[]
  version: number
  /** The version from which on its time and place are those of now: answers to older ones are asked for again. */
  askedVersion: number
  sequence: number
  /** The series that this one goes on from, by what name its first date went there, and the last version that had it. */
  splitFrom: string | null
  splitAt: string | null
  splitVersion: number | null
  starts: string
  minutes: number
  start: number | null
  end: number | null
  /** The date that this is. */
  recurrence: string | null
  occurrenceId: string | null
  /** What all dates of it have that have nothing of their own. */
  usualTitle: string
  usualNote: string
  usualPlace: string
}

interface ParticipantRow
  extends Omit<Participant, 'answeredAt' | 'seenAt' | 'mail' | 'mailMethod' | 'nudgedAt'> {
  entryId: string
  /** Whether they take part in the date that this is. */
  here: boolean
  guestName: string
  /** Their answer, whether or not they keep it to themselves; to others they have not answered then. */
  ownAnswer: Answer
  quiet: boolean
  /** Their answer to all dates that have none of their own, as others know it. */
  seriesAnswer: Answer
  answeredAt: Date | null
  /** Of whoever takes part in somebody's place, that one's address. */
  delegatedFromAddress: string | null
  /** The version of the meeting that the answer is to; 0 where there is none. */
  answeredVersion: number
  seenAt: Date | null
}

/** A meeting as the server knows it: what its messages and pages are made of. */
export interface WholeMeeting extends Omit<MeetingRow, 'start' | 'end'> {
  readonly start: number
  readonly end: number
  /** Everybody who takes part in any of its dates. */
  readonly participants: readonly (ParticipantRow & Part)[]
  /** The places reserved for the date that this is. */
  readonly places: readonly ReservedPlace[]
  /** Whether places are reserved for any of its dates. */
  readonly placed: boolean
  /** Of those the ones that are only asked for as yet, as where something is names them. */
  readonly asked: readonly string[]
  /** Dates of a series that differ from its rule, or from the others. Walls as `YYYY-MM-DDTHH:mm`; null is as usual. */
  readonly changes: readonly ToldDate[]
  /** Dates of a series that were called off. */
  readonly cancelledDates: readonly string[]
  /** Why dates were called off, by their names, where somebody said so. */
  readonly reasons: ReadonlyMap<string, string>
  /** The end of the last date that is written out, in milliseconds. */
  readonly lastEnd: number
}

/** Who takes part in a date: of a meeting, in the one that it is seen at. */
export const presentIn = (
  { participants }: Pick<WholeMeeting, 'participants'>,
  recurrence?: string | null,
): WholeMeeting['participants'] =>
  participants.filter((one) =>
    recurrence === undefined
      ? one.here
      : one.everyDate !== (recurrence !== null && one.otherwise.includes(recurrence)),
  )

/** Whether it is a reservation alone: it has places, and nobody takes part but whose it is. */
export const isReservation = ({
  participants,
  placed,
  held,
}: Pick<WholeMeeting, 'participants' | 'placed' | 'held'>): boolean =>
  placed && !held && participants.every((one) => one.organizer)

/** Everybody who takes part, with the answers that stand for one date of each meeting: of a series, to that date. */
const readParticipants = (sql: Sql, entryIds: readonly string[], dates: readonly (string | null)[]) =>
  sql.query<ParticipantRow>(
    `select p.entry_id as "entryId", p.id, p.person_id as "personId",
            coalesce(w.name, nullif(p.guest_name, ''), p.guest_address) as name,
            coalesce(w.address, p.guest_address) as address, p.guest_name as "guestName", w.zone, p.required,
            p.organizer and e.organizer_address is null as organizer,
            p.every_date as "everyDate", ${takesPartSql('p', 'sd')} as here,
            case when g.quiet then 'needs-action' else coalesce(a.answer, p.answer) end as answer,
            coalesce(a.answer, p.answer) as "ownAnswer", g.quiet,
            case when p.quiet then 'needs-action' else p.answer end as "seriesAnswer",
            case when g.quiet then '' when g.dated then coalesce(a.message, '') else p.message end as message,
            (select b.name from person b
              where b.id = case when g.dated then a.answered_by else p.answered_by end and not g.quiet) as "answeredBy",
            case when not g.quiet then coalesce(a.answered_at, p.answered_at) end as "answeredAt", p.seen_at as "seenAt",
            coalesce(a.answered_version, p.answered_version, 0) as "answeredVersion",
            coalesce(f.name, nullif(q.guest_name, ''), q.guest_address) as "delegatedFrom",
            coalesce(f.address, q.guest_address) as "delegatedFromAddress"
       from unnest($1::uuid[], $2::timestamp[]) d(entry_id, recurrence)
       join entry e on e.id = d.entry_id
       join participant p on p.entry_id = d.entry_id
       left join person w on w.id = p.person_id
       left join occurrence o on o.entry_id = d.entry_id and o.recurrence = d.recurrence and o.gone_at is null
       left join attendance a on a.occurrence_id = o.id and a.participant_id = p.id
       left join participant_date sd on sd.occurrence_id = o.id and sd.participant_id = p.id
       left join participant q on q.id = p.delegated_from
       left join person f on f.id = q.person_id
       -- An answer to the date itself counts before one to all; who keeps theirs to themselves has said nothing.
       cross join lateral (
         select a.answered_at is not null as dated,
                case when a.answered_at is null then p.quiet else a.quiet end as quiet) g
      order by organizer desc, p.required desc, name`,
    [entryIds, dates],
  )

/** At which dates of series somebody takes part otherwise than usual: not, or only there. */
const readSomeDates = async (sql: Sql, entryIds: readonly string[]) =>
  (
    await sql.query<{ participantId: string; recurrence: string }>(
      `select p.id as "participantId", ${wallSql('o.recurrence')} as recurrence
         from participant p join participant_date d on d.participant_id = p.id and d.takes_part <> p.every_date
         join occurrence o on o.id = d.occurrence_id and o.entry_id = p.entry_id and o.gone_at is null
        where p.entry_id = any($1) order by o.recurrence`,
      [entryIds],
    )
  ).rows

/** The dates of series that differ from their rule, or were called off. */
const readOverrides = async (sql: Sql, entryIds: readonly string[]) =>
  (
    await sql.query<ToldDate & { entryId: string; cancelled: boolean; cancelReason: string | null }>(
      `select v.entry_id as "entryId", ${readOverrideSql('v')} from override v
        where v.entry_id = any($1) order by v.recurrence`,
      [entryIds],
    )
  ).rows

const NOTHING_OWN = { starts: null, minutes: null, title: null, note: null, place: null }

/** When the last date of each series that is written out ends, in milliseconds. */
const readEnds = async (sql: Sql, entryIds: readonly string[]) =>
  (
    await sql.query<{ entryId: string; end: number }>(
      `select entry_id as "entryId", max(${endMs('span')}) as end from occurrence
        where entry_id = any($1) and gone_at is null group by entry_id`,
      [entryIds],
    )
  ).rows

/** The dates of a series that differ from the others: in their time, their words, or where they are. */
const changesOf = (
  overrides: readonly (ToldDate & { cancelled: boolean })[],
  otherwise: ReadonlyMap<string, string>,
): ToldDate[] => {
  const own = new Map(overrides.flatMap((one) => (one.cancelled ? [] : [[one.recurrence, one]])))
  return [...new Set([...own.keys(), ...otherwise.keys()])].sort().flatMap((recurrence) => {
    const { starts, minutes, title, note } = own.get(recurrence) ?? NOTHING_OWN
    const change = { starts, minutes, title, note, place: otherwise.get(recurrence) ?? null }
    return Object.values(change).every((value) => value === null) ? [] : [{ recurrence, ...change }]
  })
}

const NONE: Promise<never[]> = Promise.resolve([])

interface ReadingMeetings {
  readonly recurrence?: string | null
  readonly deletedToo?: boolean
  /** A person, or a participant, by their id: who takes part in some dates alone sees one of theirs first. */
  readonly seenBy?: string | null
}

/**
 * Meetings by their ids, whole, each at its next date (a past one at its last), or at the date that is named. Unknown ids
 * are left out.
 */
export const readMeetings = async (
  sql: Sql,
  entryIds: readonly string[],
  now: number,
  { recurrence = null, deletedToo = false, seenBy = null }: ReadingMeetings = {},
): Promise<WholeMeeting[]> => {
  const meetings = await sql.query<MeetingRow>(
    `select e.id as "entryId", e.uid, coalesce(v.title, e.title) as title, coalesce(v.note, e.note) as note,
            coalesce(v.place, e.place) as place, e.title as "usualTitle", e.note as "usualNote",
            e.place as "usualPlace", e.zone,
            coalesce(nullif(e.organizer_name, ''), e.organizer_address, o.name) as organizer,
            case when e.organizer_address is null then o.id end as "organizerId",
            coalesce(e.organizer_address, o.address) as "organizerAddress",
            case when e.organizer_address is null then o.zone else e.zone end as "organizerZone",
            e.source_uid as "sourceUid", e.source_sequence as "sourceSequence", e.source_dates as "sourceDates",
            case when e.organizer_address is null then '[]' else e.contacts end as contacts,
            (e.cancelled_at is not null) as cancelled, (e.lapses_at is not null) as held, e.cancel_reason as "cancelReason", e.auto_nudge as "autoNudge", e.rsvp, e.conference, e.shows, e.purpose, e.head_count as "headCount", e.outdoors_site_id as "outdoorsSaid", e.contact, (e.rule is not null) as repeats, e.rule,
            ${ENTRY_FIELDS.added.read('e.added')} as added, ${ENTRY_FIELDS.excepted.read('e.excepted')} as excepted, e.version,
            e.asked_version as "askedVersion", e.sequence, e.split_from as "splitFrom", ${wallSql('e.split_at')} as "splitAt",
            e.split_version as "splitVersion",
            ${wallSql('e.starts')} as starts, e.minutes, ${startMs('d.span')} as start, ${endMs('d.span')} as end,
            ${wallSql('d.recurrence')} as recurrence, d.id as "occurrenceId"
       from entry e join person o on o.id = e.owner_id
       left join participant me on me.entry_id = e.id and (me.person_id = $5 or me.id = $5) and not me.every_date
       left join lateral (
         select c.id, c.span, c.recurrence from occurrence c where c.entry_id = e.id and c.gone_at is null
          order by (c.recurrence = $3::timestamp) desc nulls last,
                   (me.id is null or exists (
                     select 1 from attendance a where a.occurrence_id = c.id and a.participant_id = me.id)) desc,
                   (upper(c.span) > $2) desc, case when upper(c.span) > $2 then lower(c.span) end,
                   lower(c.span) desc limit 1) d on true
       left join override v on v.entry_id = e.id and v.recurrence = d.recurrence
      where e.id = any($1) and ($4 or e.deleted_at is null)`,
    [entryIds, at(now), recurrence, deletedToo, seenBy],
  )
  const series = meetings.rows.filter((row) => row.repeats).map((row) => row.entryId)
  const ids = meetings.rows.map((row) => row.entryId)
  const [participants, dates, overrides, ends, places, someDates] = await together([
    readParticipants(
      sql,
      ids,
      meetings.rows.map((row) => row.recurrence),
    ),
    datesOfMany(sql, ids),
    series.length ? readOverrides(sql, series) : NONE,
    series.length ? readEnds(sql, series) : NONE,
    placesOfEntries(sql, ids),
    series.length ? readSomeDates(sql, series) : NONE,
  ])
  const otherwiseOf = (participantId: string): string[] =>
    someDates.flatMap((one) => (one.participantId === participantId ? one.recurrence : []))
  return meetings.rows.map((row) => {
    const start = row.start ?? instantOf(zoneTable(row.zone), wallFromText(row.starts) ?? 0)
    const own = dates.filter((date) => date.entryId === row.entryId)
    const differing = overrides.filter((one) => one.entryId === row.entryId)
    const { usual, otherwise } = whereDatesAre(places, own, row.usualPlace, differing)
    const changes = changesOf(differing, otherwise)
    return {
      ...row,
      start,
      end: row.end ?? start + row.minutes * MINUTE,
      place: whereOf(places, row.occurrenceId, row.place),
      usualPlace: usual,
      participants: participants.rows
        .filter((participant) => participant.entryId === row.entryId)
        .map((participant) => ({ ...participant, otherwise: otherwiseOf(participant.id) })),
      places: [...(places.get(row.occurrenceId ?? '') ?? [])].sort((a, b) => a.name.localeCompare(b.name)),
      placed: own.some((date) => places.has(date.id)),
      asked: [
        ...new Set(
          own.flatMap((date) =>
            (places.get(date.id) ?? []).flatMap((one) => (one.requested ? `${one.name}, ${one.site}` : [])),
          ),
        ),
      ],
      changes: row.repeats ? changes : [],
      cancelledDates: differing.flatMap((one) => (one.cancelled ? one.recurrence : [])),
      reasons: new Map(
        differing.flatMap((one): [string, string][] =>
          one.cancelled && one.cancelReason ? [[one.recurrence, one.cancelReason]] : [],
        ),
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
    off: [...meeting.excepted, ...meeting.cancelledDates].map(wallOf),
    added: meeting.added.map(wallOf),
  })

/** The coming dates of a series with a participant's answer to each; a few months of a weekly one. */
export const comingDates = async (sql: Sql, entryId: string, participantId: string, now: number) => {
  const dates = (
    await sql.query<{
      id: string
      recurrence: string
      start: number
      end: number
      place: string
      answer: Answer
    }>(
      `select o.id, ${wallSql('o.recurrence')} as recurrence, ${startMs('o.span')} as start, ${endMs('o.span')} as end,
              coalesce(v.place, e.place) as place, a.answer
         from occurrence o join entry e on e.id = o.entry_id
         join attendance a on a.occurrence_id = o.id and a.participant_id = $2
         left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
        where o.entry_id = $1 and upper(o.span) > $3 order by lower(o.span) limit 30`,
      [entryId, participantId, at(now)],
    )
  ).rows
  const places = await placesOf(
    sql,
    dates.map((date) => date.id),
  )
  return dates.map(({ id, ...date }) => ({ ...date, place: whereOf(places, id, date.place) }))
}

/** So long before a date those who have not answered are nudged by themselves. */
const AUTO_NUDGE_AHEAD = 2 * DAY
/** A date whose invited are to be nudged by themselves. */
export interface DateToNudge {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
}

/**
 * Takes up the next date whose invited are to be nudged by themselves from now on: each once for each start that it has,
 * also where two servers ask. Those with the ids `besides` are left for another time.
 */
export const takeDateToNudge = async (
  sql: Sql,
  now: number,
  besides: readonly string[],
): Promise<DateToNudge | null> =>
  (
    await sql.query<DateToNudge>(
      `with due as (
         select o.id from entry e join occurrence o on o.entry_id = e.id
          where e.auto_nudge and e.rsvp and e.deleted_at is null and e.cancelled_at is null and o.gone_at is null
            and lower(o.span) > $1 and lower(o.span) <= $2 and o.nudged_for is distinct from lower(o.span)
            and o.id <> all($3)
          order by lower(o.span) limit 1 for update of o skip locked)
       update occurrence o set nudged_for = lower(o.span) from due where o.id = due.id
       returning o.id, o.entry_id as "entryId", ${wallSql('o.recurrence')} as recurrence`,
      [at(now), at(now + AUTO_NUDGE_AHEAD), besides],
    )
  ).rows[0] ?? null

/** Ids of meetings that wait for a person's answer, soonest first. */
export const idsToAnswer = async (sql: Sql, personId: string, now: number): Promise<string[]> =>
  (
    await sql.query<{ entry_id: string }>(
      `select o.entry_id, min(lower(a.span)) as first from attendance a join occurrence o on o.id = a.occurrence_id
         join entry e on e.id = o.entry_id and e.rsvp
        where a.person_id = $1 and a.answer = 'needs-action' and upper(a.span) > $2
        group by o.entry_id order by first limit 50`,
      [personId, at(now)],
    )
  ).rows.map((row) => row.entry_id)

/** A meeting to which somebody was invited, at its next date, or its last where all are over. */
export interface Invitation {
  readonly entryId: string
  readonly recurrence: string
  readonly title: string
  readonly place: string
  readonly start: number
  readonly end: number
  readonly allDay: boolean
  readonly repeats: boolean
  readonly organizer: string
  readonly answer: Answer
}

/** The meetings to which a person was invited, of which a date ends after an instant, at most so many; soonest first. */
export const invitationsOf = async (
  sql: Sql,
  personId: string,
  since: number,
  now: number,
  most: number,
): Promise<Invitation[]> =>
  (
    await sql.query<Invitation>(
      `with one as (
         select distinct on (o.entry_id) o.entry_id, o.recurrence, a.span, a.answer
           from attendance a join occurrence o on o.id = a.occurrence_id
           join participant p on p.id = a.participant_id and not p.organizer
          where a.person_id = $1 and a.span && tstzrange($2, null)
          order by o.entry_id, upper(a.span) <= $3, case when upper(a.span) > $3 then lower(a.span) end, lower(a.span) desc)
       select e.id as "entryId", ${wallSql('one.recurrence')} as recurrence, coalesce(v.title, e.title) as title,
              coalesce(v.place, e.place) as place, ${startMs('one.span')} as start, ${endMs('one.span')} as end,
              e.all_day as "allDay", (e.rule is not null or e.added <> '{}') as repeats, one.answer,
              case when e.organizer_address is null then (select o.name from person o where o.id = e.owner_id)
                   else coalesce(nullif(e.organizer_name, ''), e.organizer_address) end as organizer
         from one join entry e on e.id = one.entry_id and e.deleted_at is null
         left join override v on v.entry_id = one.entry_id and v.recurrence = one.recurrence
        where e.lapses_at is null or e.lapses_at > $3
        order by upper(one.span) <= $3, lower(one.span), e.id limit $4`,
      [personId, at(since), at(now), most],
    )
  ).rows

/** Ids of meetings that a person organizes for others from now on, those with the soonest date first. */
export const idsOrganized = async (sql: Sql, personId: string, now: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select e.id, min(lower(o.span)) as first from entry e join occurrence o on o.entry_id = e.id and o.gone_at is null
        where e.owner_id = $1 and upper(o.span) > $2
          and exists (select 1 from participant p where p.entry_id = e.id and not p.organizer)
        group by e.id order by first limit 50`,
      [personId, at(now)],
    )
  ).rows.map((row) => row.id)
