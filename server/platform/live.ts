import { PassThrough } from 'node:stream'
import { type LiveEvent, liveEvent } from '@marmot/contract/live'
import type { Context } from 'koa'
import pg from 'pg'
import type { Logger } from 'pino'
import type { Sql } from './database.ts'

const CHANNEL = 'marmot'
/** NOTIFY carries at most 8000 bytes; an id takes 39. */
const MOST_IDS = 150

const inParts = (ids: readonly string[]): string[][] => {
  const unique = [...new Set(ids)]
  const parts: string[][] = []
  for (let i = 0; i < unique.length; i += MOST_IDS) parts.push(unique.slice(i, i + MOST_IDS))
  return parts
}

const tell = (sql: Sql, event: LiveEvent) =>
  sql.query('select pg_notify($1, $2)', [CHANNEL, JSON.stringify(event)])

/** Says, when the transaction commits, that these people's time changed. */
export const tellTime = async (sql: Sql, people: readonly string[]): Promise<void> => {
  for (const part of inParts(people)) await tell(sql, { kind: 'time', people: part })
}

/** Says, when the transaction commits, that reservations of these resources changed. */
export const tellReservations = async (sql: Sql, resources: readonly string[]): Promise<void> => {
  for (const part of inParts(resources)) await tell(sql, { kind: 'reservations', resources: part })
}

/** Says, when the transaction commits, that a meeting changed, to those who take part in it. */
export const tellMeeting = async (sql: Sql, entryId: string, people: readonly string[]): Promise<void> => {
  for (const part of inParts(people)) await tell(sql, { kind: 'meeting', entryId, people: part })
}

/** Says, when the transaction commits, that reminders of these people changed, to them alone. */
export const tellReminders = async (sql: Sql, people: readonly string[]): Promise<void> => {
  for (const part of inParts(people)) await tell(sql, { kind: 'reminders', people: part })
}

/** True when a person is to receive an event. */
const concerns = (event: LiveEvent, personId: string): boolean =>
  (event.kind !== 'meeting' && event.kind !== 'reminders') || event.people.includes(personId)

const BEAT_MS = 20_000

/**
 * Live events: one connection listens to PostgreSQL, every browser has a stream. When the connection is lost it is
 * made again, and every browser is told to ask anew (`event: again`), since events may have been missed.
 */
export const openLive = (databaseUrl: string, log: Logger) => {
  const streams = new Map<PassThrough, string>()
  let client: pg.Client | null = null
  let closed = false
  let retry: NodeJS.Timeout | undefined

  const send = (text: string, to: (personId: string) => boolean) => {
    for (const [stream, personId] of streams) if (to(personId)) stream.write(text)
  }

  const connect = async (): Promise<void> => {
    if (closed) return
    const next = new pg.Client({ connectionString: databaseUrl })
    const lost = () => {
      if (client !== next && client !== null) return
      client = null
      if (!closed) retry = setTimeout(connect, 500)
    }
    next.on('error', lost)
    next.on('end', lost)
    next.on('notification', (message) => {
      const read = liveEvent.safeParse(JSON.parse(message.payload ?? 'null'))
      if (!read.success) return
      const event = read.data
      send(`data: ${JSON.stringify(event)}\n\n`, (personId) => concerns(event, personId))
    })
    try {
      await next.connect()
      await next.query(`listen ${CHANNEL}`)
      client = next
      send('event: again\ndata: {}\n\n', () => true)
    } catch (error) {
      log.warn({ error }, 'live events wait for the database')
      await next.end().catch(() => undefined)
      if (!closed && client !== next) {
        clearTimeout(retry)
        retry = setTimeout(connect, 500)
      }
    }
  }

  const beat = setInterval(() => send(': still here\n\n', () => true), BEAT_MS)

  return {
    connect,
    /** Answers a request with the stream of events for a person. */
    stream: (context: Context, personId: string): void => {
      const stream = new PassThrough()
      context.respond = false
      const { res } = context
      res.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        connection: 'keep-alive',
      })
      stream.pipe(res)
      stream.write('event: ready\ndata: {}\n\n')
      streams.set(stream, personId)
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
      await client?.end().catch(() => undefined)
    },
  }
}
