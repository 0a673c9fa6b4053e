import { createHmac, timingSafeEqual } from 'node:crypto'
import type { Joining } from '@marmot/core/conferences'
import { MINUTE } from '@marmot/core/time'
import { z } from 'zod'
import { ProblemError } from '../platform/problems.ts'

/** The conference service: where it is reached, the key that it shares with Marmot, and where it reports to. */
export interface ConferenceService {
  readonly url: string
  readonly key: string
}

/** A service that does not answer within this is not waited for: the link follows by itself. */
const PATIENCE_MS = 3000
/** So long a ticket lets its holder in. */
const TICKET_MS = 10 * MINUTE

const made = z.object({
  link: z.url({ protocol: /^https?$/ }).max(500),
  telephone: z.string().regex(/^\+[\d ()-]{5,30}$/),
  code: z.string().regex(/^\d{4,12}$/),
})

const signed = (key: string, text: string | Buffer): string =>
  createHmac('sha256', key).update(text).digest('base64url')

const ask = async (
  { url, key }: ConferenceService,
  method: 'PUT' | 'POST' | 'DELETE',
  path: string,
  body: unknown,
): Promise<unknown> => {
  const response = await fetch(`${url}${path}`, {
    method,
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(PATIENCE_MS),
    redirect: 'error',
  })
  // What is to be closed and is not there is closed.
  if (method === 'DELETE' && response.status === 404) return null
  if (!response.ok) throw new Error(`the conference service answered ${response.status}`)
  return response.json()
}

/** Has the service make a room, or gives the one that it made before. Throws where it does not answer. */
export const makeRoom = async (
  service: ConferenceService,
  room: string,
  given: { readonly title: string; readonly reports: string },
): Promise<Joining> => made.parse(await ask(service, 'PUT', `/rooms/${room}`, given))

/** Says that nobody meets in a room any more. */
export const closeRoom = async (service: ConferenceService, room: string): Promise<void> => {
  await ask(service, 'DELETE', `/rooms/${room}`, {})
}

/** Has the service ring a telephone, and bring whoever answers into a room. */
export const dial = async (service: ConferenceService, room: string, number: string): Promise<void> => {
  await ask(service, 'POST', `/rooms/${room}/dial`, { number }).catch(() => {
    throw new ProblemError(
      503,
      'conference-away',
      'The conference service does not answer just now. Nobody was called; try again.',
    )
  })
}

/** The address under which somebody joins by their own name: the link with a ticket that the service can check. */
export const linkFor = (
  { key }: ConferenceService,
  { room, link }: { readonly room: string; readonly link: string },
  who: { readonly participant: string | null; readonly name: string },
): string => {
  // By the clock of this machine, which the service's is held against: ours can be set to another day.
  const text = Buffer.from(JSON.stringify({ ...who, room, until: Date.now() + TICKET_MS })).toString(
    'base64url',
  )
  return `${link}?ticket=${text}.${signed(key, text)}`
}

/** Whether something was signed with the key that the service shares with Marmot. */
export const isSigned = ({ key }: ConferenceService, bytes: Buffer, signature: string): boolean => {
  const [ours, theirs] = [Buffer.from(signed(key, bytes)), Buffer.from(signature)]
  return ours.length === theirs.length && timingSafeEqual(ours, theirs)
}
