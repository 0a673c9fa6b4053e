/**
 * What of an entry a viewer gets. Every read on the server passes through `seenSpan`: a title that may not be seen
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

/** One owner's grant: to the whole organisation, a team or a person, until an instant or for good. */
export interface Grant {
  readonly to: 'organisation' | 'team' | 'person'
  readonly id: string | null
  readonly sees: Sees
  readonly does: Does
  readonly until: number | null
}

export interface Viewer {
  readonly id: string
  readonly teams: readonly string[]
}

const rank = <T extends string>(order: readonly T[], value: T): number => order.indexOf(value)

/**
 * The level at which a viewer looks at an owner's time. The narrowest grant decides (a person before a team before
 * the organisation), so that an owner can also give somebody less; among several teams the most generous counts.
 * Without any grant the organisation sees busy times.
 */
export const levelFor = (
  ownerId: string,
  viewer: Viewer,
  grants: readonly Grant[],
  now: number,
): { sees: Sees; does: Does } => {
  if (ownerId === viewer.id) return { sees: 'everything', does: 'change' }
  const live = grants.filter((grant) => grant.until === null || grant.until > now)
  const mine = live.filter((grant) => grant.to === 'person' && grant.id === viewer.id)
  const teams = live.filter(
    (grant) => grant.to === 'team' && grant.id !== null && viewer.teams.includes(grant.id),
  )
  const all = live.filter((grant) => grant.to === 'organisation')
  const deciding = [mine, teams, all].find((some) => some.length > 0)
  if (!deciding) return { sees: 'busy', does: 'look' }
  return deciding.reduce(
    (most, grant) => ({
      sees: rank(SEES, grant.sees) > rank(SEES, most.sees) ? grant.sees : most.sees,
      does: rank(DOES, grant.does) > rank(DOES, most.does) ? grant.does : most.does,
    }),
    { sees: 'nothing' as Sees, does: 'look' as Does },
  )
}

/** A span of somebody's time with everything the server knows of it. Instants in milliseconds. */
export interface OwnSpan {
  readonly start: number
  readonly end: number
  readonly state: SpanState
  readonly entryId: string
  readonly title: string
  readonly place: string
  readonly private: boolean
}

/** The same span as a viewer gets it. */
export interface SeenSpan {
  readonly start: number
  readonly end: number
  readonly state: SpanState
  readonly entryId?: string
  readonly title?: string
  readonly place?: string
}

/**
 * What a viewer gets of a span: null when they see nothing. Somebody who takes part in an entry sees it whole
 * wherever it stands; a private one is a bare busy time to everybody but its owner and participants.
 */
export const seenSpan = (
  span: OwnSpan,
  viewer: { sees: Sees; owns: boolean; participates: boolean },
): SeenSpan | null => {
  const bare = { start: span.start, end: span.end, state: span.state }
  if (viewer.owns || viewer.participates) {
    return { ...bare, entryId: span.entryId, title: span.title, place: span.place }
  }
  if (viewer.sees === 'nothing') return null
  if (viewer.sees === 'busy' || span.private) return bare
  const headline = { ...bare, title: span.title, place: span.place }
  return viewer.sees === 'everything' ? { ...headline, entryId: span.entryId } : headline
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
