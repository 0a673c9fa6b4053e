import { at, msSql, type Sql, wallSql } from '../platform/database.ts'

/** A date at which people meet in a room of the conference service. */
export interface RoomDate {
  readonly occurrenceId: string
  readonly entryId: string
}

/** The date that is meant by who comes into a room at an instant: the one that goes on then, or is nearest. */
export const dateOfRoom = async (sql: Sql, room: string, instant: number): Promise<RoomDate | null> =>
  (
    await sql.query<RoomDate>(
      `select o.id as "occurrenceId", o.entry_id as "entryId" from entry e join occurrence o on o.entry_id = e.id
        where e.conference ->> 'room' = $1 and e.conference is not null and e.deleted_at is null and o.gone_at is null
        order by greatest(lower(o.span) - $2::timestamptz, $2::timestamptz - upper(o.span), interval '0'), lower(o.span)
        limit 1`,
      [room, at(instant)],
    )
  ).rows[0] ?? null

/** More are no meeting: a service that reports more has gone wrong. */
const MOST_SEATS = 5000

/** Somebody's stay in a meeting, as the conference service reports it. Instants in milliseconds. */
export interface Seat {
  readonly seat: string
  readonly participantId: string | null
  readonly name: string
  readonly via: 'link' | 'telephone'
  readonly joined: number
  readonly left: number | null
}

/** Keeps a stay, or that it is over. What was over stays over, in whatever order it is heard of. */
export const putSeat = async (sql: Sql, date: RoomDate, seat: Seat): Promise<void> => {
  await sql.query(
    `insert into attended (seat, occurrence_id, participant_id, name, via, joined_at, left_at)
     select $1, $2, (select p.id from participant p where p.id = $3 and p.entry_id = $8), $4, $5, $6, $7
      where (select count(*) from attended a where a.occurrence_id = $2) < ${MOST_SEATS}
     on conflict (seat) do update set left_at = coalesce(attended.left_at, excluded.left_at)`,
    [
      seat.seat,
      date.occurrenceId,
      seat.participantId,
      seat.name,
      seat.via,
      at(seat.joined),
      seat.left === null ? null : at(seat.left),
      date.entryId,
    ],
  )
}

/** The stays at a date, of participants by the names that they have. Instants in milliseconds. */
export const readSeats = async (sql: Sql, occurrenceId: string): Promise<Seat[]> =>
  (
    await sql.query<Seat>(
      `select a.seat, a.participant_id as "participantId", coalesce(w.name, nullif(p.guest_name, ''), a.name) as name, a.via,
              ${msSql('a.joined_at')} as joined, ${msSql('a.left_at')} as left
         from attended a left join participant p on p.id = a.participant_id left join person w on w.id = p.person_id
        where a.occurrence_id = $1 order by a.joined_at, a.seat`,
      [occurrenceId],
    )
  ).rows

/** It rings for so long. */
const RINGS = "interval '1 minute'"

/** Calls some people into a meeting. Somebody for whom it rings already is not called a second time. */
export const insertCalls = async (
  sql: Sql,
  occurrenceId: string,
  people: readonly string[],
  actorId: string,
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into call (occurrence_id, person_id, actor_id, at)
     select $1, person, $3, $4 from unnest($2::uuid[]) person
      where person <> $3 and not exists (
        select 1 from call c where c.person_id = person and c.occurrence_id = $1 and c.ended_at is null
           and c.at > $4::timestamptz - ${RINGS})`,
    [occurrenceId, people, actorId, at(now)],
  )
}

/** Notes that a telephone is rung. */
export const insertDialled = async (
  sql: Sql,
  occurrenceId: string,
  number: string,
  actorId: string,
  now: number,
): Promise<void> => {
  await sql.query('insert into call (occurrence_id, number, actor_id, at) values ($1, $2, $3, $4)', [
    occurrenceId,
    number,
    actorId,
    at(now),
  ])
}

/** How often somebody has called others since an instant. */
export const calledSince = async (sql: Sql, actorId: string, since: number): Promise<number> =>
  (
    await sql.query<{ n: number }>('select count(*) as n from call where actor_id = $1 and at > $2', [
      actorId,
      at(since),
    ])
  ).rows[0]?.n ?? 0

/** A call as it rings. */
export interface Ringing {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string | null
  readonly title: string
  readonly by: string
  readonly at: Date
}

/** The calls that ring for somebody just now, of meetings that they take part in. */
export const callsFor = async (sql: Sql, personId: string, now: number): Promise<Ringing[]> =>
  (
    await sql.query<Ringing>(
      `select c.id, e.id as "entryId", case when e.rule is not null and p.every_date then ${wallSql('o.recurrence')} end as recurrence,
              coalesce(v.title, e.title) as title, b.name as by, c.at
         from call c join occurrence o on o.id = c.occurrence_id and o.gone_at is null
         join entry e on e.id = o.entry_id and e.deleted_at is null and e.cancelled_at is null
         join participant p on p.entry_id = e.id and p.person_id = c.person_id
         join attendance a on a.occurrence_id = o.id and a.participant_id = p.id
         join person b on b.id = c.actor_id
         left join override v on v.entry_id = e.id and v.recurrence = o.recurrence
        where c.person_id = $1 and c.ended_at is null and c.at > $2::timestamptz - ${RINGS} order by c.at desc limit 5`,
      [personId, at(now)],
    )
  ).rows

/** Who is being called to a date and has not come, by name. */
export const calledTo = async (sql: Sql, occurrenceId: string, now: number): Promise<string[]> =>
  (
    await sql.query<{ name: string }>(
      `select coalesce(w.name, c.number) as name from call c left join person w on w.id = c.person_id
        where c.occurrence_id = $1 and c.ended_at is null and c.at > $2::timestamptz - ${RINGS} order by c.at, name`,
      [occurrenceId, at(now)],
    )
  ).rows.map((row) => row.name)

/** Ends a call of somebody's; gives the date that it was to. */
export const endCall = async (
  sql: Sql,
  callId: string,
  personId: string,
  now: number,
): Promise<RoomDate | null> =>
  (
    await sql.query<RoomDate>(
      `update call c set ended_at = $3 from occurrence o where c.id = $1 and c.person_id = $2 and c.ended_at is null
          and o.id = c.occurrence_id returning c.occurrence_id as "occurrenceId", o.entry_id as "entryId"`,
      [callId, personId, at(now)],
    )
  ).rows[0] ?? null

/** Ends the calls to a date of whoever has come, by their participant or their number; gives whom they rang for. */
export const endCallsOf = async (
  sql: Sql,
  occurrenceId: string,
  who: Pick<Seat, 'participantId' | 'name' | 'via'>,
  now: number,
): Promise<string[]> =>
  (
    await sql.query<{ personId: string | null }>(
      `update call c set ended_at = $5
        where c.occurrence_id = $1 and c.ended_at is null
          and (c.person_id = (select p.person_id from participant p where p.id = $2) or $4 = 'telephone' and c.number = $3)
       returning c.person_id as "personId"`,
      [occurrenceId, who.participantId, who.name, who.via, at(now)],
    )
  ).rows.flatMap((row) => row.personId ?? [])

/** Forgets calls a day after. */
export const tidyCalls = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from call where at < $1::timestamptz - interval '1 day'", [at(now)])
}
