import { NOTES } from '@marmot/core/agenda'
import * as decoding from 'lib0/decoding'
import * as encoding from 'lib0/encoding'
import type { WebSocket } from 'ws'
import {
  Awareness,
  applyAwarenessUpdate,
  encodeAwarenessUpdate,
  removeAwarenessStates,
} from 'y-protocols/awareness'
import { readSyncMessage, writeSyncStep1, writeUpdate } from 'y-protocols/sync'
import * as Y from 'yjs'
import { z } from 'zod'
import { CLOSED, closeSocket, sendTo } from '../platform/sockets.ts'
import { isTooDeep } from './depth.ts'

/** What a message on the socket is, as the Yjs protocols have it. */
const SYNC = 0
const AWARENESS = 1
const QUERY_AWARENESS = 3

/**
 * An agenda of more is no agenda any more: some forty pages. In bytes of its document, of which reading as many as these, each
 * keystroke somewhere else, takes the thread that answers some 50 ms; half a megabyte took 300.
 */
const MOST_BYTES = 128 * 1024
/** What takes out is let through a little longer, so that there is a way back. */
const SMALL_BYTES = 4 * 1024
const ABOVE_BYTES = 16 * 1024
const MOST_AWARENESS_BYTES = 64 * 1024
const MOST_CURSORS = 200
/** How large a document near its bound really is, is worked out no oftener: it takes milliseconds. */
const MEASURE_MS = 1000
/** Nobody types so much: messages of one socket between two looks around. */
const MOST_MESSAGES = 4000

/** The origin of what came from elsewhere, where it is kept already. */
const KEPT = Symbol('kept')

const yjsId = z.object({ client: z.number().int().min(0), clock: z.number().int().min(0) })
/** A place in the notes, as Yjs says it: anything else would make the others' editors stumble. */
const place = z.object({
  type: yjsId.nullish(),
  tname: z.literal(NOTES).nullish(),
  item: yjsId.nullish(),
  assoc: z.number().int().min(-1).max(0).nullish(),
})
type Place = z.infer<typeof place>

/** Where somebody is in an agenda: in the notes, or in a point. */
const cursorState = z
  .object({
    cursor: z.object({ anchor: place, head: place }).nullish(),
    item: z.string().max(100).nullish(),
  })
  .nullable()

/** Somebody in a room: at which meeting, how they are called there, and whether they may still be. */
export interface Visitor {
  readonly entryId: string
  readonly name: string
  readonly mayStay: () => Promise<boolean>
}

interface Seat extends Visitor {
  /** The number under which their cursor is known. */
  client: number | null
  messages: number
}

/** Something that came in was no message of the protocols. */
class Unreadable extends Error {}
class TooLarge extends Error {}
class Spoilt extends Error {}

const message = (kind: number, write: (encoder: encoding.Encoder) => void): Uint8Array => {
  const encoder = encoding.createEncoder()
  encoding.writeVarUint(encoder, kind)
  write(encoder)
  return encoding.toUint8Array(encoder)
}

/** What a room tells of: what was written here and has to be kept, and cursors that moved here. */
interface RoomHears {
  readonly written: (update: Uint8Array) => void
  readonly moved: (clients: readonly number[]) => void
  /** Nothing in the room can be trusted any more but what is kept. */
  readonly gaveUp: () => void
}

/**
 * A room in which people write in one agenda at the same time: what one writes, the others have at once, with everybody's
 * cursor under the name that we know.
 */
export const openRoom = (document: Y.Doc, { written, moved, gaveUp }: RoomHears) => {
  const awareness = new Awareness(document)
  awareness.setLocalState(null)
  const seats = new Map<WebSocket, Seat>()
  /** About as large as the document is; never less. */
  let bytes = Y.encodeStateAsUpdate(document).length
  let measured = Number.NEGATIVE_INFINITY

  const sendAll = (told: Uint8Array, except: unknown) => {
    for (const socket of seats.keys()) if (socket !== except) sendTo(socket, told)
  }
  const cursorsOf = (clients: number[]): Uint8Array =>
    message(AWARENESS, (encoder) =>
      encoding.writeVarUint8Array(encoder, encodeAwarenessUpdate(awareness, clients)),
    )

  /** True once something came in that is not to be passed on, nor kept: the room is given up with it. */
  let spoilt = false
  document.on('afterTransaction', (transaction: Y.Transaction) => {
    if (transaction.origin !== KEPT && isTooDeep(transaction)) spoilt = true
  })
  document.on('update', (update: Uint8Array, origin: unknown) => {
    if (spoilt) return
    sendAll(
      message(SYNC, (encoder) => writeUpdate(encoder, update)),
      origin,
    )
    if (origin !== KEPT) written(update)
  })
  type Moved = Record<'added' | 'updated' | 'removed', number[]>
  awareness.on('update', ({ added, updated, removed }: Moved, origin: unknown) => {
    const clients = [...added, ...updated, ...removed]
    sendAll(cursorsOf(clients), origin)
    if (origin !== KEPT) moved(clients)
  })

  /** Throws where an update would make the document too large, before it is read. */
  const fits = (size: number): void => {
    if (bytes + size > MOST_BYTES && performance.now() - measured > MEASURE_MS) {
      bytes = Y.encodeStateAsUpdate(document).length
      measured = performance.now()
    }
    const most = size <= SMALL_BYTES ? MOST_BYTES + ABOVE_BYTES : MOST_BYTES
    if (bytes + size > most) throw new TooLarge()
    bytes += size
  }

  /** Whether there can be a cursor at some place of the document. */
  const stands = (cursor: { readonly anchor: Place; readonly head: Place } | null | undefined): boolean => {
    try {
      for (const one of cursor ? [cursor.anchor, cursor.head] : [])
        Y.createAbsolutePositionFromRelativePosition(Y.createRelativePositionFromJSON(one), document)
      return true
    } catch {
      return false
    }
  }

  /**
   * The sender's own cursor out of what they say of cursors, under the name that we know. Browsers also say again what they
   * heard of others; that is passed over, so that nobody speaks for another.
   */
  const ownCursor = (seat: Seat, bytesSaid: Uint8Array): Uint8Array | null => {
    const decoder = decoding.createDecoder(bytesSaid)
    const count = decoding.readVarUint(decoder)
    for (let i = 0; i < Math.min(count, MOST_CURSORS); i++) {
      const client = decoding.readVarUint(decoder)
      const clock = decoding.readVarUint(decoder)
      const said = cursorState.parse(JSON.parse(decoding.readVarString(decoder)))
      const state = said && { ...said, cursor: stands(said.cursor) ? said.cursor : null }
      // The first that somebody says is where they are themselves.
      if (seat.client === null && ![...seats.values()].some((one) => one.client === client))
        seat.client = client
      if (seat.client !== client) continue
      const encoder = encoding.createEncoder()
      encoding.writeVarUint(encoder, 1)
      encoding.writeVarUint(encoder, client)
      encoding.writeVarUint(encoder, clock)
      encoding.writeVarString(encoder, JSON.stringify(state && { ...state, user: { name: seat.name } }))
      return encoding.toUint8Array(encoder)
    }
    return null
  }

  const take = (socket: WebSocket, seat: Seat, told: Uint8Array): void => {
    const decoder = decoding.createDecoder(told)
    const kind = decoding.readVarUint(decoder)
    if (kind === SYNC) {
      fits(told.length)
      const answer = encoding.createEncoder()
      encoding.writeVarUint(answer, SYNC)
      readSyncMessage(decoder, answer, document, socket, (error) => {
        throw error
      })
      if (spoilt) throw new Spoilt()
      if (encoding.length(answer) > 1) sendTo(socket, encoding.toUint8Array(answer))
    } else if (kind === AWARENESS) {
      if (told.length > MOST_AWARENESS_BYTES) throw new Unreadable()
      const own = ownCursor(seat, decoding.readVarUint8Array(decoder))
      if (own) applyAwarenessUpdate(awareness, own, socket)
    } else if (kind !== QUERY_AWARENESS) throw new Unreadable()
  }

  return {
    seats,
    /** Lets somebody in. */
    sit: (socket: WebSocket, visitor: Visitor): void => {
      if (document.isDestroyed) {
        closeSocket(socket, CLOSED.again, 'Marmot is started anew.')
        return
      }
      const seat: Seat = { ...visitor, client: null, messages: 0 }
      seats.set(socket, seat)
      socket.on('message', (data: Buffer) => {
        if (document.isDestroyed) return
        seat.messages += 1
        try {
          if (seat.messages > MOST_MESSAGES) closeSocket(socket, CLOSED.tooMany, 'Too much came at once.')
          else take(socket, seat, new Uint8Array(data))
        } catch (error) {
          if (error instanceof TooLarge)
            closeSocket(socket, CLOSED.tooLarge, 'The agenda is full. What you wrote last is only here.')
          else closeSocket(socket, CLOSED.unreadable, 'What was sent is no agenda.')
          if (error instanceof Spoilt) gaveUp()
        }
      })
      socket.on('close', () => {
        seats.delete(socket)
        if (!document.isDestroyed)
          removeAwarenessStates(awareness, seat.client === null ? [] : [seat.client], null)
      })
      sendTo(
        socket,
        message(SYNC, (encoder) => writeSyncStep1(encoder, document)),
      )
      const clients = [...awareness.getStates().keys()]
      if (clients.length) sendTo(socket, cursorsOf(clients))
    },
    /** Takes in what was written elsewhere and is kept. */
    read: (update: Uint8Array): void => {
      if (!document.isDestroyed) Y.applyUpdate(document, update, KEPT)
    },
    /** Takes in where cursors are elsewhere. */
    readCursors: (update: Uint8Array): void => {
      if (!document.isDestroyed) applyAwarenessUpdate(awareness, update, KEPT)
    },
    /** Where some cursors are, for other servers. */
    cursors: (clients: Iterable<number>): Uint8Array =>
      encodeAwarenessUpdate(
        awareness,
        [...clients].filter((client) => awareness.meta.has(client)),
      ),
    /** Closes it; with a reason those who are in it are sent out. */
    close: (code?: number, words = ''): void => {
      if (code) for (const socket of seats.keys()) closeSocket(socket, code, words)
      awareness.destroy()
      document.destroy()
    },
  }
}

export type Room = ReturnType<typeof openRoom>
