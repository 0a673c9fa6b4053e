import { randomUUID } from 'node:crypto'
import type { Exchange, Request } from '@marmot/contract/asked'
import type { Hit } from '@marmot/contract/closures'
import type { Room } from '@marmot/contract/exchanges'
import type { Meeting } from '@marmot/contract/meetings'
import { DAY, MINUTE } from '@marmot/core/time'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { seeded } from '../../demo/random.ts'
import { type Running, startMarmot } from '../app.ts'
import {
  type Answer,
  aMeeting,
  type Client,
  problemOf,
  signInAs,
  startTestMarmot,
  type TestMarmot,
  testSettings,
} from '../testing/marmot.ts'

/** How many rounds; in each all clients do something at once. `MARMOT_RACES=10000` for a longer look. */
const RACES = Number(process.env.MARMOT_RACES ?? 30)
const CLIENTS = 16
/** How often it is looked at that all is right. */
const LOOKS = 10
/** Beyond all that the demo has. */
const FIRST = Date.parse('2027-05-03T06:00:00Z')
const DAYS = 8
const SLOTS = 10
const SLOT = 30
/** Whoever has so many gives some back. */
const ENOUGH = 4
const TITLE = 'Raced'

/** Two rooms of which the one is like the other, and a lab whose steward decides. */
const PLACES = ['Serac', 'Col', 'Thin-section lab']

interface Racer {
  readonly client: Client
  /** What it has, or had: others may have ended it. */
  own: string[]
}

let marmot: TestMarmot
let other: Running
let racers: Racer[]
let placeIds: string[]
const random = seeded(1729)

beforeAll(async () => {
  const log = process.env.MARMOT_RACES ? 'info' : 'silent'
  marmot = await startTestMarmot({ log })
  const smtpUrl = `smtp://127.0.0.1:${marmot.mail.smtpPort}`
  other = await startMarmot(testSettings(marmot.databaseUrl, { smtpUrl, log }))
  placeIds = await Promise.all(PLACES.map((name) => marmot.placeId(name)))
  const people = await marmot.pool.query<{ name: string }>(
    "select name from person where name not in ('Ilse Brandacher', 'Matteo Ruprechter') order by address limit $1",
    [CLIENTS - 2],
  )
  const names = ['Ilse Brandacher', 'Matteo Ruprechter', ...people.rows.map((row) => row.name)]
  racers = await Promise.all(
    names.map(async (name, i) => ({ client: await signInAs(i % 2 ? other.url : marmot.url, name), own: [] })),
  )
})
afterAll(async () => {
  await other.stop()
  await marmot.stop()
})

const wallAt = (round: number): string => {
  const day = round % DAYS
  const weekday = Math.floor(day / 5) * 7 + (day % 5)
  return new Date(FIRST + weekday * DAY + random.below(SLOTS) * SLOT * MINUTE).toISOString().slice(0, 16)
}
const some = (): string[] => {
  const first = random.pick(placeIds)
  return random.chance(0.2) ? [...new Set([first, random.pick(placeIds)])] : [first]
}
const time = (round: number) => ({
  starts: wallAt(round),
  minutes: SLOT * (1 + random.below(2)),
  zone: 'UTC',
})

/** One thing that somebody does; each gives every answer it got. */
type Act = (racer: Racer, round: number) => Promise<Answer[]>

const take: Act = async ({ client, own }, round) => {
  const series = random.chance(0.2) ? { series: { rule: 'FREQ=WEEKLY;COUNT=3' } } : {}
  const body = aMeeting({
    title: TITLE,
    shows: 'listed',
    ...time(round),
    places: some(),
    headCount: 4,
    ...series,
  })
  const made = await client.send<{ entryId: string }>('POST', '/api/meetings', body)
  if (made.status === 200) own.push(made.body.entryId)
  return [made]
}

const move: Act = async (racer, round) => {
  const entryId = racer.own[random.below(racer.own.length)]
  if (!entryId) return take(racer, round)
  const [given, places] = [time(round), some()]
  const now = await racer.client.get<Meeting>(`/api/meetings/${entryId}`)
  if (now.status !== 200) return [now]
  const { version, recurrence } = now.body
  const which = recurrence ? { recurrence, scope: random.pick(['this', 'following', 'all']) } : {}
  const changed = await racer.client.send('POST', `/api/meetings/${entryId}/change`, {
    version,
    ...which,
    ...(random.chance(0.6) ? given : {}),
    ...(random.chance(0.6) ? { places } : {}),
  })
  return [now, changed]
}

const giveBack: Act = async (racer, round) => {
  const entryId = racer.own.splice(random.below(Math.max(1, racer.own.length)), 1)[0]
  if (!entryId) return take(racer, round)
  return [await racer.client.send('POST', `/api/meetings/${entryId}/cancel`, {})]
}

const hold: Act = async ({ client }, round) => {
  const holdId = randomUUID()
  const body = { title: TITLE, ...time(round), places: some(), until: '2026-12-01T00:00:00Z' }
  const held = await client.send('PUT', `/api/holds/${holdId}`, body)
  if (held.status !== 200) return [held]
  const next = await client.send('PUT', `/api/holds/${holdId}`, { ...body, ...time(round) })
  return [held, next, await client.send('DELETE', `/api/holds/${holdId}`)]
}

const exchange: Act = async ({ client }, round) => {
  const waiting = await client.get<{ exchanges: Exchange[] }>('/api/now')
  const asked = waiting.body.exchanges.find((one) => !one.mine)
  if (asked)
    return [
      await client.send('POST', `/api/exchanges/${asked.exchangeId}/answer`, { agree: random.chance(0.8) }),
    ]
  const wish = {
    ...aMeeting({ title: TITLE, shows: 'listed' }),
    ...time(round),
    places: placeIds.slice(1, 2),
    headCount: 9,
  }
  const placeId = placeIds[1]
  const looked = await client.send<{ room: Room | null }>('POST', '/api/exchanges/look', {
    starts: wish.starts,
    minutes: wish.minutes,
    zone: wish.zone,
    headCount: 9,
    placeIds: [placeId],
  })
  const room = looked.body.room
  if (!room) return [looked]
  const moves = room.moves.map((one) => ({ reservationId: one.reservationId, to: one.toId }))
  return [looked, await client.send('POST', '/api/exchanges', { wish, placeIds: [placeId], moves })]
}

/** Closes a place for half an hour, as its steward; each hit goes to its like where there is one. */
const close: Act = async ({ client }, round) => {
  const path = `/api/resources/${placeIds[client.person.name.startsWith('Ilse') ? random.below(2) : 2]}/closures`
  const closing = { ...time(round), reason: 'swept' }
  const looked = await client.send<{ hits: Hit[] }>('POST', `${path}/look`, closing)
  if (looked.status !== 200) return [looked]
  const moves = looked.body.hits.map((hit) => ({
    reservationId: hit.reservationId,
    to: hit.likes[0]?.id ?? null,
  }))
  const closed = await client.send<{ closureId: string }>('POST', path, { ...closing, moves })
  if (closed.status !== 200) return [looked, closed]
  return [looked, closed, await client.send('DELETE', `${path}/${closed.body.closureId}`)]
}

const decide: Act = async ({ client }) => {
  const { body } = await client.get<{ requests: Request[] }>('/api/now')
  return Promise.all(
    body.requests
      .slice(0, 4)
      .map(({ entryId, resourceId }) =>
        client.send('POST', `/api/requests/${entryId}/${resourceId}`, { grant: random.chance(0.7) }),
      ),
  )
}

const actOf = (racer: Racer): Act => {
  const { name } = racer.client.person
  if (name === 'Ilse Brandacher' && random.chance(0.5)) return close
  if (name === 'Matteo Ruprechter' && random.chance(0.6)) return random.chance(0.3) ? close : decide
  if (racer.own.length > ENOUGH) return giveBack
  return random.pick([take, take, take, move, move, move, hold, exchange, exchange, giveBack])
}

/** What must not be, in words: reserved twice, for nothing, at another time than its date, or a date that lost its places. */
const wrong = async (): Promise<string[]> => {
  const rows = await marmot.pool.query<{ words: string }>(
    `select 'twice: ' || a.id as words from reservation a join reservation b on b.resource_id = a.resource_id and b.id > a.id
        where a.resource_id = any($1) and a.state <> 'released' and b.state <> 'released' and a.blocked && b.blocked
     union all
     select 'for nothing: ' || r.id from reservation r join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
        where r.resource_id = any($1) and r.state <> 'released' and (o.gone_at is not null or e.deleted_at is not null or e.cancelled_at is not null)
     union all
     select 'elsewhen: ' || r.id from reservation r join occurrence o on o.id = r.occurrence_id
        where r.resource_id = any($1) and r.state <> 'released' and r.span <> o.span
     union all
     select 'lost: ' || o.id from occurrence o join entry e on e.id = o.entry_id
        where e.title = $2 and e.deleted_at is null and e.cancelled_at is null and e.lapses_at is null and o.gone_at is null
          and not exists (select 1 from reservation r where r.occurrence_id = o.id and r.state <> 'released')`,
    [placeIds, TITLE],
  )
  return rows.rows.map((row) => row.words)
}

it(
  `${CLIENTS} clients on two servers take, move, exchange, hold, close, grant and give back at once, ${RACES} times: no place twice, none lost, no 500`,
  async () => {
    const codes = new Map<string, number>()
    for (let round = 0; round < RACES; round++) {
      const answers = (await Promise.all(racers.map((racer) => actOf(racer)(racer, round)))).flat()
      for (const answer of answers) {
        const code = answer.status === 200 ? 'done' : problemOf(answer).code
        codes.set(code, (codes.get(code) ?? 0) + 1)
        if (answer.status === 200) continue
        // Refused in words that say what is so, and what was kept.
        expect([answer.status, problemOf(answer).detail], answer.text).toEqual([
          expect.toSatisfy((status: number) => status >= 400 && status < 500),
          expect.stringMatching(/^.{15,}[.?”]$/su),
        ])
      }
      if (round % LOOKS === LOOKS - 1) expect(await wrong()).toEqual([])
    }
    expect(await wrong()).toEqual([])
    if (process.env.MARMOT_RACES) console.log(JSON.stringify(Object.fromEntries(codes)))
    expect(codes.get('done')).toBeGreaterThan(RACES)
    expect(codes.get('place-taken')).toBeGreaterThan(RACES / 10)
  },
  120_000 + RACES * 2000,
)
