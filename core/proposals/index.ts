import { DAY, type Instant, MINUTE } from '../time/index.ts'

/** A time, half-open, in milliseconds. */
interface Span {
  readonly start: Instant
  readonly end: Instant
}

/** The date of a meeting for which another time is proposed, as far as that is concerned. */
interface Concerned extends Span {
  readonly cancelled: boolean
}

const LONGEST = 31 * DAY

/**
 * Whether another time may be proposed for a date (RFC 5546 section 3.2.7): why not, or null when it may. `made` is when
 * the last proposal for it was, by the clock of whoever made it: an older one, that took longer on its way, never
 * overtakes it.
 */
export const proposalRefusal = (
  proposed: Span & { readonly stamp: Instant },
  date: Concerned,
  made: Instant | null,
  now: Instant,
): 'cancelled' | 'over' | 'in-the-past' | 'no-length' | 'same-time' | 'older-proposal' | null => {
  if (date.cancelled) return 'cancelled'
  if (date.end <= now) return 'over'
  if (proposed.start <= now) return 'in-the-past'
  if (proposed.end - proposed.start < MINUTE || proposed.end - proposed.start > LONGEST) return 'no-length'
  if (proposed.start === date.start && proposed.end === date.end) return 'same-time'
  if (made !== null && proposed.stamp < made) return 'older-proposal'
  return null
}
