import fc from 'fast-check'
import type { SendMailOptions } from 'nodemailer'
import type pg from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { runs, SEED } from '../../core/testing/properties.ts'
import { type Diary, openDiary } from '../../standins/mail/diary.ts'
import { startMarmot } from '../app.ts'
import { domains } from '../domains.ts'
import { readMeetings } from '../entries/index.ts'
import { openPool } from '../platform/database.ts'
import { aMeeting, type Client, copyDemo, signInAs, TEST_START, testSettings } from '../testing/marmot.ts'
import { domain } from './domain.ts'
import { letterTasks } from './send.ts'

/*
 * Random changes to meetings, within and beyond the moment in which they can be taken back, with the server killed
 * between any two steps of telling: each reader’s letters, taken in as a calendar program does, have to add up to what
 * Marmot shows, and none may tell what was told before.
 */

/** Where the server is killed in one step of telling: at which of its statements, or around the mail server’s yes. */
type Kill = { at: 'statement'; n: number } | { at: 'before-mail' } | { at: 'after-mail' } | null

class Killed extends Error {}

let databaseUrl: string
let running: Awaited<ReturnType<typeof startMarmot>>
let pool: pg.Pool
let ilse: Client
const people: { id: string; address: string }[] = []
let places: string[] = []
beforeAll(async () => {
  databaseUrl = await copyDemo()
  pool = openPool(databaseUrl)
  const asleep = { 'write-letters': async () => undefined, 'send-invitation': async () => undefined }
  // Who writes and sends is this test: the server’s own runner does nothing.
  const others = domains.map((one) => (one === domain ? { tasks: () => asleep } : one))
  running = await startMarmot(testSettings(databaseUrl, { takeBackMs: 3_600_000 }), others)
  ilse = await signInAs(running.url, 'Ilse Brandacher')
  for (const name of ['Tashi Lhendup', 'Matteo Ruprechter', 'Wanjiru Kamande']) {
    const found = await pool.query<{ id: string; address: string }>(
      'select id, address from person where name = $1',
      [name],
    )
    people.push(...found.rows)
  }
  const rooms = await pool.query<{ id: string }>(
    "select id from resource where name in ('Serac', 'Col') order by name",
  )
  places = rooms.rows.map((row) => row.id)
})
afterAll(async () => {
  await running.stop()
  await pool.end()
})

const GUEST = { address: 'noor.haddad@lodestar.example', name: 'Noor Haddad', required: true }

const kill: fc.Arbitrary<Kill> = fc.oneof(
  { weight: 5, arbitrary: fc.constant(null) },
  fc.integer({ min: 1, max: 14 }).map((n) => ({ at: 'statement' as const, n })),
  fc.constantFrom({ at: 'before-mail' as const }, { at: 'after-mail' as const }),
)
const step = fc.oneof(
  fc.record({ do: fc.constant('move' as const), hours: fc.integer({ min: -2, max: 2 }) }),
  fc.record({
    do: fc.constant('move-date' as const),
    date: fc.nat(3),
    hours: fc.integer({ min: -2, max: 2 }),
  }),
  fc.record({ do: fc.constant('rename' as const), n: fc.nat(2) }),
  fc.record({ do: fc.constant('rename-date' as const), date: fc.nat(3), n: fc.nat(2) }),
  fc.record({ do: fc.constant('place' as const), which: fc.integer({ min: -1, max: 1 }) }),
  fc.record({
    do: fc.constant('place-date' as const),
    date: fc.nat(3),
    which: fc.integer({ min: -1, max: 1 }),
  }),
  fc.record({ do: fc.constant('people' as const), who: fc.subarray([0, 1, 2]), required: fc.boolean() }),
  fc.record({ do: fc.constant('guest' as const), asked: fc.boolean() }),
  // To one date alone, or let off it.
  fc.record({ do: fc.constant('people-date' as const), date: fc.nat(3), who: fc.subarray([0, 1, 2]) }),
  fc.record({ do: fc.constant('people-date' as const), date: fc.nat(3), who: fc.subarray([0, 1, 2]) }),
  fc.record({ do: fc.constant('cancel-date' as const), date: fc.nat(3) }),
  // From a date on: the dates that follow become a series of their own, or are no more.
  fc.record({
    do: fc.constant('move-on' as const),
    date: fc.nat(3),
    hours: fc.integer({ min: -2, max: 2 }),
  }),
  fc.record({ do: fc.constant('rename-on' as const), date: fc.nat(3), n: fc.nat(2) }),
  fc.record({
    do: fc.constant('place-on' as const),
    date: fc.nat(3),
    which: fc.integer({ min: -1, max: 1 }),
  }),
  fc.record({ do: fc.constant('people-on' as const), date: fc.nat(3), who: fc.subarray([0, 1, 2]) }),
  fc.record({ do: fc.constant('cancel-on' as const), date: fc.nat(3) }),
  // Which of the series it has become the next steps are for.
  fc.record({ do: fc.constant('turn' as const), n: fc.nat(2) }),
  fc.constant({ do: 'cancel' as const }),
  fc.constant({ do: 'undo' as const }),
  fc.record({ do: fc.constant('tell' as const), kill }),
  fc.record({ do: fc.constant('tell' as const), kill }),
  fc.record({ do: fc.constant('tell' as const), kill }),
)

it('of any changes, told at any time, with the server killed anywhere, the letters add up and tell nothing twice', async () => {
  let round = 0
  await fc.assert(
    fc.asyncProperty(
      fc.boolean(),
      fc.array(step, { minLength: 3, maxLength: 12 }),
      async (repeats, steps) => {
        // Each round on a day of its own, so that the places are free.
        const day = new Date(TEST_START + (8 + (round++ % 60)) * 86_400_000).toISOString().slice(0, 10)
        const made = await ilse.send<{ entryId: string; changeId: string }>(
          'POST',
          '/api/meetings',
          aMeeting({
            title: 'Moraine',
            starts: `${day}T21:00`,
            minutes: 15,
            people: [{ id: people[0]?.id, required: true }],
            guests: [GUEST],
            ...(repeats ? { series: { rule: 'FREQ=WEEKLY;COUNT=4', changes: [] } } : {}),
          }),
        )
        expect(made.status).toBe(200)
        const { entryId } = made.body
        const meeting = follow(entryId, made.body.changeId, repeats)
        for (const one of steps) await meeting.take(one)
        await meeting.tell(null)
        await meeting.check()
        await pool.query(
          'delete from reservation r using occurrence o where o.id = r.occurrence_id and o.entry_id = any($1)',
          [meeting.family],
        )
      },
    ),
    { seed: SEED, numRuns: runs(40) },
  )
})

it('an answer to the time that is asked about now stays, one to the time before is asked for again', async () => {
  const asked = people.slice(0, 2)
  const [tashi, matteo] = await Promise.all(
    ['Tashi Lhendup', 'Matteo Ruprechter'].map((name) => signInAs(running.url, name)),
  )
  const made = await ilse.send<{ entryId: string; changeId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      title: 'Moraine, asked again',
      starts: '2026-12-02T19:00',
      people: asked.map(({ id }) => ({ id, required: true })),
    }),
  )
  const { entryId, changeId } = made.body
  const meeting = follow(entryId, changeId, false)
  const answers = async () => {
    const [whole] = await readMeetings(pool, [entryId], TEST_START)
    return asked.map(({ address }) => {
      const one = whole?.participants.find((each) => each.address === address)
      return [one?.answer, one?.message]
    })
  }
  const accept = (who?: Client) =>
    who?.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted', message: 'By the late train' })
  await meeting.tell(null)
  await accept(tashi)
  await accept(matteo)
  await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, starts: '2026-12-02T20:00' })
  // He sees the new time before its letter is written, and says yes to it as he did to the one before.
  await accept(matteo)
  await meeting.tell(null)
  expect(await answers()).toEqual([
    ['needs-action', ''],
    ['accepted', 'By the late train'],
  ])
})

const addressOf = ({ to }: SendMailOptions): string =>
  to && typeof to === 'object' && 'address' in to ? String(to.address) : ''

/** All that a letter could change, in one text. */
const pictureOf = (diary: Diary): string =>
  JSON.stringify(diary.uids().map((uid) => [uid, diary.shown(uid), diary.role(uid)]))

/** One meeting that changes, and may become several, and the calendars of all who ever heard of it. */
const follow = (first: string, made: string, repeats: boolean) => {
  const family = [first]
  let entryId = first
  const changes = [made]
  const calendars = new Map<string, Diary>()
  const seen = new Set<string>()
  /** Readers to whom a letter was on its way when the server was killed, and did not come. */
  const lost = new Set<string>()
  /** Between two tries time passes: what was on its way when the server was killed is not waited for for ever. */
  let minutes = 0

  /** A letter reaches its reader; one that comes again, under its old id, is known and left alone. */
  const deliver = (mail: SendMailOptions) => {
    const id = String(mail.messageId)
    if (seen.has(id)) return
    seen.add(id)
    const address = addressOf(mail)
    const part = mail.icalEvent
    if (!part || typeof part !== 'object' || !('method' in part))
      throw new Error('a letter without a calendar')
    const { method, content } = part
    const calendar = calendars.get(address) ?? openDiary(address)
    calendars.set(address, calendar)
    const before = pictureOf(calendar)
    calendar.take(String(method), String(content))
    // What was told before is not told again; after one of which nobody knows whether it came, it may be.
    if (!lost.delete(address)) expect([mail.subject, pictureOf(calendar)]).not.toEqual([mail.subject, before])
  }

  const tell = async (how: Kill) => {
    const post = {
      pool: how?.at === 'statement' ? dying(pool, how.n) : pool,
      clock: () => TEST_START + minutes * 60_000,
      threads: { run: () => Promise.reject(new Error('nothing here is large')), stop: async () => undefined },
      url: running.url,
      from: 'marmot@corrie.example',
      transport: {
        sendMail: async (mail: SendMailOptions) => {
          if (how?.at === 'before-mail') {
            lost.add(addressOf(mail))
            throw new Killed()
          }
          deliver(mail)
          if (how?.at === 'after-mail') throw new Killed()
        },
      },
    }
    const tasks = letterTasks(post)
    const survive = (work: Promise<void>) =>
      work.catch((error) => {
        if (how === null && !String(error).includes('waits')) throw error
      })
    for (const id of family) await survive(tasks['write-letters']({ entryId: id, actorId: null }))
    // Without a killing, until nothing is left to be sent: a letter may wait for the one before it.
    for (let turn = 0; turn < (how ? 1 : 4); turn++) {
      minutes += 2
      const waiting = await pool.query<{ ids: string[] }>(
        `select array_agg(id order by number, id) as ids from letter
          where entry_id = any($1) and state = 'waiting' group by entry_id`,
        [family],
      )
      if (waiting.rowCount === 0) break
      for (const { ids } of waiting.rows) await survive(tasks['send-invitation']({ letterIds: ids }))
    }
  }

  const now = async (id = entryId) => {
    const [meeting] = await readMeetings(pool, [id], TEST_START)
    return meeting
  }

  const change = async (body: Record<string, unknown>) => {
    const meeting = await now()
    if (!meeting || meeting.cancelled) return
    const changed = await ilse.send<{ changeId: string; entryId: string }>(
      'POST',
      `/api/meetings/${entryId}/change`,
      {
        version: meeting.version,
        ...body,
      },
    )
    // A place can be somebody else’s, a date over or gone: nothing has changed then.
    if (changed.status !== 200) {
      expect([404, 409, 422]).toContain(changed.status)
      return
    }
    changes.push(changed.body.changeId)
    if (!family.includes(changed.body.entryId)) family.push(changed.body.entryId)
  }

  const dateOf = async (n: number) => {
    const dates = await pool.query<{ recurrence: string; starts: string }>(
      `select to_char(recurrence, 'YYYY-MM-DD"T"HH24:MI') as recurrence,
              to_char(lower(span) at time zone 'Europe/Vienna', 'YYYY-MM-DD"T"HH24:MI') as starts
         from occurrence where entry_id = $1 and gone_at is null order by recurrence`,
      [entryId],
    )
    return dates.rows[n % Math.max(1, dates.rows.length)]
  }
  const later = (wall: string, hours: number) =>
    new Date(Date.parse(`${wall}:00Z`) + hours * 3_600_000).toISOString().slice(0, 16)
  const placesOf = (which: number) => (which < 0 ? [] : [places[which]])

  const checkOne = async (id: string) => {
    const meeting = await now(id)
    const rows = await pool.query<{
      start: Date
      end: Date
      title: string
      recurrence: string
      taking: string[]
    }>(
      `select array(select a.participant_id from attendance a where a.occurrence_id = o.id) as taking, lower(o.span) as start, upper(o.span) as end, coalesce(v.title, e.title) as title,
              to_char(o.recurrence, 'YYYY-MM-DD"T"HH24:MI') as recurrence
         from occurrence o join entry e on e.id = o.entry_id
         left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
        where o.entry_id = $1 and o.gone_at is null order by lower(o.span)`,
      [id],
    )
    const shown = rows.rows.map((row) => ({
      taking: row.taking,
      start: row.start.getTime(),
      end: row.end.getTime(),
      title: row.title,
      place:
        meeting?.changes.find((each) => each.recurrence === row.recurrence)?.place ??
        meeting?.usualPlace ??
        '',
    }))
    const asked = new Map(
      (meeting?.participants ?? []).filter((each) => !each.organizer).map((each) => [each.address, each]),
    )
    for (const address of new Set([...asked.keys(), ...calendars.keys()])) {
      const takesPart = asked.get(address)
      // Their own lane: of a series, those dates in which they take part.
      const lane = shown.flatMap(({ taking, ...date }) => (taking.includes(takesPart?.id ?? '') ? date : []))
      expect([address, calendars.get(address)?.shown(id) ?? []]).toEqual([address, lane])
      if (takesPart && lane.length)
        expect(calendars.get(address)?.role(id)).toBe(
          takesPart.required ? 'REQ-PARTICIPANT' : 'OPT-PARTICIPANT',
        )
    }
  }

  return {
    family,
    tell,
    take: async (one: Parameters<Parameters<typeof step.map>[0]>[0]) => {
      const date = 'date' in one && repeats ? await dateOf(one.date) : undefined
      const on = one.do.endsWith('-on')
      const dated = date ? { recurrence: date.recurrence, scope: on ? 'following' : 'this' } : {}
      switch (one.do) {
        case 'turn':
          entryId = family[one.n % family.length] ?? first
          return
        case 'move':
        case 'move-on':
        case 'move-date': {
          const from = date ?? (await dateOf(0))
          if (from)
            await change({ recurrence: from.recurrence, ...dated, starts: later(from.starts, one.hours) })
          return
        }
        case 'rename':
        case 'rename-on':
        case 'rename-date':
          return change({ ...dated, title: `Moraine ${one.n}` })
        case 'place':
        case 'place-on':
        case 'place-date':
          return change({ ...dated, places: placesOf(one.which) })
        case 'people':
          return change({
            people: one.who.map((i) => ({ id: people[i]?.id, required: one.required })),
          })
        case 'people-date':
        case 'people-on':
          return change({ ...dated, people: one.who.map((i) => ({ id: people[i]?.id, required: true })) })
        case 'guest':
          return change({ guests: one.asked ? [GUEST] : [] })
        case 'cancel-date':
        case 'cancel-on':
        case 'cancel': {
          const off = await ilse.send<{ changeId: string | null }>(
            'POST',
            `/api/meetings/${entryId}/cancel`,
            {
              ...(one.do !== 'cancel' && date ? { recurrence: date.recurrence, following: on } : {}),
            },
          )
          if (off.body.changeId) changes.push(off.body.changeId)
          return
        }
        case 'undo': {
          const last = changes.pop()
          if (last)
            expect([200, 409]).toContain((await ilse.send('POST', `/api/changes/${last}/undo`)).status)
          return
        }
        case 'tell':
          return tell(one.kill)
      }
    },
    /** What each reader’s calendar shows is what Marmot shows of those who take part, and nothing for the others. */
    check: async () => {
      for (const id of family) await checkOne(id)
    },
  }
}

/** The same pool, of a server that dies at the nth statement: what its transaction had done is rolled back. */
const dying = (of: pg.Pool, n: number): pg.Pool => {
  let left = n
  const connect = async () => {
    const client = await of.connect()
    const query = async (...asked: unknown[]): Promise<unknown> => {
      if (asked[0] !== 'rollback' && --left <= 0) {
        if (left === 0) await client.query('rollback')
        throw new Killed()
      }
      return Reflect.apply(client.query, client, asked)
    }
    return { query, release: () => client.release() }
  }
  return new Proxy(of, { get: (it, name) => (name === 'connect' ? connect : Reflect.get(it, name)) })
}
