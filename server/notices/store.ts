import type { Notice } from '@marmot/contract/notices'
import type { TodoNotice } from '@marmot/core/todos'
import { at, type Sql, wallSql } from '../platform/database.ts'

/** SQL for the date of an entry that a wall time names; null where it names none. One that stands counts first. */
const OCCURRENCE = (entry: string, recurrence: string): string =>
  `(select o.id from occurrence o where o.entry_id = ${entry}::uuid and o.recurrence = ${recurrence}::timestamp
     order by o.gone_at desc limit 1)`

/**
 * Writes a notice of a meeting for some people, beside the letters that tell them: that they were invited, that it changed
 * or was cancelled, and by whose stand-in. Of a series, about one date where it is named.
 */
export const addMeetingNotices = async (
  sql: Sql,
  entryId: string,
  notices: readonly {
    readonly personId: string
    readonly kind: 'invited' | 'changed' | 'cancelled' | 'nudged' | 'kept'
    readonly recurrence: string | null
    /** What whoever did it said of it. */
    readonly words: string
  }[],
  actorId: string | null,
  now: number,
): Promise<void> => {
  if (notices.length === 0) return
  await sql.query(
    `insert into notice (person_id, kind, entry_id, at, actor_id, words, occurrence_id)
     select d.person, d.kind, $1, $2, $3, d.words, ${OCCURRENCE('$1', 'd.recurrence')}
       from unnest($4::uuid[], $5::text[], $6::timestamp[], $7::text[]) d(person, kind, recurrence, words)
      where d.person is distinct from $3`,
    [
      entryId,
      at(now),
      actorId,
      notices.map((one) => one.personId),
      notices.map((one) => one.kind),
      notices.map((one) => one.recurrence),
      notices.map((one) => one.words),
    ],
  )
}

/** Takes back the notices that were written beside letters: to whom they were, and when, in milliseconds. */
export const takeBackMeetingNotices = async (
  sql: Sql,
  entryId: string,
  letters: readonly { readonly personId: string | null; readonly writtenAt: number }[],
): Promise<void> => {
  if (letters.length === 0) return
  await sql.query(
    `delete from notice n using unnest($2::uuid[], $3::timestamptz[]) l(person, at)
      where n.person_id = l.person and n.at = l.at and n.entry_id = $1
        and n.kind in ('invited', 'changed', 'cancelled')`,
    [entryId, letters.map((one) => one.personId), letters.map((one) => at(one.writtenAt))],
  )
}

/**
 * Tells people what becomes of a place that is asked for: its steward that it is, whoever asked what was decided. Of an entry,
 * where there is one already.
 */
export const addPlaceNotices = async (
  sql: Sql,
  entryId: string | null,
  notices: readonly {
    readonly personId: string
    readonly kind:
      | 'asked'
      | 'granted'
      | 'refused'
      | 'lapsed'
      | 'moved'
      | 'room-made'
      | 'no-room'
      | 'time-taken'
      | 'time-kept'
    readonly words: string
  }[],
  actorId: string | null,
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into notice (person_id, kind, entry_id, at, actor_id, words)
     select d.person, d.kind, $1, $2, $3, d.words from unnest($4::uuid[], $5::text[], $6::text[]) d(person, kind, words)`,
    [
      entryId,
      at(now),
      actorId,
      notices.map((one) => one.personId),
      notices.map((one) => one.kind),
      notices.map((one) => one.words),
    ],
  )
}

/** Something told to somebody: what kind of thing, and the words with it. */
interface Told<Kind extends string> {
  readonly personId: string
  readonly kind: Kind
  readonly words: string
}
/** Who did it: a person with an account, or somebody by their name alone. */
interface Doer {
  readonly actorId: string | null
  readonly name: string
}

const addNamed = async (
  sql: Sql,
  column: 'poll_id' | 'entry_id' | 'todo_id',
  subjectId: string | null,
  notices: readonly Told<string>[],
  by: Doer,
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into notice (person_id, kind, ${column}, at, actor_id, by_name, words)
     select d.person, d.kind, $1, $2, $3, $4, d.words from unnest($5::uuid[], $6::text[], $7::text[]) d(person, kind, words)`,
    [
      subjectId,
      at(now),
      by.actorId,
      by.name,
      notices.map((one) => one.personId),
      notices.map((one) => one.kind),
      notices.map((one) => one.words),
    ],
  )
}

/** Tells people what becomes of a poll. `by` is a colleague, or somebody without an account by their name. */
export const addPollNotices = (
  sql: Sql,
  pollId: string,
  notices: readonly Told<
    'poll-asked' | 'poll-marked' | 'poll-proposed' | 'poll-over' | 'poll-daily' | 'poll-ended'
  >[],
  by: Doer,
  now: number,
): Promise<void> => addNamed(sql, 'poll_id', pollId, notices, by, now)

/** Tells people what somebody from outside did with a visit to them, who has no account, by their name. */
export const addVisitNotices = (
  sql: Sql,
  entryId: string | null,
  notices: readonly Told<'visit-taken' | 'visit-moved' | 'visit-cancelled' | 'visit-hosting'>[],
  by: Doer,
  now: number,
): Promise<void> => addNamed(sql, 'entry_id', entryId, notices, by, now)

/** Tells the organizer that somebody answered. */
export const addAnswerNotice = async (
  sql: Sql,
  notice: {
    entryId: string
    organizerId: string
    participantId: string
    answer: string
    recurrence: string | null
  },
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into notice (person_id, kind, entry_id, participant_id, answer, at, occurrence_id)
     values ($1, 'answered', $2, $3, $4, $5, ${OCCURRENCE('$2', '$6')})`,
    [notice.organizerId, notice.entryId, notice.participantId, notice.answer, at(now), notice.recurrence],
  )
}

/** Tells some people that somebody meant them in what is said about a date of a meeting; not what, since that can be taken out. */
export const addMeantNotices = async (
  sql: Sql,
  notice: {
    readonly entryId: string
    readonly occurrenceId: string
    readonly people: readonly string[]
    /** Who said it, as a person or as a participant. */
    readonly actorId: string | null
    readonly participantId: string | null
  },
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into notice (person_id, kind, entry_id, occurrence_id, actor_id, participant_id, at)
     select person, 'meant', $2, $3, $4, $5, $6 from unnest($1::uuid[]) person`,
    [notice.people, notice.entryId, notice.occurrenceId, notice.actorId, notice.participantId, at(now)],
  )
}

/** Tells the organizer that somebody proposed another time. */
export const addProposalNotice = async (
  sql: Sql,
  notice: {
    entryId: string
    organizerId: string
    /** Somebody who is invited, or a person who is not. */
    by: { readonly participantId: string } | { readonly personId: string }
    recurrence: string | null
    words: string
  },
  now: number,
): Promise<void> => {
  const { by } = notice
  await sql.query(
    `insert into notice (person_id, kind, entry_id, participant_id, words, at, occurrence_id, actor_id)
     values ($1, 'proposed', $2, $3, $4, $5, ${OCCURRENCE('$2', '$6')}, $7)`,
    [
      notice.organizerId,
      notice.entryId,
      'participantId' in by ? by.participantId : null,
      notice.words,
      at(now),
      notice.recurrence,
      'personId' in by ? by.personId : null,
    ],
  )
}

/** How often somebody has answered since an instant. */
export const answersSince = async (sql: Sql, participantId: string, since: number): Promise<number> =>
  (
    await sql.query<{ n: number }>(
      "select count(*) as n from notice where participant_id = $1 and kind = 'answered' and at > $2",
      [participantId, at(since)],
    )
  ).rows[0]?.n ?? 0

/** Tells an owner that somebody did something for them; the change says what. */
export const addActNotice = async (
  sql: Sql,
  ownerId: string,
  actorId: string,
  changeId: string,
  now: number,
): Promise<void> => {
  await sql.query(
    "insert into notice (person_id, kind, entry_id, actor_id, change_id, at) select $1, 'acted', entry_id, $2, id, $4 from change where id = $3",
    [ownerId, actorId, changeId, at(now)],
  )
}

/** Tells people that an owner lets them see or do more than before. */
export const addSharedNotices = async (
  sql: Sql,
  people: readonly string[],
  ownerId: string,
  words: string,
  now: number,
): Promise<void> => {
  await sql.query(
    "insert into notice (person_id, kind, actor_id, words, at) select *, 'shared', $2, $3, $4 from unnest($1::uuid[])",
    [people, ownerId, words, at(now)],
  )
}

/** Tells people what becomes of a to-do that they gave or were given. */
export const addTodoNotices = async (
  sql: Sql,
  todoId: string,
  notices: readonly Told<TodoNotice>[],
  actorId: string,
  now: number,
): Promise<void> => addNamed(sql, 'todo_id', todoId, notices, { actorId, name: '' }, now)

/** A person's newest notices: of meetings they take part in, of what was done for them, of what they were given. */
export const readNotices = async (sql: Sql, personId: string): Promise<Notice[]> => {
  const rows = await sql.query<Omit<Notice, 'at'> & { at: Date }>(
    `select n.id, n.kind, n.entry_id as "entryId", n.poll_id as "pollId", n.todo_id as "todoId", coalesce(td.title, c.title, case when mine.every_date then e.title else t.told ->> 'title' end, q.wish ->> 'title', '') as title, n.answer, n.at,
            case when n.kind in ('answered', 'proposed') then coalesce(b.name || ' for ', '') || coalesce(w.name, nullif(p.guest_name, ''), p.guest_address, a.name)
                 when n.kind in ('acted', 'shared', 'granted', 'refused', 'moved', 'time-taken', 'time-kept') then a.name
                 when n.kind in ('room-made', 'no-room') then coalesce(a.name, 'Somebody')
                 when n.poll_id is not null or n.todo_id is not null or n.kind like 'visit-%' then coalesce(a.name, n.by_name)
                 when n.kind = 'meant' then coalesce(a.name, w.name, nullif(p.guest_name, ''), p.guest_address)
                 else coalesce(a.name || ' for ', '') || coalesce(nullif(e.organizer_name, ''), e.organizer_address, o.name) end as who,
            case n.kind when 'answered' then coalesce(d.message, p.message) when 'acted' then c.kind else n.words end
              as message, ${wallSql('o2.recurrence')} as recurrence, e.rule is not null as repeats
       from notice n left join entry e on e.id = n.entry_id left join person o on o.id = e.owner_id
       left join participant mine on mine.entry_id = n.entry_id and mine.person_id = n.person_id
       -- Who was let off knows what they were told, and not what has become of it since; who was asked to some dates, those.
       left join lateral (
         select x.told from letter l join telling x on x.id = l.about_id
          where l.entry_id = n.entry_id and l.person_id = n.person_id order by l.number desc limit 1) t on mine.every_date is not true
       left join poll q on q.id = n.poll_id left join todo td on td.id = n.todo_id left join participant p on p.id = n.participant_id left join person w on w.id = p.person_id
       left join person b on b.id = p.answered_by
       left join person a on a.id = n.actor_id left join change c on c.id = n.change_id
       left join occurrence o2 on o2.id = n.occurrence_id
       left join attendance d on d.occurrence_id = o2.id and d.participant_id = n.participant_id
      where n.person_id = $1 order by n.at desc limit 12`,
    [personId],
  )
  return rows.rows.map((row) => ({ ...row, at: row.at.toISOString() }))
}
