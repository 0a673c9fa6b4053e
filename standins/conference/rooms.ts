import { createHmac, randomBytes, randomInt, randomUUID, timingSafeEqual } from 'node:crypto'
import { readFile, rename, writeFile } from 'node:fs/promises'
import { z } from 'zod'

const seat = z.object({
  seat: z.string(),
  participant: z.string().nullable(),
  name: z.string(),
  via: z.enum(['link', 'telephone']),
  joined: z.number(),
  left: z.number().nullable(),
})
export type Seat = z.infer<typeof seat>

const room = z.object({
  room: z.string(),
  /** What the link ends with; nobody guesses it. */
  slug: z.string(),
  code: z.string(),
  title: z.string(),
  /** Where who came and went is reported to. */
  reports: z.string(),
  over: z.boolean(),
  seats: z.array(seat),
  /** Numbers that are being rung. */
  ringing: z.array(z.string()),
})
export type Room = z.infer<typeof room>

const ticket = z.object({
  participant: z.string().nullable(),
  name: z.string().min(1).max(100),
  room: z.string(),
  until: z.number(),
})

/** The number that everybody dials; the code says which room. */
export const TELEPHONE = '+43 512 555 0100'
const RETRY_MS = 500
/** What could not be reported for so long is not any more. */
const GIVE_UP_MS = 3_600_000

const sign = (key: string, text: string): string => createHmac('sha256', key).update(text).digest('base64url')

/** The rooms of the simulated conference service, kept in a file, with what it reports of them. */
export const openRooms = async ({ key, file }: { key: string; file: string | null }) => {
  const kept = file ? await readFile(file, 'utf8').catch(() => '[]') : '[]'
  const rooms = new Map(
    z
      .array(room)
      .parse(JSON.parse(kept))
      .map((one) => [one.room, one]),
  )
  let saving = Promise.resolve()
  const save = () => {
    if (!file) return
    saving = saving.then(async () => {
      await writeFile(`${file}.new`, JSON.stringify([...rooms.values()]))
      await rename(`${file}.new`, file)
    })
    saving.catch(() => undefined)
  }
  let stopped = false
  const waiting = new Set<NodeJS.Timeout>()

  /** Reports a stay as it is by then, again until it is heard. */
  const report = (of: Room, who: Seat, since = Date.now()): void => {
    if (stopped || Date.now() - since > GIVE_UP_MS) return
    const instant = (ms: number) => new Date(ms).toISOString()
    const text = JSON.stringify({
      ...who,
      room: of.room,
      joined: instant(who.joined),
      left: who.left === null ? null : instant(who.left),
      now: instant(Date.now()),
    })
    const again = () => {
      const timer = setTimeout(() => {
        waiting.delete(timer)
        report(of, who, since)
      }, RETRY_MS)
      waiting.add(timer)
    }
    fetch(of.reports, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', 'x-signature': sign(key, text) },
      body: text,
    }).then(
      (answer) => answer.status >= 500 && again(),
      () => again(),
    )
  }

  const all = () => [...rooms.values()]
  const leave = (of: Room, id: string, at = Date.now()): void => {
    const who = of.seats.find((one) => one.seat === id)
    if (!who || who.left !== null) return
    who.left = at
    save()
    report(of, who)
  }
  // Whoever was there when it ended is not any more.
  for (const one of all()) for (const who of one.seats) leave(one, who.seat)

  return {
    list: all,
    /** Whether somebody knows the key. */
    knows: (header: string): boolean => {
      const [ours, theirs] = [Buffer.from(`Bearer ${key}`), Buffer.from(header)]
      return ours.length === theirs.length && timingSafeEqual(ours, theirs)
    },
    /** Makes a room, or gives the one that there is, open again. */
    make: (id: string, title: string, reports: string): Room => {
      const there = rooms.get(id)
      const made: Room = there ?? {
        room: id,
        slug: randomBytes(12).toString('base64url'),
        code: String(randomInt(100_000_000, 1_000_000_000)),
        title,
        reports,
        over: false,
        seats: [],
        ringing: [],
      }
      Object.assign(made, { title, reports, over: false })
      rooms.set(id, made)
      save()
      return made
    },
    byId: (id: string): Room | null => rooms.get(id) ?? null,
    bySlug: (slug: string): Room | null => all().find((one) => one.slug === slug) ?? null,
    byCode: (code: string): Room | null => all().find((one) => one.code === code) ?? null,
    close: (of: Room): void => {
      of.over = true
      for (const who of of.seats) leave(of, who.seat)
      save()
    },
    /** Who a ticket is for; null where it is none, of another room, or too old. */
    readTicket: (of: Room, text: string): { participant: string | null; name: string } | null => {
      const [body = '', signature = ''] = text.split('.')
      const [ours, theirs] = [Buffer.from(sign(key, body)), Buffer.from(signature)]
      if (ours.length !== theirs.length || !timingSafeEqual(ours, theirs)) return null
      const read = ticket.safeParse(JSON.parse(Buffer.from(body, 'base64url').toString('utf8')))
      return read.success && read.data.room === of.room && read.data.until > Date.now() ? read.data : null
    },
    join: (of: Room, who: Pick<Seat, 'participant' | 'name' | 'via'>): Seat => {
      const made: Seat = { ...who, seat: randomUUID(), joined: Date.now(), left: null }
      of.seats.push(made)
      save()
      report(of, made)
      return made
    },
    leave,
    ring: (of: Room, number: string): void => {
      if (!of.ringing.includes(number)) of.ringing.push(number)
      save()
    },
    hangUp: (of: Room, number: string): void => {
      of.ringing = of.ringing.filter((one) => one !== number)
      save()
    },
    stop: async (): Promise<void> => {
      stopped = true
      for (const timer of waiting) clearTimeout(timer)
      await saving.catch(() => undefined)
    },
  }
}

export type Rooms = Awaited<ReturnType<typeof openRooms>>
