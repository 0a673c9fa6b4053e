import { PassThrough } from 'node:stream'
import type { holidaysEvent, timeEvent } from '@marmot/contract/availability'
import type { callEvent } from '@marmot/contract/conferences'
import type { contactsEvent } from '@marmot/contract/contacts'
import type { meetingEvent } from '@marmot/contract/meetings'
import type { pollEvent } from '@marmot/contract/polls'
import type { remindersEvent } from '@marmot/contract/reminders'
import type { placesEvent, reservationsEvent } from '@marmot/contract/resources'
import type { sharingEvent } from '@marmot/contract/sharing'
import type { todosEvent } from '@marmot/contract/todo'
import type { visitEvent } from '@marmot/contract/visits'
import type { weatherEvent } from '@marmot/contract/weather'
import type { Context } from 'koa'
import pg from 'pg'
import type { Logger } from 'pino'
import { z } from 'zod'
import type { Sql } from './database.ts'
import { ProblemError } from './problems.ts'

const CHANNEL = 'marmot'
/** NOTIFY carries at most 8000 bytes; an id takes 39. */
const MOST_IDS = 150

/** What servers tell one another: what browsers hear, and which session ended. */
type Told = LiveEvent | { readonly kind: 'session-ended'; readonly session: string }

/** A live event: its kind, and by ids what changed. One with `people` is for them alone. */
export interface LiveEvent {
  readonly kind: string
  readonly people?: readonly string[]
}

/** What each of some listeners hears of an event, by their ids; whoever is not in it hears nothing. */
export type Pass = (event: LiveEvent, listeners: readonly string[]) => Promise<Map<string, LiveEvent>>

const sessionEnded = z.object({ kind: z.literal('session-ended'), session: z.string() })

const inParts = (ids: readonly string[]): string[][] => {
  const unique = [...new Set(ids)]
  const parts: string[][] = []
  for (let i = 0; i < unique.length; i += MOST_IDS) parts.push(unique.slice(i, i + MOST_IDS))
  return parts
}

/** Says something to all browsers that are concerned, when the transaction commits. */
export const tell = async (sql: Sql, events: readonly Told[]): Promise<void> => {
  if (events.length === 0) return
  await sql.query('select pg_notify($1, told) from unnest($2::text[]) told', [
    CHANNEL,
    events.map((event) => JSON.stringify(event)),
  ])
}

/** That these people's time changed. */
export const timeChanged = (people: readonly string[]): z.input<typeof timeEvent>[] =>
  inParts(people).map((part) => ({ kind: 'time', people: part }))

/** That reservations of these resources changed. */
export const reservationsChanged = (resources: readonly string[]): z.input<typeof reservationsEvent>[] =>
  inParts(resources).map((part) => ({ kind: 'reservations', resources: part }))

/** That these places themselves changed: when they are closed, by which rules they are reserved; and what is reserved of them may be otherwise. */
export const placesChanged = (
  resources: readonly string[],
): (z.input<typeof placesEvent> | z.input<typeof reservationsEvent>)[] => [
  ...inParts(resources).map((part) => ({ kind: 'places' as const, resources: part })),
  ...reservationsChanged(resources),
]

/** An event of some kind about an entry, to people (guests by their ids as participants): as many as it takes to name them all. */
export const aboutEntry = <K extends string>(
  kind: K,
  entryId: string,
  people: readonly string[],
): { kind: K; entryId: string; people: string[] }[] =>
  inParts(people).map((part) => ({ kind, entryId, people: part }))

/** That a meeting changed, to those who take part in it. */
export const meetingChanged = (entryId: string, people: readonly string[]): z.input<typeof meetingEvent>[] =>
  aboutEntry('meeting', entryId, people)

/** That what is offered on a visitor page changed, to whoever has it open. */
export const visitPageChanged = (pageId: string): z.input<typeof visitEvent>[] => [
  { kind: 'visit', pageId, people: [pageId] },
]

/** That a poll changed, to those who are asked (guests by their ids as voters), whoever came by its link for all, and whoever asks. */
export const pollChanged = (pollId: string, people: readonly string[]): z.input<typeof pollEvent>[] =>
  inParts([...people, pollId]).map((part) => ({ kind: 'poll', pollId, people: part }))

/** Says, when the transaction commits, that these people's time changed. */
export const tellTime = (sql: Sql, people: readonly string[]): Promise<void> => tell(sql, timeChanged(people))

/** Says, when the transaction commits, that reservations of these resources changed. */
export const tellReservations = (sql: Sql, resources: readonly string[]): Promise<void> =>
  tell(sql, reservationsChanged(resources))

/** Says, when the transaction commits, that a meeting changed, to those who take part in it. */
export const tellMeeting = (sql: Sql, entryId: string, people: readonly string[]): Promise<void> =>
  tell(sql, meetingChanged(entryId, people))

/** Says, when the transaction commits, that reminders of these people changed, to them alone. */
export const tellReminders = (sql: Sql, people: readonly string[]): Promise<void> =>
  tell(
    sql,
    inParts(people).map((part): z.input<typeof remindersEvent> => ({ kind: 'reminders', people: part })),
  )

/** Says, when the transaction commits, that to-dos of these people changed, to them alone. */
export const tellTodos = (sql: Sql, people: readonly string[]): Promise<void> =>
  tell(
    sql,
    inParts(people).map((part): z.input<typeof todosEvent> => ({ kind: 'todos', people: part })),
  )

/** Says, when the transaction commits, that contacts of these people changed, to them alone. */
export const tellContacts = (sql: Sql, people: readonly string[]): Promise<void> =>
  tell(
    sql,
    inParts(people).map((part): z.input<typeof contactsEvent> => ({ kind: 'contacts', people: part })),
  )

/** Says, when the transaction commits, that somebody is called into a meeting, or no more: to them alone. */
export const tellCalls = (sql: Sql, people: readonly string[]): Promise<void> =>
  tell(
    sql,
    inParts(people).map((part): z.input<typeof callEvent> => ({ kind: 'call', people: part })),
  )

/** Says, when the transaction commits, that what somebody lets others see changed: to everybody, and not whose. */
export const tellSharing = async (sql: Sql): Promise<void> => {
  await tell(sql, [{ kind: 'sharing' } satisfies z.input<typeof sharingEvent>])
}

/** Says, when the transaction commits, that days off of sites changed: to everybody. */
export const tellHolidays = async (sql: Sql): Promise<void> => {
  await tell(sql, [{ kind: 'holidays' } satisfies z.input<typeof holidaysEvent>])
}

/** Says, when the transaction commits, that a newer forecast came: to everybody. */
export const tellWeather = async (sql: Sql): Promise<void> => {
  await tell(sql, [{ kind: 'weather' } satisfies z.input<typeof weatherEvent>])
}

/** Says, when the transaction commits, that a session is over: its streams end. `session` is its token's hash. */
export const tellSessionEnded = async (sql: Sql, session: string): Promise<void> => {
  await tell(sql, [{ kind: 'session-ended', session }])
}

/** Whoever listens: a person in one of their sessions, or a guest by a link; session and link by their token's hash. */
export interface Listener {
  /** Of a guest, their id as a participant: they hear what names them, and nothing else. */
  readonly personId: string
  readonly session: string
  readonly guest?: boolean
  /** True for whoever looks at a page that is open to all: there is no session that could end. */
  readonly anyone?: boolean
}

/** A kind of live event as it is passed on: nothing leaves of it that its schema does not name. */
export interface PassedEvent {
  readonly event: z.ZodObject<{ kind: z.ZodLiteral<string> }>
  readonly pass?: Pass
}

/** What a server itself does at an event: at one that servers tell one another, of which no browser hears, or at any other. */
export interface Hearing {
  readonly event: z.ZodObject<{ kind: z.ZodLiteral<string> }>
  readonly hear: (event: unknown) => void
  /** Events may have been missed: what is kept of them is to be read anew. */
  readonly again: () => void
}

/** What live events have to know of others. */
export interface LiveDeps {
  readonly kinds: readonly PassedEvent[]
  readonly hears: readonly Hearing[]
  /** Told of a session that has ended, by its token's hash. */
  readonly ended: (session: string) => void
  /** Those of these sessions that go on. */
  readonly lasting: (sessions: readonly string[]) => Promise<Set<string>>
}

const BEAT_MS = 20_000
/** So many streams stand for one session, or one guest's link. */
const MOST_STREAMS = 30
/** So many may look at pages that are open to all, at one server; whoever comes then sees changes when they look again. */
const MOST_ANYONE = 1000
const RETRY_MS = 500
/** A browser that has taken nothing for so long is cut off; it comes again by itself and asks for everything. */
const MOST_WAITING_BYTES = 256 * 1024

const lineOf = (event: LiveEvent): string => `data: ${JSON.stringify(event)}\n\n`
const AGAIN = 'event: again\ndata: {}\n\n'

/**
 * Live events: one connection listens to PostgreSQL, every browser has a stream. When the connection is lost it is
 * made again, and every browser is told to ask anew (`event: again`), since events may have been missed.
 */
export const openLive = (databaseUrl: string, log: Logger, { kinds, hears, ended, lasting }: LiveDeps) => {
  const streams = new Map<PassThrough, Listener>()
  let client: pg.Client | null = null
  let closed = false
  let retry: NodeJS.Timeout | undefined
  // Events go out in the order in which they came, though who may hear of one has to be asked.
  let turn: Promise<void> = Promise.resolve()

  const end = (stream: PassThrough) => {
    streams.delete(stream)
    stream.end()
  }

  const write = (stream: PassThrough, text: string) => {
    if (stream.writableLength + stream.readableLength > MOST_WAITING_BYTES) {
      streams.delete(stream)
      stream.destroy()
    } else stream.write(text)
  }

  const send = (text: string, to: (listener: Listener) => boolean = () => true) => {
    for (const [stream, listener] of streams) if (to(listener)) write(stream, text)
  }

  const passes = new Map(kinds.map((kind) => [kind.event.shape.kind.value, kind]))

  const pass = async (payload: unknown): Promise<void> => {
    const over = sessionEnded.safeParse(payload)
    if (over.success) {
      const { session } = over.data
      for (const [stream, listener] of streams) if (listener.session === session) end(stream)
      ended(session)
      return
    }
    for (const { event, hear } of hears) {
      const heard = event.safeParse(payload)
      if (heard.success) hear(heard.data)
    }
    if (streams.size === 0) return
    const named = z.object({ kind: z.string() }).safeParse(payload)
    const kind = named.success ? passes.get(named.data.kind) : undefined
    const read = kind?.event.safeParse(payload)
    if (!kind || !read?.success) return
    const event: LiveEvent = read.data
    if (!kind.pass) {
      const { people, ...rest } = event
      send(lineOf(event), ({ personId, guest }) => !guest && (!people || people.includes(personId)))
      // A guest does not learn who else hears it.
      send(lineOf(rest), ({ personId, guest }) => guest === true && people?.includes(personId) === true)
      return
    }
    const colleagues = [...streams.values()].flatMap((one) => (one.guest ? [] : one.personId))
    const heard = await kind.pass(event, [...new Set(colleagues)])
    for (const [stream, { personId }] of streams) {
      const heardByThem = heard.get(personId)
      if (heardByThem) write(stream, lineOf(heardByThem))
    }
  }

  const passInTurn = (event: unknown) => {
    turn = turn.then(() =>
      pass(event).catch((error) => {
        log.warn({ error }, 'a live event could not be passed on')
        send(AGAIN)
      }),
    )
  }

  const comeAgain = () => {
    client = null
    clearTimeout(retry)
    if (!closed) retry = setTimeout(connect, RETRY_MS)
  }

  const connect = async (): Promise<void> => {
    if (closed) return
    const next = new pg.Client({ connectionString: databaseUrl })
    // A connection that is lost says so twice, by an error and by its end: it is made again once.
    let lost = false
    const lose = () => {
      if (lost) return
      lost = true
      next.end().catch(() => undefined)
      comeAgain()
    }
    next.on('error', lose)
    next.on('end', lose)
    next.on('notification', (message) => {
      passInTurn(JSON.parse(message.payload ?? 'null'))
    })
    try {
      await next.connect()
      await next.query(`listen ${CHANNEL}`)
      if (lost) return
      client = next
      send(AGAIN)
      for (const { again } of hears) again()
    } catch (error) {
      log.warn({ error }, 'live events wait for the database')
      lose()
    }
  }

  const beat = setInterval(async () => {
    send(': still here\n\n')
    try {
      const known = [...streams].filter(([, one]) => !one.anyone)
      const sessions = [...new Set(known.map(([, one]) => one.session))]
      if (sessions.length === 0) return
      const going = await lasting(sessions)
      for (const [stream, { session }] of known) if (!going.has(session)) end(stream)
    } catch (error) {
      log.debug({ error }, 'sessions were not looked for')
    }
  }, BEAT_MS)

  return {
    connect,
    /** Answers a request with the stream of events for a listener. */
    stream: (context: Context, listener: Listener): void => {
      const lookers = listener.anyone ? [...streams.values()].filter((one) => one.anyone).length : 0
      if (lookers >= MOST_ANYONE)
        throw new ProblemError(503, 'too-many', 'Too many look at this just now. It is shown all the same.')
      const stream = new PassThrough()
      context.respond = false
      const { res } = context
      res.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        connection: 'keep-alive',
      })
      // Whoever opens more has left the first without saying so: they come again by themselves where not.
      const own = [...streams].flatMap(([one, { session }]) => (session === listener.session ? [one] : []))
      for (const one of own.slice(0, Math.max(0, own.length + 1 - MOST_STREAMS))) end(one)
      stream.pipe(res)
      stream.write('event: ready\ndata: {}\n\n')
      streams.set(stream, listener)
      stream.on('close', () => res.destroy())
      res.on('close', () => {
        streams.delete(stream)
        stream.destroy()
      })
    },
    close: async (): Promise<void> => {
      closed = true
      clearInterval(beat)
      clearTimeout(retry)
      for (const stream of streams.keys()) stream.end()
      await turn
      await client?.end().catch(() => undefined)
    },
  }
}
