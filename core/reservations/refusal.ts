import { during, type LaneTime, type Span } from '../availability/index.ts'
import {
  clocksInWords,
  clockText,
  DAY,
  type Instant,
  lengthInWords,
  MINUTE,
  minuteOf,
  minutesBetween,
  offsetAt,
  toWall,
  zoneTable,
} from '../time/index.ts'
import { holderDuring } from './place.ts'
import { hoursInWords, type PlaceRules } from './rules.ts'

/** Why somebody may not have a place at all. */
export const MAY_NOT = ['retired', 'not-for-you', 'not-trained', 'training-over'] as const
export type MayNot = (typeof MAY_NOT)[number]

/** A place with the rules by which it is reserved; whoever asks is counted in. */
export interface Reservable {
  readonly id: string
  readonly name: string
  readonly site: string
  readonly zone: string
  readonly rules: PlaceRules
  /** Why whoever asks may not have it; null where they may. */
  readonly mayNot: MayNot | null
  /** How many reservations of it to come they have, where that has a limit. */
  readonly mine: number
  /** When it is open at all, with nothing reserved on it. */
  readonly open: LaneTime
}

/** A reservation that stands in the way, and who has it as far as the asker may know. */
export interface Holding extends Span {
  readonly by: string
}

/** Why a place cannot be had: each is a rule that one can be told of. */
export type Refusal =
  | { readonly rule: MayNot | 'too-short' | 'too-long' | 'too-far-ahead' | 'too-late' | 'too-many' }
  | { readonly rule: 'place-taken'; readonly holder: Holding }
  | { readonly rule: 'place-closed'; readonly reason: string }

/** Minutes between two uses of a place: what is kept free after one and before the next. */
export const turnaroundOf = ({ before, after }: Pick<PlaceRules, 'before' | 'after'>): number =>
  before + after

/**
 * Why a place cannot be had during a span; null where it can. `taken` is what is reserved of it, in order; `had` is how often it
 * is had already in the same act.
 */
export const refusalOf = (
  place: Reservable,
  taken: readonly Holding[],
  span: Span,
  { now, had = 0 }: { readonly now: Instant; readonly had?: number },
): Refusal | null => {
  const { rules, mayNot } = place
  if (mayNot) return { rule: mayNot }
  const length = minutesBetween(span.start, span.end)
  if (rules.shortest !== null && length < rules.shortest) return { rule: 'too-short' }
  if (rules.longest !== null && length > rules.longest) return { rule: 'too-long' }
  if (rules.aheadDays !== null && span.start > now + rules.aheadDays * DAY) return { rule: 'too-far-ahead' }
  if (rules.notice !== null && span.start < now + rules.notice * MINUTE) return { rule: 'too-late' }
  if (rules.atOnce !== null && place.mine + had >= rules.atOnce) return { rule: 'too-many' }
  const holder = holderDuring(taken, span, turnaroundOf(rules))
  if (holder) return { rule: 'place-taken', holder }
  const how = during(place.open, zoneTable(place.zone), span)
  return how.state === 'closed' ? { rule: 'place-closed', reason: how.blocker?.reason ?? 'closed' } : null
}

/**
 * A refusal as what the place is, without its name: "is taken at 14:00 in Nairobi: Tashi has it from 13:30 to 14:30." The
 * place's own clock counts; where it shows another hour than in `zone`, in which the time was chosen, its site is named.
 */
export const refusalInWords = (refusal: Refusal, place: Reservable, span: Span, zone: string): string => {
  const { rules } = place
  const minutes = (value: number | null) => lengthInWords(value ?? 0)
  switch (refusal.rule) {
    case 'retired':
      return 'is not in use any more.'
    case 'not-for-you':
      return `is only for ${rules.teams.join(' and ')}.`
    case 'not-trained':
      return 'is only for people who were trained to use it.'
    case 'training-over':
      return 'is only for people whose training for it is still good.'
    case 'too-short':
      return `is reserved for ${minutes(rules.shortest)} at least.`
    case 'too-long':
      return `is reserved for ${minutes(rules.longest)} at most.`
    case 'too-far-ahead':
      return `can be reserved up to ${rules.aheadDays} ${rules.aheadDays === 1 ? 'day' : 'days'} ahead.`
    case 'too-late':
      return `has to be reserved at least ${minutes(rules.notice)} before.`
    case 'too-many':
      return `can be had ${rules.atOnce === 1 ? 'once' : `${rules.atOnce} times`} at once by the same person, and no more.`
    case 'place-closed':
      return refusal.reason === 'closed'
        ? `is closed then: it is open ${hoursInWords(rules.hours)}.`
        : `is closed then: ${refusal.reason}.`
    case 'place-taken': {
      const table = zoneTable(place.zone)
      const { holder } = refusal
      const clock = clockText(minuteOf(toWall(table, span.start)))
      const words = clocksInWords(holder.start, holder.end, table)
      const there = offsetAt(table, span.start) === offsetAt(zoneTable(zone), span.start)
      return `is taken at ${clock}${there ? '' : ` in ${place.site}`}: ${holder.by} has it from ${words}.`
    }
  }
}
