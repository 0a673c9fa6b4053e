import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { z } from 'zod'
import { doorPage, insidePage, leftPage, overPage, roomsPage } from './pages.ts'
import { openRooms, type Room, type Rooms, type Seat, TELEPHONE } from './rooms.ts'

export interface ConferenceStandIn {
  readonly port: number
  readonly rooms: Rooms
  readonly stop: () => Promise<void>
}

/** Whoever leaves the page comes back within this when they only renew it. */
const GRACE_MS = 1500

const readText = async (request: IncomingMessage): Promise<string> => {
  let text = ''
  for await (const part of request) {
    text += part
    if (text.length > 20_000) break
  }
  return text
}

const asked = z.object({ title: z.string().max(300), reports: z.url({ protocol: /^https?$/ }) })
const dialled = z.object({ number: z.string().max(40) })

interface Answer {
  readonly status: number
  readonly html?: string
  readonly json?: unknown
  readonly to?: string
}

const jsonIn = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

/**
 * A simulated conference service: Marmot has it make rooms, it gives each a link, a telephone number and a code, and reports
 * who comes and goes, signed with the key that the two share. Its page plays the telephone. A port of 0 means any free one;
 * `file` keeps the rooms.
 */
export const startConferenceStandIn = async (given: {
  port: number
  key: string
  file: string | null
}): Promise<ConferenceStandIn> => {
  const rooms = await openRooms(given)
  const streams = new Map<ServerResponse, { room: Room; seat: Seat }>()
  let port = 0

  const tellAll = (room: Room) => {
    for (const [stream, one] of streams) if (one.room === room) stream.write('data: changed\n\n')
  }

  /** What Marmot asks for. */
  const serve = (method: string, [id = '', act]: readonly string[], text: string): Answer => {
    if (!/^[\da-f-]{36}$/.test(id)) return { status: 404, json: {} }
    if (method === 'PUT' && !act) {
      const body = asked.safeParse(jsonIn(text))
      if (!body.success) return { status: 422, json: {} }
      const { slug, code } = rooms.make(id, body.data.title, body.data.reports)
      return { status: 200, json: { link: `http://localhost:${port}/r/${slug}`, telephone: TELEPHONE, code } }
    }
    const room = rooms.byId(id)
    if (!room || room.over) return { status: 404, json: {} }
    if (method === 'DELETE' && !act) {
      rooms.close(room)
      return { status: 200, json: {} }
    }
    const body = dialled.safeParse(jsonIn(text))
    if (method !== 'POST' || act !== 'dial' || !body.success) return { status: 404, json: {} }
    rooms.ring(room, body.data.number)
    return { status: 200, json: {} }
  }

  const dialIn = (form: URLSearchParams): Answer => {
    const room = rooms.byCode((form.get('code') ?? '').replace(/\s/g, ''))
    const number = form.get('number')?.trim() || 'a telephone'
    if (!room || room.over)
      return { status: 404, html: roomsPage(rooms.list(), 'Nobody meets under this code. It may be over.') }
    rooms.join(room, { participant: null, name: number, via: 'telephone' })
    tellAll(room)
    return { status: 303, to: '/' }
  }

  /** What people do at a room. */
  const visit = (
    method: string,
    [slug = '', act]: readonly string[],
    query: URLSearchParams,
    form: URLSearchParams,
  ): Answer => {
    const room = rooms.bySlug(slug)
    if (!room || room.over) return { status: 404, html: overPage() }
    if (method === 'GET' && !act) {
      const ticket = query.get('ticket') ?? ''
      return { status: 200, html: doorPage(room, ticket, rooms.readTicket(room, ticket)?.name ?? null) }
    }
    if (method === 'GET' && act === 'in') {
      const seat = room.seats.find((one) => one.seat === query.get('seat'))
      return { status: 200, html: seat?.left === null ? insidePage(room, seat) : leftPage(room) }
    }
    if (method === 'POST' && act === 'join') {
      const known = rooms.readTicket(room, form.get('ticket') ?? '')
      const name = known?.name ?? form.get('name')?.trim().slice(0, 100) ?? ''
      if (!name) return { status: 303, to: `/r/${slug}` }
      const seat = rooms.join(room, { participant: known?.participant ?? null, name, via: 'link' })
      tellAll(room)
      return { status: 303, to: `/r/${slug}/in?seat=${seat.seat}` }
    }
    const number = form.get('number') ?? ''
    if (method === 'POST' && act === 'leave') {
      rooms.leave(room, form.get('seat') ?? '')
      tellAll(room)
      return { status: 303, to: `/r/${slug}/in?seat=${form.get('seat') ?? ''}` }
    }
    if (method === 'POST' && (act === 'answer' || act === 'decline') && room.ringing.includes(number)) {
      rooms.hangUp(room, number)
      if (act === 'answer') rooms.join(room, { participant: null, name: number, via: 'telephone' })
      tellAll(room)
      return { status: 303, to: '/' }
    }
    return { status: 404, html: overPage() }
  }

  /** Somebody is inside for as long as their page is. */
  const stay = (slug: string, id: string, response: ServerResponse): boolean => {
    const room = rooms.bySlug(slug)
    const seat = room?.seats.find((one) => one.seat === id && one.left === null)
    if (!room || !seat) return false
    response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store' })
    response.write(': in\n\n')
    streams.set(response, { room, seat })
    response.on('close', () => {
      streams.delete(response)
      const gone = Date.now()
      setTimeout(() => {
        if ([...streams.values()].some((one) => one.seat === seat)) return
        rooms.leave(room, seat.seat, gone)
        tellAll(room)
      }, GRACE_MS).unref()
    })
    return true
  }

  const answer = async (request: IncomingMessage, url: URL): Promise<Answer> => {
    const method = request.method ?? 'GET'
    const [, area, ...rest] = url.pathname.split('/')
    const text = method === 'GET' ? '' : await readText(request)
    if (url.pathname === '/') return { status: 200, html: roomsPage(rooms.list(), '') }
    if (area === 'rooms')
      return rooms.knows(request.headers.authorization ?? '')
        ? serve(method, rest, text)
        : { status: 401, json: {} }
    const form = new URLSearchParams(text)
    if (url.pathname === '/dial-in' && method === 'POST') return dialIn(form)
    if (area === 'r') return visit(method, rest, url.searchParams, form)
    return { status: 404, html: overPage() }
  }

  const server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', 'http://localhost')
    const [, area, slug = '', act] = url.pathname.split('/')
    if (area === 'r' && act === 'stay') {
      if (!stay(slug, url.searchParams.get('seat') ?? '', response)) response.writeHead(204).end()
      return
    }
    answer(request, url)
      .catch((): Answer => ({ status: 400, html: overPage() }))
      .then(({ status, html, json, to }) => {
        response.writeHead(status, {
          'content-type': json === undefined ? 'text/html; charset=utf-8' : 'application/json',
          ...(to ? { location: to } : {}),
        })
        response.end(json === undefined ? (html ?? '') : JSON.stringify(json))
      })
  })
  await new Promise<void>((resolve) => server.listen(given.port, '127.0.0.1', resolve))
  port = (server.address() as AddressInfo).port
  return {
    port,
    rooms,
    stop: async () => {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await rooms.stop()
    },
  }
}
