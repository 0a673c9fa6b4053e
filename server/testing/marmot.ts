import { randomUUID } from 'node:crypto'
import type { Person } from '@marmot/contract/people'
import type { Problem } from '@marmot/contract/route'
import type pg from 'pg'
import { inject } from 'vitest'
import { WebSocket } from 'ws'
import type { KeptMail } from '../../standins/mail/mailboxes.ts'
import { type MailStandIn, startMailStandIn } from '../../standins/mail/server.ts'
import { startMarmot } from '../app.ts'
import { DEMO_PASSWORD } from '../people/index.ts'
import { openPool } from '../platform/database.ts'
import type { Settings } from '../platform/settings.ts'
import { TEST_NOW } from './cluster.ts'

/** The tests' own instant, in milliseconds. */
export const TEST_START = Date.parse(TEST_NOW)

/** What a request gave: its status, and its body as JSON and as text. */
export interface Answer<T = unknown> {
  readonly status: number
  readonly body: T
  readonly text: string
  readonly headers: Headers
}

export interface Client {
  readonly person: Person
  readonly cookie: string
  get: <T>(path: string) => Promise<Answer<T>>
  send: <T>(
    method: 'POST' | 'PUT' | 'DELETE',
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ) => Promise<Answer<T>>
  /** Asks for people's time in a range, given as `from=…&to=…`. */
  timeOf: <T>(people: readonly string[], range: string) => Promise<Answer<T>>
  /** Sends bytes rather than JSON. */
  upload: <T>(path: string, bytes: Buffer) => Promise<Answer<T>>
}

/** A copy of the demo's database, of its own name, with its address. */
export const copyDemo = async (): Promise<string> => {
  const clusterUrl = inject('clusterUrl')
  const name = `t_${randomUUID().replace(/-/g, '')}`
  const admin = openPool(clusterUrl)
  await admin.query(`create database ${name} template demo_template`)
  await admin.end()
  return clusterUrl.replace(/\/postgres$/, `/${name}`)
}

export const testSettings = (databaseUrl: string, more: Partial<Settings> = {}): Settings => ({
  port: 0,
  databaseUrl,
  smtpUrl: 'smtp://127.0.0.1:1',
  mailPort: 0,
  mailboxUrl: null,
  url: null,
  mailFrom: 'marmot@corrie.example',
  proxy: false,
  now: TEST_NOW,
  demo: true,
  takeBackMs: 0,
  feedHosts: new Set(),
  conference: null,
  weather: null,
  organisation: 'The Corrie Institute',
  log: 'silent',
  ...more,
})

const ask = async <T>(
  url: string,
  path: string,
  method: string,
  cookie: string,
  body: unknown,
  headers: Record<string, string>,
): Promise<Answer<T>> => {
  const response = await fetch(`${url}${path}`, {
    method,
    headers: { cookie, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
    ...(body === undefined
      ? {}
      : {
          body: Buffer.isBuffer(body)
            ? new Uint8Array(body)
            : typeof body === 'string'
              ? body
              : JSON.stringify(body),
        }),
  })
  const text = await response.text()
  let read: unknown = null
  try {
    read = JSON.parse(text)
  } catch {
    read = text
  }
  return { status: response.status, body: read as T, text, headers: response.headers }
}

/** A person signed in over HTTP. */
export const signInAs = async (url: string, name: string): Promise<Client> => {
  const address = `${name
    .toLowerCase()
    .replace(/ø/g, 'o')
    .normalize('NFD')
    .replace(/[^a-z ]/g, '')
    .replace(/ /g, '.')}@corrie.example`
  const answer = await ask<{ person: Person }>(
    url,
    '/api/session',
    'POST',
    '',
    { address, password: DEMO_PASSWORD },
    {},
  )
  if (answer.status !== 200) throw new Error(`${name} could not sign in: ${answer.text}`)
  const cookie = (answer.headers.get('set-cookie') ?? '').split(';')[0] ?? ''
  return {
    person: answer.body.person,
    cookie,
    get: (path) => ask(url, path, 'GET', cookie, undefined, {}),
    send: (method, path, body, headers = {}) =>
      ask(url, path, method, cookie, body, { 'idempotency-key': randomUUID(), ...headers }),
    timeOf: (people, range) =>
      ask(
        url,
        '/api/availability',
        'POST',
        cookie,
        { people, ...Object.fromEntries(new URLSearchParams(range)) },
        {},
      ),
    upload: (path, bytes) =>
      ask(url, path, 'POST', cookie, bytes, { 'content-type': 'application/octet-stream' }),
  }
}

export interface TestMarmot {
  readonly url: string
  readonly databaseUrl: string
  readonly mailPort: number
  readonly pool: pg.Pool
  readonly mail: MailStandIn
  readonly as: (name: string) => Promise<Client>
  readonly anyone: <T>(
    method: string,
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ) => Promise<Answer<T>>
  readonly personId: (name: string) => Promise<string>
  readonly placeId: (name: string) => Promise<string>
  /** Has somebody send a meeting (`aMeeting`), and gives its id once its letters have left. */
  readonly sendMeeting: (who: Client, more: Record<string, unknown>) => Promise<string>
  /** Asks for a place, by its name, with no meeting. */
  readonly askForPlace: (
    who: Client,
    place: string,
    starts: string,
    more?: Record<string, unknown>,
  ) => Promise<Answer<{ entryId: string; changeId: string }>>
  /** The same where it has to be had; gives the id of what was made. */
  readonly reserve: (
    who: Client,
    place: string,
    starts: string,
    more?: Record<string, unknown>,
  ) => Promise<string>
  /** In what state the places of an entry are that it has, date by date. */
  readonly statesOf: (entryId: string) => Promise<string[]>
  /** Waits until all letters that are written have left. */
  readonly quiet: () => Promise<void>
  /** Lets the moment of every change pass, or of one meeting, and waits until all of that is told. */
  readonly pass: (entryId?: string) => Promise<void>
  /** What came to a mailbox about a meeting, in order. */
  readonly letters: (address: string, entryId: string) => SeenLetter[]
  /** The address of the interface for a guest, by the link in the newest letter to them about a meeting. */
  readonly linkOf: (address: string, entryId: string) => string
  readonly stop: () => Promise<void>
}

/** A letter as it came: its subject, the first words of that, and what the first component of its calendar part says. */
export interface SeenLetter {
  readonly subject: string
  readonly kind: string
  readonly method: string
  readonly calendar: string
  readonly text: string
  readonly sequence: string | null
  readonly start: string | null
  readonly rule: string | null
  /** The one date that it is about. */
  readonly date: string | null
  readonly where: string | null
}

const letterSeen = ({ subject, method, text, calendar }: KeptMail): SeenLetter => {
  const event = /BEGIN:VEVENT[\s\S]*?END:VEVENT/.exec(calendar.replace(/\r\n[ \t]/g, ''))?.[0] ?? ''
  const partOf = (name: string) => new RegExp(`^${name}[^:\\r\\n]*:(.*?)\\r?$`, 'm').exec(event)?.[1] ?? null
  return {
    subject,
    kind: subject.split(':')[0] ?? '',
    method,
    calendar,
    text,
    sequence: partOf('SEQUENCE'),
    start: partOf('DTSTART'),
    rule: partOf('RRULE'),
    date: partOf('RECURRENCE-ID'),
    where: partOf('LOCATION')?.replaceAll('\\', '') ?? null,
  }
}

const WAITING = "select 1 from letter where state = 'waiting'"

/** A whole Marmot on a copy of the demo, with a real mail server beside it. */
export const startTestMarmot = async (more: Partial<Settings> = {}): Promise<TestMarmot> => {
  const databaseUrl = await copyDemo()
  const inbox = { port: 0 }
  const mail = await startMailStandIn({
    smtpPort: 0,
    pagePort: 0,
    file: null,
    marmotMail: () => ({ host: '127.0.0.1', port: inbox.port }),
  })
  const running = await startMarmot(
    testSettings(databaseUrl, { smtpUrl: `smtp://127.0.0.1:${mail.smtpPort}`, ...more }),
  )
  inbox.port = running.mailPort
  const pool = openPool(databaseUrl)
  const idOf = async (table: 'person' | 'resource', name: string): Promise<string> => {
    const found = await pool.query<{ id: string }>(`select id from ${table} where name = $1`, [name])
    const id = found.rows[0]?.id
    if (!id) throw new Error(`there is no ${name}`)
    return id
  }
  const untilNone = async (query: string, values: unknown[] = []) => {
    await until(
      () => pool.query(query, values),
      (left) => left.rowCount === 0,
    )
  }
  const quiet = () =>
    untilNone(
      `${WAITING} union all select 1 from graphile_worker.jobs where task_identifier = 'send-invitation'`,
    )
  const letters = (address: string, entryId: string): SeenLetter[] =>
    mail.mailboxes
      .of(address)
      .filter((one) => one.calendar.includes(`UID:${entryId}`))
      .map(letterSeen)
      .reverse()
  const askForPlace: TestMarmot['askForPlace'] = async (who, place, starts, more) =>
    who.send(
      'POST',
      '/api/meetings',
      aMeeting({ shows: 'listed', starts, places: [await idOf('resource', place)], ...more }),
    )
  return {
    url: running.url,
    databaseUrl,
    mailPort: running.mailPort,
    pool,
    mail,
    as: (name) => signInAs(running.url, name),
    anyone: (method, path, body, headers = {}) =>
      ask(running.url, path, method, '', body, { 'idempotency-key': randomUUID(), ...headers }),
    personId: (name) => idOf('person', name),
    placeId: (name) => idOf('resource', name),
    sendMeeting: async (who, more) => {
      const made = await who.send<{ entryId: string }>('POST', '/api/meetings', aMeeting(more))
      if (made.status !== 200) throw new Error(made.text)
      await quiet()
      return made.body.entryId
    },
    askForPlace,
    reserve: async (who, place, starts, more) => {
      const made = await askForPlace(who, place, starts, more)
      if (made.status !== 200) throw new Error(made.text)
      return made.body.entryId
    },
    statesOf: async (entryId) => {
      const rows = await pool.query<{ state: string }>(
        `select r.state from reservation r join occurrence o on o.id = r.occurrence_id
          where o.entry_id = $1 and r.state <> 'released' order by lower(r.span)`,
        [entryId],
      )
      return rows.rows.map((row) => row.state)
    },
    quiet,
    pass: async (entryId = '%') => {
      const owed = [`owed:${entryId}`]
      await pool.query(
        'update graphile_worker._private_jobs set run_at = now() where key like $1 and locked_at is null',
        owed,
      )
      await untilNone(`select 1 from graphile_worker.jobs where key like $1 union all ${WAITING}`, owed)
    },
    letters,
    linkOf: (address, entryId) => {
      const token = /\/i\/([\w-]+)/.exec(letters(address, entryId).at(-1)?.text ?? '')?.[1] ?? ''
      return `/api/invitations/${token}`
    },
    stop: async () => {
      await running.stop()
      await mail.stop()
      await pool.end()
    },
  }
}

/** Asks again until it holds; fails with what was last seen. For what arrives by mail or by a job. */
export const until = async <T>(
  look: () => Promise<T> | T,
  holds: (seen: T) => boolean,
  seconds = 60,
): Promise<T> => {
  const end = Date.now() + seconds * 1000
  let seen = await look()
  while (!holds(seen)) {
    if (Date.now() > end)
      throw new Error(`It did not come to hold. Last seen: ${JSON.stringify(seen)?.slice(0, 600)}`)
    await new Promise((resolve) => setTimeout(resolve, 50))
    seen = await look()
  }
  return seen
}

/** Waits until somebody waits for a lock in this database; others, with tests of their own, have theirs on the same cluster. */
export const somebodyWaits = (pool: pg.Pool): Promise<unknown> =>
  until(
    () =>
      pool.query(
        "select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'",
      ),
    (waiting) => waiting.rowCount !== 0,
  )

/** How long the longest small request takes while something is done, as a share of the whole. */
export const heldUp = async (who: Client, work: () => Promise<unknown>): Promise<number> => {
  let [longest, going] = [0, true]
  const others = (async () => {
    while (going) {
      const from = performance.now()
      await who.get('/api/session')
      longest = Math.max(longest, performance.now() - from)
    }
  })()
  const start = performance.now()
  await work()
  const took = performance.now() - start
  going = false
  await others
  return longest / took
}

/** How an attempt to open a WebSocket is answered. */
export const attempt = (url: string, path: string, headers: Record<string, string>): Promise<number> =>
  new Promise((resolve) => {
    const socket = new WebSocket(`${url.replace('http', 'ws')}${path}`, { headers })
    socket.on('unexpected-response', (_, response) => {
      resolve(response.statusCode ?? 0)
      socket.terminate()
    })
    socket.on('open', () => {
      resolve(101)
      socket.terminate()
    })
    socket.on('error', () => undefined)
  })

/** A mail server with nobody to reply to, for tests that only look at what arrives. */
export const startLetterBox = (smtpPort = 0): Promise<MailStandIn> =>
  startMailStandIn({ smtpPort, pagePort: 0, file: null, marmotMail: () => ({ host: '127.0.0.1', port: 1 }) })

export const problemOf = (answer: Answer): Problem => answer.body as Problem

/** A meeting as it is sent, at a time that suits most. */
export const aMeeting = (more: Record<string, unknown> = {}) => ({
  title: 'Firn core review',
  starts: '2026-12-03T14:00',
  minutes: 60,
  zone: 'Europe/Vienna',
  people: [],
  guests: [],
  places: [],
  ...more,
})

/** A guest without an account. */
export const GUEST = 'rosa@lodestar.example'

/** Who is invited to a meeting: a colleague who must come, and a guest who may. */
export const withGuest = (colleague: Client) => ({
  people: [{ id: colleague.person.id, required: true }],
  guests: [{ address: GUEST, name: 'Rosa Quispe', required: false }],
})
