import { DAY, type Instant, zoneTable } from '../time/index.ts'
import { addBits, type Bits, bitAt, bitsFor, clearBits, countBits, keepBits, nextBit } from './bits.ts'
import { type Steps, toEnd } from './breath.ts'
import type { PlaceNeed, SearchBrief } from './brief.ts'
import { startOf } from './grid.ts'
import type { Pattern } from './patterns.ts'
import { placing } from './places.ts'
import { type PersonRow, type Rows, readingRows, withRules } from './rows.ts'
import { stretchIn } from './score.ts'
import { countOpenings, peopleFree } from './search.ts'

/** One small change to a brief. Minutes, unless said otherwise. */
export type Change =
  | { readonly kind: 'optional'; readonly id: string }
  | { readonly kind: 'shorten'; readonly minutes: number }
  | { readonly kind: 'stretch'; readonly minutes: number }
  /** The window goes on for so many days. */
  | { readonly kind: 'later'; readonly days: number }
  | { readonly kind: 'tentative' }
  | { readonly kind: 'lunch' }
  | { readonly kind: 'gaps' }
  | { readonly kind: 'bounds' }
  | { readonly kind: 'limit' }
  | { readonly kind: 'weekdays' }
  | { readonly kind: 'fewer'; readonly group: string; readonly atLeast: number }
  | { readonly kind: 'seats'; readonly need: number; readonly seats: number }
  | { readonly kind: 'features'; readonly need: number }
  | { readonly kind: 'site'; readonly need: number; readonly siteId: string }
  | { readonly kind: 'no-places' }
  /** Two meetings: the organizer in both, everybody else in one. */
  | { readonly kind: 'split'; readonly first: readonly string[]; readonly second: readonly string[] }

/** A change, or two together, with how many openings they give. */
export interface Help {
  readonly changes: readonly Change[]
  readonly openings: number
  /** How many openings the second half of a split has. */
  readonly second?: number
}

/** Beyond this an opening is in somebody's night: no help that one offers unasked. */
const MOST_HELPFUL_STRETCH = 240
const STRETCH_STEP = 15
const SHORTER = [90, 60, 45, 30, 25, 20, 15]
const LATER = [7, 14, 28]
const MOST_HELP = 8
/** A change that takes more than this is no little one: pairs of smaller ones are tried beside it. */
const SMALL_PRICE = 120
/** People who are tried in pairs; of more, those who block most. */
const MOST_PAIRED = 12
const MOST_SPLITS = 60

const withoutNeeds = (needs: readonly PlaceNeed[], need: number, change: Partial<PlaceNeed>): PlaceNeed[] =>
  needs.map((each, i) => (i === need ? { ...each, ...change } : each))

/** The brief with a change made. A split leaves the first half; the second is its own brief. */
export const applyChange = (brief: SearchBrief, change: Change): SearchBrief => {
  const { rules, places } = brief
  const needs = (changed: PlaceNeed[]) =>
    places ? { ...brief, places: { ...places, needs: changed } } : brief
  switch (change.kind) {
    case 'optional':
      return {
        ...brief,
        people: brief.people.map((one) => (one.id === change.id ? { ...one, required: false } : one)),
      }
    case 'shorten':
      return { ...brief, minutes: change.minutes }
    case 'later':
      return { ...brief, to: brief.to + change.days * DAY }
    case 'fewer':
      return {
        ...brief,
        groups: (brief.groups ?? []).map((group) =>
          group.id === change.group ? { ...group, atLeast: change.atLeast } : group,
        ),
      }
    case 'seats':
      return needs(withoutNeeds(places?.needs ?? [], change.need, { seats: change.seats }))
    case 'features':
      return needs(withoutNeeds(places?.needs ?? [], change.need, { features: {} }))
    case 'site':
      return needs(withoutNeeds(places?.needs ?? [], change.need, { siteId: change.siteId }))
    case 'no-places':
      return places ? { ...brief, places: { ...places, must: false } } : brief
    case 'split':
      return { ...brief, people: brief.people.filter((one) => !change.second.includes(one.id)) }
    default:
      return { ...brief, rules: relaxed(rules, change) }
  }
}

/** The rules with a change made, where it is one of theirs. */
export const relaxed = (rules: SearchBrief['rules'], change: Change): SearchBrief['rules'] => {
  switch (change.kind) {
    case 'stretch':
      return { ...rules, stretch: change.minutes }
    case 'tentative':
      return { ...rules, tentative: true }
    case 'lunch':
      return { ...rules, lunch: false }
    case 'gaps':
      return { ...rules, before: 0, after: 0 }
    case 'bounds':
      return { ...rules, earliest: null, latest: null }
    case 'limit':
      return { ...rules, mostADay: null }
    case 'weekdays':
      return { ...rules, weekdays: [1, 2, 3, 4, 5, 6, 7] }
    default:
      return rules
  }
}

/** What a change takes from the people, put so that the smallest comes first: minutes of trouble, roughly. */
const priceOf = (change: Change): number => {
  switch (change.kind) {
    case 'stretch':
      return change.minutes
    case 'shorten':
      return 40
    case 'optional':
      return 90
    case 'later':
      return 30 + change.days * 4
    case 'tentative':
      return 45
    case 'split':
      return 150
    case 'no-places':
      return 100
    default:
      return 50
  }
}

const isMust = (row: PersonRow): boolean => row.asked.required && !row.asked.group && row.asked.time.known

/** Rows under one length and window, with where the places can be had: shared by all trials of them. */
interface Base {
  readonly rows: Rows
  readonly possible: Bits | null
}

function* basing(brief: SearchBrief): Steps<Base> {
  const rows = yield* readingRows(brief)
  // Matched at every start: a trial may allow weekdays that the brief does not.
  const places = yield* placing(brief, rows.grid)
  return { rows, possible: places?.wanted.must ? places.possible : null }
}

/** The starts that satisfy a trial: rows with somebody made optional are filtered, not made again. */
const freeOf = (base: Base, optional: ReadonlySet<string>): Bits => {
  const people = optional.size
    ? base.rows.people.map((row) =>
        optional.has(row.asked.id) ? { ...row, asked: { ...row.asked, required: false } } : row,
      )
    : base.rows.people
  const free = peopleFree({ ...base.rows, people })
  if (base.possible) keepBits(free, base.possible)
  return free
}

const openingsIn = (base: Base, free: Bits): number =>
  countBits(free) === 0 ? 0 : countOpenings(free, base.rows.grid, zoneTable(base.rows.brief.zone))

/** The least stretch that would leave a start, rounded up to a quarter of an hour; null when no stretch helps. */
const leastStretch = (base: Base, optional: ReadonlySet<string>): number | null => {
  const any = { ...base, rows: withRules(base.rows, { ...base.rows.brief.rules, stretch: null }) }
  const free = freeOf(any, optional)
  const patterns = [
    ...new Set(
      base.rows.people
        .filter((row) => isMust(row) && !optional.has(row.asked.id))
        .map((row): Pattern => row.pattern),
    ),
  ]
  const { grid } = base.rows
  let least = Number.POSITIVE_INFINITY
  for (let i = nextBit(free, 0); i >= 0; i = nextBit(free, i + 1)) {
    const start = startOf(grid, i)
    let most = 0
    for (const pattern of patterns) {
      most = Math.max(most, stretchIn(pattern, start, start + grid.lengthMs))
      if (most >= least) break
    }
    least = Math.min(least, most)
  }
  return least > MOST_HELPFUL_STRETCH
    ? null
    : Math.max(STRETCH_STEP, Math.ceil(least / STRETCH_STEP) * STRETCH_STEP)
}

/** A trial that is made when its turn comes. */
type Trial = () => Steps<Help | null>

/** What is tried, with the rows they share. */
function* newTrials(brief: SearchBrief, organizerId: string, knownTo: Instant) {
  const bases = new Map<string, Base>()
  function* baseFor(changed: SearchBrief): Steps<Base> {
    const key = `${changed.minutes} ${changed.to} ${JSON.stringify(changed.places?.needs ?? null)} ${changed.places?.must}`
    const known = bases.get(key)
    if (known) return known
    const made = yield* basing({ ...changed, rules: brief.rules })
    bases.set(key, made)
    return made
  }
  const optionalIn = (changes: readonly Change[]) =>
    new Set(changes.flatMap((change) => (change.kind === 'optional' ? [change.id] : [])))
  /** The base of a brief with changes: rows are made anew only where length, window or places are others. */
  function* changedBase(changes: readonly Change[]): Steps<Base> {
    const changed = changes.reduce(applyChange, brief)
    const base = yield* baseFor(changed)
    const rows = withRules(base.rows, changed.rules)
    const groups = changed.groups
    return { ...base, rows: groups ? { ...rows, brief: { ...rows.brief, groups } } : rows }
  }
  function* tryAll(changes: readonly Change[]): Steps<Help | null> {
    const base = yield* changedBase(changes)
    const openings = openingsIn(base, freeOf(base, optionalIn(changes)))
    return openings > 0 ? { changes, openings } : null
  }
  function* tryStretch(changes: readonly Change[]): Steps<Help | null> {
    if (brief.rules.stretch === null) return null
    const minutes = leastStretch(yield* changedBase(changes), optionalIn(changes))
    if (minutes === null || minutes <= brief.rules.stretch) return null
    return yield* tryAll([...changes, { kind: 'stretch', minutes }])
  }
  const base = yield* baseFor(brief)
  return { base, organizerId, knownTo, brief, tryAll, tryStretch }
}

type Trials = ReturnType<typeof newTrials> extends Generator<unknown, infer Made> ? Made : never

/** Everybody who could be made optional and whose leaving opens a start that only they block; all, for pairs. */
const peopleInTheWay = ({ base, organizerId }: Trials, alone: boolean): string[] => {
  const { rows, possible } = base
  const once = bitsFor(rows.grid.count)
  const twice = bitsFor(rows.grid.count)
  const must = rows.people.filter(isMust)
  for (const row of must) {
    const both = row.blocked.slice()
    keepBits(both, once)
    addBits(twice, both)
    addBits(once, row.blocked)
  }
  const candidates = rows.asked.slice()
  if (possible) keepBits(candidates, possible)
  if (alone) clearBits(candidates, twice)
  const counted = must
    .filter((row) => row.asked.id !== organizerId)
    .map((row) => {
      const blocked = row.blocked.slice()
      keepBits(blocked, candidates)
      return { id: row.asked.id, count: countBits(blocked) }
    })
    .filter((each) => each.count > 0)
  return counted.sort((a, b) => b.count - a.count).map((each) => each.id)
}

const ruleChanges = ({ rules }: SearchBrief): Change[] => [
  ...(rules.tentative ? [] : [{ kind: 'tentative' } as const]),
  ...(rules.lunch ? [{ kind: 'lunch' } as const] : []),
  ...(rules.before || rules.after ? [{ kind: 'gaps' } as const] : []),
  ...(rules.earliest !== null || rules.latest !== null ? [{ kind: 'bounds' } as const] : []),
  ...(rules.mostADay === null ? [] : [{ kind: 'limit' } as const]),
  ...(rules.weekdays.length < 7 ? [{ kind: 'weekdays' } as const] : []),
]

const placeChanges = (brief: SearchBrief): Change[] => {
  const { places } = brief
  if (!places?.must) return []
  const changes = places.needs.flatMap((need, i): Change[] => {
    const here = places.all.filter((place) => place.kind === need.kind && place.siteId === need.siteId)
    const smaller = [...new Set(here.map((place) => place.seats))]
      .filter((seats) => need.seats !== null && seats < need.seats)
      .sort((a, b) => b - a)
    const sites = [
      ...new Set(places.all.filter((place) => place.kind === need.kind).map((place) => place.siteId)),
    ]
    return [
      ...smaller.slice(0, 2).map((seats): Change => ({ kind: 'seats', need: i, seats })),
      ...(Object.keys(need.features).length ? [{ kind: 'features', need: i } as const] : []),
      ...(need.siteId === null
        ? []
        : sites
            .filter((siteId) => siteId !== need.siteId)
            .slice(0, 6)
            .map((siteId): Change => ({ kind: 'site', need: i, siteId }))),
    ]
  })
  return [...changes, ...(places.needs.length || places.ids.length ? [{ kind: 'no-places' } as const] : [])]
}

const shorterThan = (brief: SearchBrief): Change[] =>
  SHORTER.filter((minutes) => minutes < brief.minutes).map((minutes) => ({ kind: 'shorten', minutes }))

/** The first of several sizes of one change that gives an opening: the smallest that helps. */
const smallest = (trials: Trials, changes: readonly Change[], more: readonly Change[] = []): Trial =>
  function* () {
    for (const change of changes) {
      const help = yield* trials.tryAll([...more, change])
      if (help) return help
      yield null
    }
    return null
  }

const later = ({ brief, knownTo }: Trials): Change[] =>
  LATER.filter((days) => brief.to + days * DAY <= knownTo).map((days) => ({ kind: 'later', days }))

const singles = (trials: Trials): Trial[] => [
  () => trials.tryStretch([]),
  ...ruleChanges(trials.brief).map((change) => () => trials.tryAll([change])),
  smallest(trials, shorterThan(trials.brief)),
  ...peopleInTheWay(trials, true).map((id) => () => trials.tryAll([{ kind: 'optional', id }])),
  ...(trials.brief.groups ?? []).flatMap((group) =>
    group.atLeast > 1
      ? [() => trials.tryAll([{ kind: 'fewer', group: group.id, atLeast: group.atLeast - 1 }])]
      : [],
  ),
  ...placeChanges(trials.brief).map((change) => () => trials.tryAll([change])),
  smallest(trials, later(trials)),
]

const pairs = (trials: Trials): Trial[] => {
  const people = peopleInTheWay(trials, false)
    .slice(0, MOST_PAIRED)
    .map((id): Change => ({ kind: 'optional', id }))
  const others = [...ruleChanges(trials.brief), ...placeChanges(trials.brief)]
  const simple = [...people, ...others]
  return [
    ...simple.map((change) => () => trials.tryStretch([change])),
    smallestStretched(trials),
    ...simple.flatMap((one, i) => simple.slice(i + 1).map((other) => () => trials.tryAll([one, other]))),
    ...simple.map((change) => smallest(trials, shorterThan(trials.brief), [change])),
    ...simple.map((change) => smallest(trials, later(trials), [change])),
  ]
}

const smallestStretched = (trials: Trials): Trial =>
  function* () {
    for (const change of shorterThan(trials.brief)) {
      const help = yield* trials.tryStretch([change])
      if (help) return help
      yield null
    }
    return null
  }

/**
 * Two meetings instead of one: the start at which most can come with the organizer, and one for all who cannot. The first
 * half that leaves a second with openings is taken, the largest first.
 */
const split = ({ base, organizerId }: Trials): Help | null => {
  const must = base.rows.people.filter(isMust)
  const organizer = must.find((row) => row.asked.id === organizerId)
  const others = must.filter((row) => row !== organizer)
  if (!organizer || others.length < 2) return null
  const candidates = base.rows.asked.slice()
  clearBits(candidates, organizer.blocked)
  const sets = new Map<string, string[]>()
  for (let i = nextBit(candidates, 0); i >= 0; i = nextBit(candidates, i + 1)) {
    const able = others.filter((row) => !bitAt(row.blocked, i))
    const ids = able.map((row) => row.asked.id)
    if (ids.length > 0 && ids.length < others.length) sets.set(ids.join(), ids)
  }
  const largest = [...sets.values()].sort((a, b) => b.length - a.length).slice(0, MOST_SPLITS)
  // A room for everybody would be too large for either half: places are looked for when a half is arranged.
  const people = { ...base, possible: null }
  for (const first of largest) {
    const second = others.map((row) => row.asked.id).filter((id) => !first.includes(id))
    const openings = openingsIn(people, freeOf(people, new Set(second)))
    const rest = openingsIn(people, freeOf(people, new Set(first)))
    if (openings > 0 && rest > 0)
      return { changes: [{ kind: 'split', first, second }], openings, second: rest }
  }
  return null
}

const priceOfHelp = (help: Help): number => help.changes.reduce((sum, change) => sum + priceOf(change), 0)

/** The smallest changes first; of equals, those that open most. */
export const rankHelp = (a: Help, b: Help): number =>
  priceOfHelp(a) - priceOfHelp(b) || b.openings - a.openings

/** Whether one change asks no more of anybody than another: the same, or the same kind in a smaller measure. */
const asksNoMore = (one: Change, other: Change): boolean =>
  JSON.stringify(one) === JSON.stringify(other) ||
  (one.kind === other.kind && ['stretch', 'later'].includes(one.kind) && priceOf(one) <= priceOf(other))

/** Leaves out what only adds something useless to another help: it asks more, and opens no more. Helps in order, the best first. */
export const withoutUseless = (helps: readonly Help[]): Help[] =>
  helps.filter(
    (help) =>
      !helps.some(
        (other) =>
          other !== help &&
          other.openings >= help.openings &&
          priceOfHelp(other) < priceOfHelp(help) &&
          other.changes.every((change) => help.changes.some((each) => asksNoMore(change, each))),
      ),
  )

/**
 * What would help a brief that has no opening: single changes; pairs where no small one helps; and two meetings instead
 * of one. Every number is counted on the rows of the search. A step that has nothing new yields null. `organizerId` cannot be left out; `knownTo` is how far
 * people's time is known, for later windows. Yields the share that is done (0 to 1) with what helps so far.
 */
export function* helping(
  brief: SearchBrief,
  organizerId: string,
  knownTo: Instant,
): Generator<{ readonly share: number; readonly help: readonly Help[] } | null, readonly Help[]> {
  const trials = yield* newTrials(brief, organizerId, knownTo)
  const found: Help[] = []
  const ranked = () => withoutUseless([...found].sort(rankHelp)).slice(0, MOST_HELP)
  const one = singles(trials)
  for (const [i, trial] of one.entries()) {
    const help = yield* trial()
    if (help) found.push(help)
    yield { share: ((i + 1) / one.length) * 0.5, help: ranked() }
  }
  if (!found.some((help) => priceOfHelp(help) <= SMALL_PRICE)) {
    const two = pairs(trials)
    for (const [i, trial] of two.entries()) {
      const help = yield* trial()
      if (help) found.push(help)
      yield { share: 0.5 + ((i + 1) / two.length) * 0.5, help: ranked() }
    }
  }
  const halves = split(trials)
  const best = ranked()
  return halves ? [...best.slice(0, MOST_HELP - 1), halves] : best
}

/** `helping` to its end, for a caller that waits. */
export const whatHelps = (brief: SearchBrief, organizerId: string, knownTo: Instant): readonly Help[] =>
  toEnd(helping(brief, organizerId, knownTo))
