import type { Span } from '../availability/index.ts'
import type { Instant } from '../time/index.ts'
import { areUnitsOfOne } from './counted.ts'
import { holderDuring } from './place.ts'
import { type Reservable, refusalOf, turnaroundOf } from './refusal.ts'

/** A place that room might be made in, or that somebody might move to. What it says of who may have it is for whoever asks. */
export interface RoomPlace extends Reservable {
  readonly kind: string
  readonly siteId: string
  readonly seats: number
  readonly features: Readonly<Record<string, number>>
}

/** A reservation that stands; `people` is how many will be there, as far as that is known. */
export interface Standing extends Span {
  readonly id: string
  readonly placeId: string
  readonly people: number
  /** Whether its owner may be asked to move: a hold or a request is nobody's to move. */
  readonly movable: boolean
  /** Places, by their ids, that its owner may not have. */
  readonly barred?: ReadonlySet<string>
}

/** One reservation goes to another place. */
export interface Move {
  readonly reservationId: string
  readonly to: string
}

/** How room is made in a place: nothing moves until each whom it concerns has said yes. */
export interface Room {
  readonly placeId: string
  readonly moves: readonly Move[]
}

/** More than so many would have to be asked, and one of them would say no. */
export const MOST_MOVES = 2

const wasted = (place: RoomPlace, people: number): number => Math.max(0, place.seats - people)

/**
 * Whether a reservation would be served as well by another place, or better: of its kind and site, with seats for all, no fewer
 * features than it has now, and no more seats left empty.
 */
export const suits = (standing: Standing, from: RoomPlace, to: RoomPlace): boolean =>
  to.id !== from.id &&
  to.kind === from.kind &&
  to.siteId === from.siteId &&
  (to.kind !== 'equipment' || areUnitsOfOne(from, to)) &&
  to.seats >= standing.people &&
  wasted(to, standing.people) <= wasted(from, standing.people) &&
  Object.entries(from.features).every(([name, count]) => (to.features[name] ?? 0) >= count)

/** Where one could go, and who stands there. */
interface Target {
  readonly to: RoomPlace
  readonly others: readonly Standing[]
}

interface Ground {
  readonly places: ReadonlyMap<string, RoomPlace>
  readonly byPlace: ReadonlyMap<string, readonly Standing[]>
  readonly now: Instant
  /** Found once for each that might move: the same one is met on many ways. */
  readonly targets: Map<string, readonly Target[]>
}

/** What stands at a place keeps a span out, turnaround counted; in no order. */
const inTheWay = (place: RoomPlace, standing: readonly Standing[], span: Span): Standing[] =>
  standing.filter((one) => holderDuring([one], span, turnaroundOf(place.rules)) !== null)

/** Whether a place is open during a span, and lets itself be reserved then. */
const isOpen = (place: RoomPlace, span: Span, now: Instant): boolean =>
  !place.rules.asksApproval && refusalOf(place, [], span, { now }) === null

/** Where one could go, those first where the fewest stand. Whether they may have it is said by what bars them, not by the place. */
const targetsOf = (ground: Ground, standing: Standing, from: RoomPlace): readonly Target[] => {
  const known = ground.targets.get(standing.id)
  if (known) return known
  const targets: Target[] = []
  for (const to of ground.places.values())
    if (
      suits(standing, from, to) &&
      !standing.barred?.has(to.id) &&
      isOpen({ ...to, mayNot: null, mine: 0 }, standing, ground.now)
    )
      targets.push({ to, others: inTheWay(to, ground.byPlace.get(to.id) ?? [], standing) })
  targets.sort((a, b) => a.others.length - b.others.length)
  ground.targets.set(standing.id, targets)
  return targets
}

/** What was put where already, the wanted span first: nothing of it moves again. */
interface Put extends Span {
  readonly placeId: string
}

/**
 * Finds places for what has to move, one after the other, with at most so many moves in all. Each that comes to stand where another
 * stands makes that one move, too.
 */
const settle = (
  ground: Ground,
  toMove: readonly Standing[],
  moves: readonly Move[],
  put: readonly Put[],
  most: number,
): readonly Move[] | null => {
  const [first, ...rest] = toMove
  if (!first) return moves
  if (moves.length + toMove.length > most) return null
  const from = ground.places.get(first.placeId)
  if (!from || !first.movable) return null
  const gone = new Set([...moves.map((one) => one.reservationId), ...toMove.map((one) => one.id)])
  let best: readonly Move[] | null = null
  for (const { to, others: all } of targetsOf(ground, first, from)) {
    const turnaround = turnaroundOf(to.rules)
    if (put.some((one) => one.placeId === to.id && holderDuring([one], first, turnaround) !== null)) continue
    const others = all.filter((one) => !gone.has(one.id))
    const found = settle(
      ground,
      [...rest, ...others],
      [...moves, { reservationId: first.id, to: to.id }],
      [...put, { placeId: to.id, start: first.start, end: first.end }],
      best ? best.length - 1 : most,
    )
    if (found && (!best || found.length < best.length)) best = found
  }
  return best
}

/**
 * How room could be made in one of some places during a span: with the fewest moves, then in the place that is first among them.
 * Each that moves is served as well as before. Null where nothing of at most `MOST_MOVES` moves would do. `wanted` are places that would
 * do for whoever asks, best first; all others they might move to are among `places`, too.
 */
export const makeRoom = (
  span: Span,
  wanted: readonly string[],
  places: readonly RoomPlace[],
  standing: readonly Standing[],
  now: Instant,
): Room | null => {
  const byPlace = new Map<string, Standing[]>()
  for (const one of standing) {
    const list = byPlace.get(one.placeId)
    if (list) list.push(one)
    else byPlace.set(one.placeId, [one])
  }
  const ground: Ground = {
    places: new Map(places.map((place) => [place.id, place])),
    byPlace,
    now,
    targets: new Map(),
  }
  let best: Room | null = null
  for (const placeId of wanted) {
    const place = ground.places.get(placeId)
    if (!place || !isOpen(place, span, now)) continue
    const most: number = best ? best.moves.length - 1 : MOST_MOVES
    const moves = settle(
      ground,
      inTheWay(place, byPlace.get(placeId) ?? [], span),
      [],
      [{ ...span, placeId }],
      most,
    )
    if (moves && (!best || moves.length < best.moves.length)) best = { placeId, moves }
  }
  return best
}
