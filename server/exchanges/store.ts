import type { Exchange } from '@marmot/contract/asked'
import type { Span } from '@marmot/core/availability'
import { NO_LEVEL } from '@marmot/core/sharing'
import { instantText } from '@marmot/core/time'
import { at, endMs, msSql, type Sql, startMs } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

/** What becomes of room that is asked for. */
export type ExchangeState = 'asked' | 'done' | 'refused' | 'failed' | 'lapsed' | 'withdrawn'

/** One that would move, as it stood when it was asked about. */
export interface KeptMove extends Span {
  readonly number: number
  readonly reservationId: string
  readonly personId: string
  readonly fromId: string
  readonly toId: string
  readonly agreed: boolean
}

/** Room that is asked for, as it is kept. */
export interface KeptExchange extends Span {
  readonly id: string
  readonly askerId: string
  readonly placeId: string
  readonly place: string
  readonly zone: string
  readonly by: string
  readonly wish: unknown
  readonly state: ExchangeState
  readonly lapses: number
  readonly moves: readonly KeptMove[]
}

/** Keeps what is asked; those of whoever asks have agreed already. Gives its id. */
export const insertExchange = async (
  sql: Sql,
  asked: {
    readonly askerId: string
    readonly placeId: string
    readonly span: Span
    readonly wish: unknown
    readonly lapses: number
    readonly moves: readonly Omit<KeptMove, 'number' | 'agreed'>[]
  },
  now: number,
): Promise<string> => {
  const rows = await sql.query<{ id: string }>(
    `insert into exchange (asker_id, place_id, span, wish, asked_at, lapses_at)
     values ($1, $2, tstzrange($3, $4), $5, $6, $7) returning id`,
    [
      asked.askerId,
      asked.placeId,
      at(asked.span.start),
      at(asked.span.end),
      JSON.stringify(asked.wish),
      at(now),
      at(asked.lapses),
    ],
  )
  const id = rows.rows[0]?.id ?? ''
  await sql.query(
    `insert into exchange_move (exchange_id, number, reservation_id, person_id, from_id, to_id, span, agreed_at)
     select $1, row_number() over (), d.reservation, d.person, d.was, d.next, tstzrange(d.starts, d.ends),
            case when d.person = $8 then $9::timestamptz end
       from unnest($2::uuid[], $3::uuid[], $4::uuid[], $5::uuid[], $6::timestamptz[], $7::timestamptz[])
            d(reservation, person, was, next, starts, ends)`,
    [
      id,
      asked.moves.map((one) => one.reservationId),
      asked.moves.map((one) => one.personId),
      asked.moves.map((one) => one.fromId),
      asked.moves.map((one) => one.toId),
      asked.moves.map((one) => at(one.start)),
      asked.moves.map((one) => at(one.end)),
      asked.askerId,
      at(now),
    ],
  )
  return id
}

/** The name PostgreSQL gives the refusal of the same question twice. */
export const ONCE = 'exchange_once'

/** How many questions of somebody are not decided. */
export const openOf = async (sql: Sql, askerId: string): Promise<number> =>
  (
    await sql.query<{ open: number }>(
      "select count(*)::integer as open from exchange where asker_id = $1 and state = 'asked'",
      [askerId],
    )
  ).rows[0]?.open ?? 0

/** Room that is asked for, locked until the transaction ends, or undefined. */
export const lockExchange = async (sql: Sql, id: string): Promise<KeptExchange | undefined> => {
  const rows = await sql.query<Omit<KeptExchange, 'moves'>>(
    `select x.id, x.asker_id as "askerId", x.place_id as "placeId", r.name as place, s.zone, w.name as by, x.wish, x.state,
            ${startMs('x.span')} as start, ${endMs('x.span')} as end, ${msSql('x.lapses_at')} as lapses
       from exchange x join resource r on r.id = x.place_id join site s on s.id = r.site_id join person w on w.id = x.asker_id
      where x.id = $1 for update of x`,
    [id],
  )
  const [row] = rows.rows
  if (!row) return undefined
  const moves = await sql.query<KeptMove>(
    `select number, reservation_id as "reservationId", person_id as "personId", from_id as "fromId", to_id as "toId",
            ${startMs('span')} as start, ${endMs('span')} as end, agreed_at is not null as agreed
       from exchange_move where exchange_id = $1 order by number`,
    [id],
  )
  return { ...row, moves: moves.rows }
}

/** Keeps that somebody goes where they are asked to go. */
export const noteAgreed = async (sql: Sql, id: string, personId: string, now: number): Promise<void> => {
  await sql.query(
    'update exchange_move set agreed_at = $3 where exchange_id = $1 and person_id = $2 and agreed_at is null',
    [id, personId, at(now)],
  )
}

export const setExchangeState = async (sql: Sql, id: string, state: ExchangeState): Promise<void> => {
  await sql.query('update exchange set state = $2 where id = $1', [id, state])
}

/** Those that nobody decided about in time. */
export const lapsedExchanges = async (sql: Sql, now: number, most: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      "select id from exchange where state = 'asked' and lapses_at <= $1 order by lapses_at limit $2",
      [at(now), most],
    )
  ).rows.map((row) => row.id)

const MOST_SHOWN = 20
/** SQL: what is wished invites others. */
const INVITES = `jsonb_array_length(wish -> 'people') + jsonb_array_length(wish -> 'guests') > 0`

/**
 * What somebody is asked to make room for, and what they ask for themselves; what lapses soonest first. Then what they asked for in
 * vain and would have sent to others, until its time or until they put it aside.
 */
export const exchangesFor = async (sql: Sql, personId: string, now: number): Promise<Exchange[]> => {
  interface Row extends Omit<Exchange, 'start' | 'end' | 'lapses' | 'moves'> {
    start: number
    end: number
    lapses: number
    moves: (Omit<Exchange['moves'][number], 'start' | 'end'> & {
      personId: string
      start: number
      end: number
    })[]
  }
  const rows = await sql.query<Row>(
    `select x.id as "exchangeId", w.name as by, x.asker_id = $1 as mine, x.wish ->> 'purpose' as purpose, x.state <> 'asked' as ended,
            case when x.asker_id = $1 and ${INVITES} then x.wish end as wish, r.name as place, s.zone,
            ${startMs('x.span')} as start, ${endMs('x.span')} as end, ${msSql('x.lapses_at')} as lapses, m.moves
       from exchange x join resource r on r.id = x.place_id join site s on s.id = r.site_id join person w on w.id = x.asker_id
       cross join lateral (
         select json_agg(json_build_object(
                  'by', p.name, 'personId', v.person_id, 'mine', v.person_id = $1, 'from', f.name, 'to', t.name,
                  'start', ${startMs('v.span')}, 'end', ${endMs('v.span')}, 'agreed', v.agreed_at is not null,
                  'asked', v.person_id = $1 and v.agreed_at is null,
                  'title', case when v.person_id = $1 then e.title else '' end) order by v.number) as moves
           from exchange_move v join person p on p.id = v.person_id join resource f on f.id = v.from_id join resource t on t.id = v.to_id
           join reservation b on b.id = v.reservation_id join occurrence o on o.id = b.occurrence_id join entry e on e.id = o.entry_id
          where v.exchange_id = x.id and (x.asker_id = $1 or v.person_id = $1)) m
      where m.moves is not null and x.id in (
              select id from exchange where asker_id = $1 and (state = 'asked' and lapses_at > $2 or
                     state in ('refused', 'failed', 'lapsed') and ${INVITES} and lower(span) > $2)
              union all
              select y.id from exchange_move v join exchange y on y.id = v.exchange_id
               where v.person_id = $1 and v.agreed_at is null and y.state = 'asked' and y.lapses_at > $2)
      order by x.state = 'asked' desc, x.lapses_at limit ${MOST_SHOWN}`,
    [personId, at(now)],
  )
  const owners = rows.rows.flatMap((row) => row.moves.map((one) => one.personId))
  const levels = await levelsFor(sql, personId, [...new Set(owners)], now)
  // Whoever shares nothing is asked as somebody, and stays that.
  const nameOf = ({ by, personId: who, mine }: Row['moves'][number]): string =>
    mine || (levels.get(who) ?? NO_LEVEL).sees !== 'nothing' ? by : 'somebody'
  return rows.rows.map(({ start, end, lapses, moves, ...row }) => ({
    ...row,
    start: instantText(start),
    end: instantText(end),
    lapses: instantText(lapses),
    moves: moves.map((one) => ({
      ...one,
      by: nameOf(one),
      start: instantText(one.start),
      end: instantText(one.end),
    })),
  }))
}
