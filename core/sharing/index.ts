/**
 * What of an entry a viewer gets. Every read on the server passes through `detailFor`: a title that may not be seen
 * never leaves it.
 */

/** What the owner lets somebody see, from least to most. */
export const SEES = ['nothing', 'busy', 'headlines', 'everything'] as const
export type Sees = (typeof SEES)[number]

/** What the owner lets somebody do, apart from what they see. */
export const DOES = ['look', 'change', 'stand-in'] as const
export type Does = (typeof DOES)[number]

/** How an entry stands on a lane: RFC 5545's free/busy types, in our words. `listed` does not block. */
export const SPAN_STATES = ['busy', 'tentative', 'held', 'away', 'listed'] as const
export type SpanState = (typeof SPAN_STATES)[number]

export const ANSWERS = ['needs-action', 'accepted', 'tentative', 'declined', 'delegated'] as const
export type Answer = (typeof ANSWERS)[number]

/** Whether some text is an answer, in our words. */
export const isAnswer = (text: string): text is Answer => ANSWERS.some((one) => one === text)

/** What somebody may see and do of an owner's time. */
export interface Level {
  readonly sees: Sees
  readonly does: Does
  /** Whether private entries are more than busy times; only stand-ins can be allowed that. */
  readonly seesPrivate: boolean
}

/** One owner's grant: to the whole organisation, a team or a person, until an instant or for good. */
export interface Grant extends Level {
  readonly to: 'organisation' | 'team' | 'person'
  readonly id: string | null
  readonly until: number | null
}

export interface Viewer {
  readonly id: string
  readonly teams: readonly string[]
}

/** What holds when an owner said nothing: the organisation sees busy times. */
export const USUAL_LEVEL: Level = { sees: 'busy', does: 'look', seesPrivate: false }
/** Nothing at all: unknown, never free. */
export const NO_LEVEL: Level = { sees: 'nothing', does: 'look', seesPrivate: false }
/** The level at which one looks at one's own time. */
export const OWN_LEVEL: Level = { sees: 'everything', does: 'stand-in', seesPrivate: true }

const rank = <T extends string>(order: readonly T[], value: T): number => order.indexOf(value)

/** The more generous of two levels, each of the axes by itself. */
const moreOf = (one: Level, other: Level): Level => ({
  sees: rank(SEES, one.sees) > rank(SEES, other.sees) ? one.sees : other.sees,
  does: rank(DOES, one.does) > rank(DOES, other.does) ? one.does : other.does,
  seesPrivate: one.seesPrivate || other.seesPrivate,
})

/** True when a level gives something that another does not. */
export const givesMore = (next: Level, before: Level): boolean =>
  rank(SEES, next.sees) > rank(SEES, before.sees) ||
  rank(DOES, next.does) > rank(DOES, before.does) ||
  (next.seesPrivate && !before.seesPrivate)

/**
 * The level at which a viewer looks at an owner's time. The narrowest grant decides (a person before a team before
 * the organisation), so that an owner can also give somebody less; among several teams the most generous counts.
 * Without any grant the organisation sees busy times.
 */
export const levelFor = (ownerId: string, viewer: Viewer, grants: readonly Grant[], now: number): Level => {
  if (ownerId === viewer.id) return OWN_LEVEL
  const live = grants.filter((grant) => grant.until === null || grant.until > now)
  const mine = live.filter((grant) => grant.to === 'person' && grant.id === viewer.id)
  const teams = live.filter(
    (grant) => grant.to === 'team' && grant.id !== null && viewer.teams.includes(grant.id),
  )
  const all = live.filter((grant) => grant.to === 'organisation')
  const deciding = [mine, teams, all].find((some) => some.length > 0)
  return deciding ? deciding.reduce(moreOf, NO_LEVEL) : USUAL_LEVEL
}

/** What is wrong with a grant, in words, or null. `does` beyond looking needs everything to be seen. */
export const grantTrouble = (ownerId: string, grant: Grant, now: number): string | null => {
  if (grant.to === 'person' && grant.id === ownerId)
    return 'Your time is yours already: there is nobody to share it with here.'
  if (grant.does !== 'look' && grant.sees !== 'everything')
    return 'Whoever may change your entries has to see everything of them.'
  if (grant.does === 'stand-in' && grant.to !== 'person')
    return 'A stand-in is one person, not a team or everybody.'
  if (grant.seesPrivate && grant.does !== 'stand-in')
    return 'Only a stand-in can be allowed to see private entries.'
  if (grant.until !== null && grant.until <= now) return 'That day is over. Choose one that is still to come.'
  return null
}

/** Who looks at an entry: by which level, and whether they own it or take part in it. */
export interface Looking {
  readonly level: Level
  readonly owns: boolean
  readonly participates: boolean
}

/**
 * How much of an entry somebody gets: nothing, its time, its headline, or everything. Every read on the server goes
 * through this: lists, search, reservations, export, feeds, errors and mail. Whoever takes part sees it whole wherever
 * it stands; a private one is a busy time to all but its owner, its participants and stand-ins who were allowed it.
 */
export const detailFor = (entry: { readonly private: boolean }, looking: Looking): Sees => {
  if (looking.owns || looking.participates) return 'everything'
  const { sees, seesPrivate } = looking.level
  return entry.private && !seesPrivate && sees !== 'nothing' ? 'busy' : sees
}

/** Whether somebody may change an owner's entry: they have to see all of it, too. */
export const mayChange = (entry: { readonly private: boolean }, looking: Looking): boolean =>
  looking.owns ||
  (rank(DOES, looking.level.does) >= rank(DOES, 'change') &&
    detailFor(entry, { ...looking, participates: false }) === 'everything')

/** A span of somebody's time with everything the server knows of it. Instants in milliseconds. */
export interface OwnSpan {
  readonly start: number
  readonly end: number
  readonly state: SpanState
  readonly entryId: string
  readonly title: string
  readonly place: string
  readonly private: boolean
  /** The zone whose whole days these are; absent for a time by the clock. */
  readonly wholeDays?: string | null
}

/** The same span as a viewer gets it. */
export interface SeenSpan {
  readonly start: number
  readonly end: number
  readonly state: SpanState
  readonly entryId?: string
  readonly title?: string
  readonly place?: string
  readonly wholeDays?: string
}

/** What a viewer gets of a span by `detailFor`: null when they see nothing. */
export const seenSpan = (span: OwnSpan, looking: Looking): SeenSpan | null => {
  const days = span.wholeDays ? { wholeDays: span.wholeDays } : {}
  const bare = { start: span.start, end: span.end, state: span.state, ...days }
  const detail = detailFor(span, looking)
  if (detail === 'nothing') return null
  if (detail === 'busy') return bare
  const headline = { ...bare, title: span.title, place: span.place }
  return detail === 'everything' ? { ...headline, entryId: span.entryId } : headline
}

/**
 * How an entry stands on a participant's lane, given what the entry shows as and the answer; null when it does not
 * stand there at all (a declined meeting leaves the lane). An unanswered or tentative one takes the lower half.
 */
export const stateOnLane = (shows: SpanState, answer: Answer): SpanState | null => {
  if (answer === 'declined' || answer === 'delegated') return null
  if (answer === 'accepted' || shows === 'listed') return shows
  return 'tentative'
}
