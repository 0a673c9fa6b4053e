export * from './calendar.ts'
export * from './letter.ts'

import type { Answer } from '../sharing/index.ts'

/** Whether an answer by mail may be taken over: why not, or null when it may. */
export const replyRefusal = (
  reply: { sequence: number; address: string },
  meeting: { sequence: number; cancelled: boolean; addresses: readonly string[] } | null,
): 'no-such-meeting' | 'not-invited' | 'cancelled' | 'older-invitation' | null => {
  if (!meeting) return 'no-such-meeting'
  if (!meeting.addresses.includes(reply.address.toLowerCase())) return 'not-invited'
  if (meeting.cancelled) return 'cancelled'
  if (reply.sequence < meeting.sequence) return 'older-invitation'
  return null
}

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
