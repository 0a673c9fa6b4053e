import { listEntries } from '@marmot/contract/entries'
import { listNow } from '@marmot/contract/now'
import { whoAmI } from '@marmot/contract/people'
import { clear, createStore, del, entries, get, set } from 'idb-keyval'
import type { z } from 'zod'
import type { Seen } from './seen.ts'
import { entriesFrom, type Weeks } from './weeks.ts'

/** A store of this device, opened when it is first asked for. */
const opened = (name: string) => {
  let store: ReturnType<typeof createStore> | null = null
  return () => {
    store ??= createStore(name, 'kept')
    return store
  }
}

const store = opened('marmot-seen')
const WEEKS = 'weeks'
/** So many meetings and entries that were looked at are kept, the newest. */
const MOST = 120
/** What is older says too little of how things are. */
const LASTS_MS = 60 * 86_400_000

/** What a schema reads, or undefined: an older Marmot may have kept it, in another form. */
const read = <T extends z.ZodType>(schema: T, json: unknown): z.output<T> | undefined => {
  const answer = schema.safeParse(json)
  return answer.success ? answer.data : undefined
}

const seenAt = async (address: string): Promise<Seen | undefined> => {
  const seen = await get<Seen>(address, store())
  return seen && Date.now() - seen.at < LASTS_MS ? seen : undefined
}

/** Forgets everything that is kept on this device of whoever was signed in. */
export const forget = async (): Promise<void> => {
  await clear(store())
}

const prune = async (): Promise<void> => {
  const looked = (await entries<string, Seen>(store())).filter(([address]) => address.split('/').length > 3)
  const oldest = looked.sort(([, one], [, other]) => other.at - one.at).slice(MOST)
  for (const [address] of oldest) await del(address, store())
}

/** Keeps an answer. Somebody else's are forgotten when another signs in. */
export const keep = async (address: string, seen: Seen): Promise<void> => {
  if (address === whoAmI.path) {
    const before = await get<Seen>(address, store())
    const [was, is] = [before?.json, seen.json].map((json) => read(whoAmI.answer, json)?.person.id)
    if (before && was !== is) await forget()
  }
  await set(address, seen, store())
  await prune()
}

/** Keeps my entries of the next weeks. */
export const keepWeeks = (weeks: Weeks): Promise<void> =>
  set(WEEKS, { json: weeks, at: Date.now() } satisfies Seen, store())

const entriesSeen = async (query: URLSearchParams): Promise<Seen | undefined> => {
  const seen = await seenAt(WEEKS)
  if (!seen || query.has('of')) return undefined
  const { from, to, entries: json } = Object(seen.json)
  const known = read(listEntries.answer, json)
  const range = { from: Date.parse(query.get('from') ?? ''), to: Date.parse(query.get('to') ?? '') }
  if (!known || !(range.to > from && range.from < to)) return undefined
  return { json: entriesFrom({ from, to, entries: known }, range), at: seen.at }
}

const nowSeen = async () => {
  const seen = await seenAt(listNow.path)
  const known = read(listNow.answer, seen?.json)
  return seen && known ? { ...known, at: seen.at } : undefined
}

/** Of a meeting that nobody looked at, what was known where it waits for an answer, or stands among those I organize. */
const meetingSeen = async (entryId: string): Promise<Seen | undefined> => {
  const known = await nowSeen()
  const json = known && [...known.toAnswer, ...known.organized].find((one) => one.entryId === entryId)
  return json ? { json, at: known.at } : undefined
}

const special = async (path: string, query: URLSearchParams): Promise<Seen | undefined> => {
  if (path === whoAmI.path) {
    const seen = await seenAt(path)
    const known = read(whoAmI.answer, seen?.json)
    // The server's clock has gone on since.
    return seen && known
      ? {
          json: { ...known, now: new Date(Date.parse(known.now) + Date.now() - seen.at).toISOString() },
          at: seen.at,
        }
      : undefined
  }
  if (path === listEntries.path) return entriesSeen(query)
  if (path === listNow.path) return (await nowSeen()) && seenAt(path)
  const [, meetingId] = /^\/api\/meetings\/([\da-f-]{36})$/.exec(path) ?? []
  return (
    (await seenAt(query.size ? `${path}?${query}` : path)) ?? (meetingId ? meetingSeen(meetingId) : undefined)
  )
}

/** What is kept of the answer at an address, or undefined; also where this device keeps nothing. */
export const keptAnswer = async (address: string): Promise<Seen | undefined> => {
  const { pathname, searchParams } = new URL(address, 'https://marmot.invalid')
  return special(pathname, searchParams).catch(() => undefined)
}
