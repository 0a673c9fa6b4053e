import { randomUUID } from 'node:crypto'
import { meetingEvent } from '@marmot/contract/meetings'
import type pg from 'pg'
import type { WebSocket } from 'ws'
import * as Y from 'yjs'
import { z } from 'zod'
import { type Hearing, tell } from '../platform/live.ts'
import { CLOSED, closeSocket } from '../platform/sockets.ts'
import type { Threads } from '../platform/threads.ts'
import { openRoom, type Room, type Visitor } from './room.ts'
import { insertUpdate, readDocument, readUpdates } from './store.ts'

const BEAT_MS = 20_000
/** What is typed within so long is kept as one update. */
const GATHER_MS = 25
/** Cursors are told to other servers this often. */
const CURSOR_MS = 150
/** Once nobody has typed for so long, what was written is added up. */
const REST_MS = 1500
/** NOTIFY carries at most 8000 bytes; a cursor that is missed elsewhere comes with the next keystroke. */
const MOST_CURSORS = 7500

const writtenEvent = z.object({
  kind: z.literal('agenda-written'),
  server: z.string(),
  occurrenceId: z.string(),
  number: z.number(),
})
const cursorEvent = z.object({
  kind: z.literal('agenda-cursor'),
  server: z.string(),
  occurrenceId: z.string(),
  update: z.string(),
})

/** An open room, and what waits in it. */
interface Open {
  readonly room: Room
  /** Keeps what waits at once. */
  readonly keepNow: () => Promise<void>
  /** Whether nothing waits to be kept. */
  readonly idle: () => boolean
  readonly leave: (code?: number, words?: string) => void
}

/** The way from a room to the database and to other servers. */
interface Ways {
  readonly pool: pg.Pool
  readonly server: string
  readonly rested: (occurrenceId: string) => Promise<void>
  readonly left: (occurrenceId: string) => void
}

const openWithWays = (occurrenceId: string, document: Y.Doc, { pool, server, rested, left }: Ways): Open => {
  let waiting: Uint8Array[] = []
  let keeping: Promise<void> | null = null
  let gather: NodeJS.Timeout | undefined
  let rest: NodeJS.Timeout | undefined
  let cursor: NodeJS.Timeout | undefined
  const moved = new Set<number>()

  const leave = (code?: number, words?: string) => {
    // By now there may be another room of this date.
    if (document.isDestroyed) return
    left(occurrenceId)
    for (const timer of [gather, rest, cursor]) clearTimeout(timer)
    room.close(code, words)
  }

  const keep = async (): Promise<void> => {
    while (waiting.length > 0) {
      const update = Y.mergeUpdates(waiting)
      waiting = []
      const number = await insertUpdate(pool, occurrenceId, update)
      if (number === null) {
        leave(CLOSED.notYours, 'This meeting is not there any more.')
        return
      }
      const event: z.input<typeof writtenEvent> = { kind: 'agenda-written', server, occurrenceId, number }
      await tell(pool, [event])
    }
    clearTimeout(rest)
    if (!document.isDestroyed) rest = setTimeout(() => rested(occurrenceId), REST_MS)
  }

  const keepNow = async (): Promise<void> => {
    clearTimeout(gather)
    gather = undefined
    keeping = (keeping ?? Promise.resolve())
      .then(keep)
      .catch(() => leave(CLOSED.again, 'What was written last could not be kept; trying again.'))
    await keeping
    keeping = null
  }

  const room = openRoom(document, {
    written: (update) => {
      waiting.push(update)
      gather ??= setTimeout(keepNow, GATHER_MS)
    },
    gaveUp: () => leave(CLOSED.again, 'Something came in that is no agenda; it was left out.'),
    moved: (clients) => {
      for (const client of clients) moved.add(client)
      cursor ??= setTimeout(() => {
        cursor = undefined
        const update = Buffer.from(room.cursors(moved)).toString('base64')
        moved.clear()
        if (update.length > MOST_CURSORS) return
        const event: z.input<typeof cursorEvent> = { kind: 'agenda-cursor', server, occurrenceId, update }
        tell(pool, [event]).catch(() => undefined)
      }, CURSOR_MS)
    },
  })
  return { room, keepNow, idle: () => waiting.length === 0 && keeping === null, leave }
}

/**
 * The rooms that are open on this server. A room holds nothing that may be lost: what is typed is kept within some
 * milliseconds, other servers are told of it, and where keeping fails everybody is sent out, comes again and brings along
 * what the database has not.
 */
export const openRooms = ({ pool, threads }: { readonly pool: pg.Pool; readonly threads: Threads }) => {
  const server = randomUUID()
  const rooms = new Map<string, Promise<Open>>()

  const ways: Ways = {
    pool,
    server,
    // Added up in a thread. What goes wrong is made good within a minute.
    rested: (occurrenceId) =>
      threads.run<object, void>('settleAgendas', { occurrenceIds: [occurrenceId] }).catch(() => undefined),
    left: (occurrenceId) => rooms.delete(occurrenceId),
  }

  const enter = (occurrenceId: string): Promise<Open> => {
    const there = rooms.get(occurrenceId)
    if (there) return there
    const opening = readDocument(pool, occurrenceId).then((document) =>
      openWithWays(occurrenceId, document, ways),
    )
    rooms.set(occurrenceId, opening)
    opening.catch(() => rooms.delete(occurrenceId))
    return opening
  }

  const opened = async (): Promise<[string, Open][]> =>
    (
      await Promise.all(
        [...rooms].map(([id, opening]) =>
          opening.then(
            (open): [string, Open][] => [[id, open]],
            () => [],
          ),
        ),
      )
    ).flat()

  /** What came of other servers is read into a room that is open here. */
  const inRoom = (occurrenceId: string, read: (room: Room) => Promise<void> | void): void => {
    rooms
      .get(occurrenceId)
      ?.then(({ room }) => read(room))
      .catch(() => undefined)
  }

  const readAgain = async (occurrenceId: string, room: Room): Promise<void> =>
    room.read(Y.encodeStateAsUpdate(await readDocument(pool, occurrenceId)))

  /** Whether everybody may still be where they are, at one meeting or at all. */
  const look = async (entryId?: string): Promise<void> => {
    for (const [, { room }] of await opened())
      for (const [socket, seat] of room.seats) {
        if (entryId && seat.entryId !== entryId) continue
        if (!(await seat.mayStay().catch(() => true)))
          closeSocket(socket, CLOSED.notYours, 'This meeting is not yours to see any more.')
      }
  }

  const beat = setInterval(async () => {
    for (const [, { room, idle, leave }] of await opened()) {
      for (const seat of room.seats.values()) seat.messages = 0
      if (room.seats.size === 0 && idle()) leave()
    }
    await look()
  }, BEAT_MS)

  const hears: readonly Hearing[] = [
    {
      event: writtenEvent,
      hear: (event) => {
        const { server: from, occurrenceId, number } = writtenEvent.parse(event)
        if (from === server) return
        inRoom(occurrenceId, async (room) => {
          const updates = await readUpdates(pool, [number])
          // It may have been added up by now.
          if (updates.length === 0) await readAgain(occurrenceId, room)
          for (const update of updates) room.read(update)
        })
      },
      again: async () => {
        for (const [occurrenceId, { room }] of await opened())
          await readAgain(occurrenceId, room).catch(() => undefined)
      },
    },
    {
      event: cursorEvent,
      hear: (event) => {
        const { server: from, occurrenceId, update } = cursorEvent.parse(event)
        if (from !== server) inRoom(occurrenceId, (room) => room.readCursors(Buffer.from(update, 'base64')))
      },
      again: () => undefined,
    },
    {
      // Somebody may have been let off.
      event: meetingEvent,
      hear: (event) => {
        look(meetingEvent.parse(event).entryId).catch(() => undefined)
      },
      again: () => undefined,
    },
  ]

  return {
    /** Opens the room of a date, and gives how somebody takes a seat in it. */
    enter: async (occurrenceId: string, visitor: Visitor): Promise<(socket: WebSocket) => void> => {
      await enter(occurrenceId)
      return (socket) => {
        socket.pause()
        // It may have been closed since, with nobody in it.
        enter(occurrenceId)
          .then(({ room }) => {
            room.sit(socket, visitor)
            socket.resume()
          })
          .catch(() => closeSocket(socket, CLOSED.again, 'The agenda could not be read; trying again.'))
      }
    },
    hears,
    /** Keeps what waits, and closes all rooms. */
    stop: async (): Promise<void> => {
      clearInterval(beat)
      for (const [, { keepNow, leave }] of await opened()) {
        await keepNow()
        leave()
      }
    },
  }
}

export type Rooms = ReturnType<typeof openRooms>
