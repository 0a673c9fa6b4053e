import type { Mark, PollLetterKind, PollTold } from '@marmot/core/polls'
import { at, endMs, msSql, type Sql, startMs } from '../platform/database.ts'

/** How a poll is asked. Instants in milliseconds. */
export interface Settings {
  readonly closes: number
  readonly needed: number | null
  readonly results: 'all' | 'organizer'
  readonly names: boolean
  readonly oneMark: boolean
  readonly proposals: boolean
  readonly notices: 'each' | 'daily' | 'none'
  readonly holds: boolean
}

/** A poll as it is kept. */
export interface KeptPoll extends Settings {
  readonly id: string
  readonly ownerId: string
  readonly owner: string
  readonly actorId: string | null
  readonly actor: string | null
  readonly zone: string
  /** Whom answers to its letters reach. */
  readonly replyTo: string
  /** What is sent once a time is chosen, as it was asked for. */
  readonly wish: unknown
  readonly minutes: number
  readonly door: 'own' | 'anyone'
  readonly state: 'open' | 'decided' | 'withdrawn'
  readonly version: number
  readonly round: number
  readonly timeId: string | null
  readonly entryId: string | null
}

/** A time that is asked about. */
export interface KeptTime {
  readonly id: string
  readonly start: number
  readonly end: number
  readonly places: readonly string[]
  readonly holdId: string | null
  readonly proposedBy: string | null
}

/** Somebody who is asked. */
export interface KeptVoter {
  readonly id: string
  readonly personId: string | null
  readonly name: string
  readonly address: string
  readonly zone: string | null
  readonly required: boolean
  readonly proved: boolean
  readonly comment: string
  readonly markedAt: Date | null
  readonly seenAt: Date | null
  readonly told: PollTold | null
  readonly invited: boolean
  readonly gone: boolean
}

const POLL = `p.id, p.owner_id as "ownerId", o.name as owner, p.actor_id as "actorId", a.name as actor, o.zone, o.address as "replyTo", p.wish, p.minutes,
  ${msSql('p.closes_at')} as closes, p.needed, p.results, p.names, p.one_mark as "oneMark", p.proposals, p.notices, p.holds, p.door,
  p.state, p.version, p.round, p.time_id as "timeId", p.entry_id as "entryId"`
const FROM_POLL = 'from poll p join person o on o.id = p.owner_id left join person a on a.id = p.actor_id'

export const findPoll = async (sql: Sql, id: string): Promise<KeptPoll | null> =>
  (await sql.query<KeptPoll>(`select ${POLL} ${FROM_POLL} where p.id = $1`, [id])).rows[0] ?? null

/**
 * A poll, locked until the transaction ends: against any change, or, to be marked, against those of how it is asked alone, so that
 * many can mark at once.
 */
export const lockPoll = async (sql: Sql, id: string, how: 'update' | 'share'): Promise<KeptPoll | null> =>
  (await sql.query<KeptPoll>(`select ${POLL} ${FROM_POLL} where p.id = $1 for ${how} of p`, [id])).rows[0] ??
  null

/** Keeps a poll, and gives its id. */
export const insertPoll = async (
  sql: Sql,
  poll: Settings & Pick<KeptPoll, 'ownerId' | 'actorId' | 'wish' | 'minutes' | 'door'>,
  now: number,
): Promise<string> =>
  (
    await sql.query<{ id: string }>(
      `insert into poll (owner_id, actor_id, wish, minutes, closes_at, needed, results, names, one_mark, proposals, notices,
                         holds, door, made_at, marks_told_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $14) returning id`,
      [
        poll.ownerId,
        poll.actorId,
        JSON.stringify(poll.wish),
        poll.minutes,
        at(poll.closes),
        poll.needed,
        poll.results,
        poll.names,
        poll.oneMark,
        poll.proposals,
        poll.notices,
        poll.holds,
        poll.door,
        at(now),
      ],
    )
  ).rows[0]?.id ?? ''

/** Keeps how a poll is asked from now on; one round more where times were added. */
export const updatePoll = async (
  sql: Sql,
  id: string,
  poll: Settings & { readonly wish: unknown },
  added: boolean,
): Promise<void> => {
  await sql.query(
    `update poll set wish = $2, closes_at = $3, needed = $4, results = $5, names = $6, one_mark = $7, proposals = $8, notices = $9,
                     holds = $10, version = version + 1, round = round + $11::integer,
                     over_told_at = case when closes_at = $3 then over_told_at end
      where id = $1`,
    [
      id,
      JSON.stringify(poll.wish),
      at(poll.closes),
      poll.needed,
      poll.results,
      poll.names,
      poll.oneMark,
      poll.proposals,
      poll.notices,
      poll.holds,
      added ? 1 : 0,
    ],
  )
}

/** The times of a poll that are asked about, the earliest first. */
export const timesOf = async (sql: Sql, pollId: string): Promise<KeptTime[]> =>
  (
    await sql.query<KeptTime>(
      `select t.id, ${startMs('t.span')} as start, ${endMs('t.span')} as end, t.places, t.hold_id as "holdId",
              t.proposed_by as "proposedBy"
         from poll_time t where t.poll_id = $1 and t.gone_at is null order by lower(t.span)`,
      [pollId],
    )
  ).rows

/** The name PostgreSQL gives the refusal of the same time twice. */
export const TIME_ONCE = 'poll_time_once'

export const insertTimes = async (
  sql: Sql,
  pollId: string,
  times: readonly {
    readonly id: string
    readonly start: number
    readonly end: number
    readonly places: readonly string[]
    readonly proposedBy: string | null
  }[],
): Promise<void> => {
  await sql.query(
    `insert into poll_time (id, poll_id, span, places, proposed_by)
     select d.id, $1, tstzrange(d.starts, d.ends), array(select jsonb_array_elements_text(d.places)::uuid), d.by
       from unnest($2::uuid[], $3::timestamptz[], $4::timestamptz[], $5::jsonb[], $6::uuid[]) d(id, starts, ends, places, by)`,
    [
      pollId,
      times.map((time) => time.id),
      times.map((time) => at(time.start)),
      times.map((time) => at(time.end)),
      times.map((time) => JSON.stringify(time.places)),
      times.map((time) => time.proposedBy),
    ],
  )
}

/** Takes times off a poll. What was marked of them is kept: nobody sees it any more. */
export const dropTimes = async (sql: Sql, ids: readonly string[], now: number): Promise<void> => {
  await sql.query('update poll_time set gone_at = $2 where id = any($1)', [ids, at(now)])
}

/** Notes which entry holds a time, or that none does. */
export const noteHold = async (sql: Sql, timeId: string, holdId: string | null): Promise<void> => {
  await sql.query('update poll_time set hold_id = $2 where id = $1', [timeId, holdId])
}

const VOTER = `v.id, v.person_id as "personId", coalesce(w.name, nullif(v.name, ''), v.address) as name, coalesce(w.address, v.address) as address,
  w.zone, v.required, v.proved, v.comment, v.marked_at as "markedAt", v.seen_at as "seenAt", v.told, v.invited, v.gone_at is not null as gone`

/** Everybody who is or was asked, in the order in which they were. */
export const votersOf = async (sql: Sql, pollId: string): Promise<KeptVoter[]> =>
  (
    await sql.query<KeptVoter>(
      `select ${VOTER} from poll_voter v left join person w on w.id = v.person_id where v.poll_id = $1
        order by v.required desc, v.asked_at, name, v.id`,
      [pollId],
    )
  ).rows

/** Somebody who is asked, by their id as such, with the poll; null where they are not (any more). */
export const findVoter = async (
  sql: Sql,
  voterId: string,
): Promise<(KeptVoter & { readonly pollId: string }) | null> =>
  (
    await sql.query<KeptVoter & { pollId: string }>(
      `select ${VOTER}, v.poll_id as "pollId" from poll_voter v left join person w on w.id = v.person_id
        where v.id = $1 and v.gone_at is null`,
      [voterId],
    )
  ).rows[0] ?? null

/** A person who is asked in a poll, by their id as a voter; null where they are not. */
export const voterOf = async (sql: Sql, pollId: string, personId: string): Promise<string | null> =>
  (
    await sql.query<{ id: string }>(
      'select id from poll_voter where poll_id = $1 and person_id = $2 and gone_at is null',
      [pollId, personId],
    )
  ).rows[0]?.id ?? null

/** Somebody to be asked. */
export interface Asked {
  readonly personId: string | null
  readonly address: string | null
  readonly name: string
  readonly required: boolean
}

/** Asks people, or asks them again who were asked before. */
export const insertVoters = async (
  sql: Sql,
  pollId: string,
  asked: readonly Asked[],
  now: number,
): Promise<void> => {
  const values = (some: readonly Asked[]) => [
    pollId,
    some.map((one) => one.personId ?? one.address),
    some.map((one) => one.name),
    some.map((one) => one.required),
    at(now),
  ]
  await sql.query(
    `insert into poll_voter (poll_id, person_id, name, required, asked_at)
     select $1, d.person, d.name, d.required, $5 from unnest($2::uuid[], $3::text[], $4::boolean[]) d(person, name, required)
     on conflict (poll_id, person_id) where person_id is not null
     do update set required = excluded.required, gone_at = null`,
    values(asked.filter((one) => one.personId)),
  )
  await sql.query(
    `insert into poll_voter (poll_id, address, name, required, asked_at)
     select $1, d.address, d.name, d.required, $5 from unnest($2::text[], $3::text[], $4::boolean[]) d(address, name, required)
     on conflict (poll_id, address) where proved and address is not null
     do update set required = excluded.required, name = excluded.name, gone_at = null`,
    values(asked.filter((one) => !one.personId)),
  )
}

/** Keeps whoever came by the link for all, and gives their id. */
export const insertComer = async (
  sql: Sql,
  pollId: string,
  comer: { readonly name: string; readonly address: string },
  now: number,
): Promise<string> =>
  (
    await sql.query<{ id: string }>(
      `insert into poll_voter (poll_id, address, name, required, proved, asked_at, told)
       select $1, $2, $3, false, false, $4, jsonb_build_object('kind', 'asked', 'round', p.round) from poll p where p.id = $1
       returning id`,
      [pollId, comer.address, comer.name, at(now)],
    )
  ).rows[0]?.id ?? ''

/** Asks some no more. */
export const dropVoters = async (sql: Sql, ids: readonly string[], now: number): Promise<void> => {
  await sql.query('update poll_voter set gone_at = $2 where id = any($1) and gone_at is null', [ids, at(now)])
}

/** One mark of somebody’s. */
export interface KeptMark {
  readonly voterId: string
  readonly timeId: string
  readonly mark: Mark
}

/** All marks of a poll for times that are asked about, or those of one voter. */
export const marksOf = async (sql: Sql, pollId: string, voterId: string | null = null): Promise<KeptMark[]> =>
  (
    await sql.query<KeptMark>(
      `select m.voter_id as "voterId", m.time_id as "timeId", m.mark from poll_mark m join poll_time t on t.id = m.time_id
        where t.poll_id = $1 and t.gone_at is null and ($2::uuid is null or m.voter_id = $2)`,
      [pollId, voterId],
    )
  ).rows

/** Puts somebody’s marks in the place of those from before. */
export const putMarks = async (
  sql: Sql,
  voterId: string,
  marks: readonly { readonly timeId: string; readonly mark: Mark }[],
  comment: string | null,
  now: number,
): Promise<void> => {
  // Whoever marks twice at once does it one after the other.
  await sql.query(
    'update poll_voter set marked_at = $2, seen_at = coalesce(seen_at, $2), comment = coalesce($3, comment) where id = $1',
    [voterId, at(now), comment],
  )
  await sql.query('delete from poll_mark where voter_id = $1', [voterId])
  await sql.query(
    'insert into poll_mark (voter_id, time_id, mark) select $1, * from unnest($2::uuid[], $3::text[])',
    [voterId, marks.map((one) => one.timeId), marks.map((one) => one.mark)],
  )
}

/** Adds a mark to what somebody said. */
export const addMark = async (sql: Sql, { voterId, timeId, mark }: KeptMark, now: number): Promise<void> => {
  await sql.query('update poll_voter set marked_at = $2 where id = $1', [voterId, at(now)])
  await sql.query(
    `insert into poll_mark (voter_id, time_id, mark) values ($1, $2, $3)
     on conflict (voter_id, time_id) do update set mark = excluded.mark`,
    [voterId, timeId, mark],
  )
}

/** Notes that somebody has looked at what they are asked. */
export const noteLooked = async (sql: Sql, voterId: string, now: number): Promise<void> => {
  await sql.query('update poll_voter set seen_at = $2 where id = $1 and seen_at is null', [voterId, at(now)])
}

/** Keeps what was chosen, the meeting that was made of it, and who is invited. */
export const setDecided = async (
  sql: Sql,
  pollId: string,
  chosen: { readonly timeId: string; readonly entryId: string; readonly voters: readonly string[] },
  now: number,
): Promise<void> => {
  await sql.query(
    `update poll set state = 'decided', time_id = $2, entry_id = $3, decided_at = $4, version = version + 1 where id = $1`,
    [pollId, chosen.timeId, chosen.entryId, at(now)],
  )
  await sql.query('update poll_voter set invited = (id = any($2)) where poll_id = $1', [
    pollId,
    chosen.voters,
  ])
}

export const setWithdrawn = async (sql: Sql, pollId: string): Promise<void> => {
  await sql.query(`update poll set state = 'withdrawn', version = version + 1 where id = $1`, [pollId])
}

/** Asks again, until an instant. */
export const setOpen = async (sql: Sql, pollId: string, closes: number): Promise<void> => {
  await sql.query(
    `update poll set state = 'open', time_id = null, entry_id = null, decided_at = null, closes_at = $2, over_told_at = null,
                     version = version + 1 where id = $1`,
    [pollId, at(closes)],
  )
  await sql.query('update poll_voter set invited = false where poll_id = $1 and invited', [pollId])
}

/** Notes what somebody knows of a poll from now on. */
export const setTold = async (sql: Sql, voterId: string, told: PollTold | null): Promise<void> => {
  await sql.query('update poll_voter set told = $2 where id = $1', [
    voterId,
    told === null ? null : JSON.stringify(told),
  ])
}

/** What became of the last letter to each who is asked, and when they were nudged last. */
export const lettersOf = async (
  sql: Sql,
  pollId: string,
): Promise<
  Map<string, { readonly state: 'waiting' | 'sent' | 'failed'; readonly nudgedAt: Date | null }>
> => {
  const rows = await sql.query<{
    voterId: string
    state: 'waiting' | 'sent' | 'failed'
    nudgedAt: Date | null
  }>(
    `select v.id as "voterId", (array_agg(l.state order by l.number desc))[1] as state,
            max(l.written_at) filter (where l.kind = 'nudge') as "nudgedAt"
       from poll_voter v join poll_letter l on l.voter_id = v.id where v.poll_id = $1 group by v.id`,
    [pollId],
  )
  return new Map(rows.rows.map((row) => [row.voterId, row]))
}

/** Writes letters, each with the number after the last to that reader; gives their ids. */
export const insertLetters = async (
  sql: Sql,
  letters: readonly { readonly voterId: string; readonly kind: PollLetterKind }[],
  now: number,
): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `insert into poll_letter (voter_id, number, kind, written_at)
       select d.voter, 1 + coalesce((select max(l.number) from poll_letter l where l.voter_id = d.voter), 0), d.kind, $3
         from unnest($1::uuid[], $2::text[]) d(voter, kind) returning id`,
      [letters.map((one) => one.voterId), letters.map((one) => one.kind), at(now)],
    )
  ).rows.map((row) => row.id)

/** A letter that waits to be sent, with whom it is to; null where it was sent. */
export const findLetter = async (
  sql: Sql,
  letterId: string,
): Promise<{ readonly voterId: string; readonly kind: PollLetterKind; readonly pollId: string } | null> =>
  (
    await sql.query<{ voterId: string; kind: PollLetterKind; pollId: string }>(
      `select l.voter_id as "voterId", l.kind, v.poll_id as "pollId" from poll_letter l join poll_voter v on v.id = l.voter_id
        where l.id = $1 and l.state <> 'sent' for update of l`,
      [letterId],
    )
  ).rows[0] ?? null

export const setLetterState = async (
  sql: Sql,
  letterId: string,
  state: 'waiting' | 'sent' | 'failed',
  error: string | null,
  now: number,
): Promise<void> => {
  await sql.query('update poll_letter set state = $2, error = $3, sent_at = $4 where id = $1', [
    letterId,
    state,
    error,
    state === 'sent' ? at(now) : null,
  ])
}

/** A poll in a line. */
interface Line {
  readonly pollId: string
  readonly title: string
  readonly organizer: string
  readonly mine: boolean
  readonly times: number
  readonly first: number
  readonly last: number
  readonly closes: number
  readonly asked: number
  readonly marked: number
}

/** The most polls that are listed for one person. */
const MOST_LINES = 30

/** The polls in which somebody is asked and has said nothing, and those that they ask and that are not decided. */
export const pollsOf = async (sql: Sql, personId: string, now: number): Promise<Line[]> =>
  (
    await sql.query<Line>(
      `select p.id as "pollId", p.wish ->> 'title' as title, coalesce(a.name || ' for ', '') || o.name as organizer,
              p.owner_id = $1 as mine, t.times, t.first, t.last, ${msSql('p.closes_at')} as closes, v.asked, v.marked
         from poll p join person o on o.id = p.owner_id left join person a on a.id = p.actor_id
         cross join lateral (
           select count(*) as times, ${msSql('min(lower(t.span))')} as first, ${msSql('max(upper(t.span))')} as last
             from poll_time t where t.poll_id = p.id and t.gone_at is null) t
         cross join lateral (
           select count(*) as asked, count(*) filter (where v.marked_at is not null) as marked
             from poll_voter v where v.poll_id = p.id and v.gone_at is null) v
        where p.state = 'open' and t.times > 0 and (
          p.owner_id = $1
          or p.closes_at > $2 and p.id in (
            select w.poll_id from poll_voter w where w.person_id = $1 and w.gone_at is null and w.marked_at is null
               and w.told is not null))
        order by mine, p.closes_at limit ${MOST_LINES}`,
      [personId, at(now)],
    )
  ).rows

/** A poll of which something is to be said to whoever asks: its time to answer is over, or some have marked since yesterday. */
export interface DueNotice {
  readonly id: string
  readonly ownerId: string
  readonly marked: number
  readonly asked: number
}

const DUE = `p.id, p.owner_id as "ownerId",
  (select count(*) from poll_voter v where v.poll_id = p.id and v.gone_at is null and v.marked_at is not null) as marked,
  (select count(*) from poll_voter v where v.poll_id = p.id and v.gone_at is null) as asked`

/** Takes the polls whose time to answer is over, each once, at most so many at a time. */
export const takeOver = async (sql: Sql, now: number, most: number): Promise<DueNotice[]> =>
  (
    await sql.query<DueNotice>(
      `update poll p set over_told_at = $1 where p.id in (
         select o.id from poll o where o.state = 'open' and o.closes_at <= $1 and o.over_told_at is null
          order by o.closes_at limit $2 for update skip locked) returning ${DUE}`,
      [at(now), most],
    )
  ).rows

/** Takes the polls whose organizer hears once a day of marks, where somebody has marked since they heard last. */
export const takeDaily = async (sql: Sql, now: number): Promise<DueNotice[]> =>
  (
    await sql.query<DueNotice>(
      `update poll p set marks_told_at = $1 where p.state = 'open' and p.notices = 'daily' and exists (
         select 1 from poll_voter v where v.poll_id = p.id and v.marked_at > p.marks_told_at) returning ${DUE}`,
      [at(now)],
    )
  ).rows

/** Places by their ids, by name. */
export const namesOfPlaces = async (sql: Sql, ids: readonly string[]): Promise<Map<string, string>> =>
  new Map(
    (
      await sql.query<{ id: string; name: string }>('select id, name from resource where id = any($1)', [ids])
    ).rows.map((row) => [row.id, row.name]),
  )

/** Whether the meeting that was made of a poll stands: it was neither taken back nor cancelled. */
export const stands = async (sql: Sql, entryId: string): Promise<boolean> =>
  ((
    await sql.query('select 1 from entry where id = $1 and deleted_at is null and cancelled_at is null', [
      entryId,
    ])
  ).rowCount ?? 0) > 0

/** How many polls of somebody’s are open. */
export const openPollsOf = async (sql: Sql, personId: string): Promise<number> =>
  (
    await sql.query<{ n: number }>("select count(*) as n from poll where owner_id = $1 and state = 'open'", [
      personId,
    ])
  ).rows[0]?.n ?? 0

/** How many are asked in a poll, about how many times, and how many of those somebody proposed. */
export const countsOf = async (
  sql: Sql,
  pollId: string,
  voterId: string | null,
): Promise<{ readonly voters: number; readonly times: number; readonly proposed: number }> =>
  (
    await sql.query<{ voters: number; times: number; proposed: number }>(
      `select (select count(*) from poll_voter where poll_id = $1 and gone_at is null) as voters,
              (select count(*) from poll_time where poll_id = $1 and gone_at is null) as times,
              (select count(*) from poll_time where poll_id = $1 and proposed_by = $2) as proposed`,
      [pollId, voterId],
    )
  ).rows[0] ?? { voters: 0, times: 0, proposed: 0 }
