export * from './series.ts'

import type { Answer } from '../sharing/index.ts'
import { DAY, type Instant } from '../time/index.ts'

/** The three answers that one can give, by the names that they have on the screen and in letters; what most say first. */
export const ANSWER_NAMES = [
  { answer: 'accepted', name: 'Yes, I come' },
  { answer: 'tentative', name: 'Perhaps' },
  { answer: 'declined', name: 'No, I can’t' },
] as const

/**
 * Whether an answer by mail may be taken over: why not, or null when it may. `answered` is when the answer that stands
 * was given, by the clock of whoever gave it: an older one, that took longer on its way, never overwrites it.
 */
export const replyRefusal = (
  reply: { sequence: number; address: string; stamp: number | null },
  meeting: { sequence: number; cancelled: boolean; addresses: readonly string[] } | null,
  answered: number | null,
): 'no-such-meeting' | 'not-invited' | 'cancelled' | 'older-invitation' | 'older-answer' | null => {
  if (!meeting) return 'no-such-meeting'
  if (!meeting.addresses.includes(reply.address.toLowerCase())) return 'not-invited'
  if (meeting.cancelled) return 'cancelled'
  if (reply.sequence < meeting.sequence) return 'older-invitation'
  if (reply.stamp !== null && answered !== null && reply.stamp < answered) return 'older-answer'
  return null
}

/**
 * Whether an answer may be taken over that was given without a connection and comes later: why not, or null when it may.
 * `late` is when it was given and which version of the meeting was seen then, `askedVersion` the version at which everybody
 * was last asked because its time changed, `answered` when the answer that stands was given.
 */
export const lateRefusal = (
  late: { readonly given: Instant; readonly version: number },
  askedVersion: number,
  answered: Instant | null,
): 'moved-meanwhile' | 'answered-meanwhile' | null => {
  if (late.version < askedVersion) return 'moved-meanwhile'
  return answered !== null && late.given < answered ? 'answered-meanwhile' : null
}

/** So many may pass an invitation on, one to the other. */
const MOST_HANDS = 5

/** Somebody who takes part, as far as passing on is concerned. */
interface InHands {
  readonly address: string
  readonly organizer: boolean
  readonly delegatedFromAddress: string | null
}

/**
 * Whether somebody may pass their invitation on to an address (RFC 5546 section 3.2.2.3): why not, or null when they may.
 * Whoever has passed it on is still in the list, so that it never goes round in a circle.
 */
export const delegationRefusal = (
  from: string,
  to: string,
  meeting: { readonly cancelled: boolean; readonly participants: readonly InHands[] },
): 'cancelled' | 'to-oneself' | 'takes-part-already' | 'passed-on-already' | 'too-many-hands' | null => {
  if (meeting.cancelled) return 'cancelled'
  if (from === to) return 'to-oneself'
  const { participants } = meeting
  if (participants.some((one) => one.delegatedFromAddress === from)) return 'passed-on-already'
  if (participants.some((one) => one.address === to)) return 'takes-part-already'
  const givers = new Map(participants.map((one) => [one.address, one.delegatedFromAddress]))
  let hands = 1
  for (let at = givers.get(from); at && hands <= MOST_HANDS; at = givers.get(at)) hands++
  return hands > MOST_HANDS ? 'too-many-hands' : null
}

/** Nobody is nudged twice within so many milliseconds. */
export const NUDGE_EVERY = DAY

/** Whether somebody may be nudged now who was last at an instant, if ever. */
export const mayNudge = (nudgedAt: Instant | null, now: Instant): boolean =>
  nudgedAt === null || now - nudgedAt >= NUDGE_EVERY

/** The count of each answer, and the required people without whom the meeting stands on one leg. */
export const tally = (
  participants: readonly { name: string; required: boolean; organizer: boolean; answer: Answer }[],
): {
  accepted: number
  tentative: number
  declined: number
  waiting: number
  asked: number
  missing: string[]
} => {
  const asked = participants.filter((participant) => !participant.organizer)
  const count = (answer: Answer) => asked.filter((participant) => participant.answer === answer).length
  return {
    accepted: count('accepted'),
    tentative: count('tentative'),
    declined: count('declined') + count('delegated'),
    waiting: count('needs-action'),
    asked: asked.length,
    missing: asked.filter((p) => p.required && p.answer === 'declined').map((p) => p.name),
  }
}

/** "2 of 5 said yes, 1 no, 2 have not answered". */
export const tallyInWords = (sum: ReturnType<typeof tally>): string => {
  if (sum.asked === 0) return 'nobody was asked'
  const parts = [`${sum.accepted} of ${sum.asked} said yes`]
  if (sum.tentative) parts.push(`${sum.tentative} perhaps`)
  if (sum.declined) parts.push(`${sum.declined} no`)
  if (sum.waiting) parts.push(`${sum.waiting} ${sum.waiting === 1 ? 'has' : 'have'} not answered`)
  return parts.join(', ')
}
