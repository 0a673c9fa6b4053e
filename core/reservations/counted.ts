import { type BusySpan, mergeSpans, type Span } from '../availability/index.ts'
import type { Instant } from '../time/index.ts'

/** What a numbered unit is one of: "Thermal drone 2" is a thermal drone. */
const sortOf = (name: string): string => name.replace(/\s*\d+$/, '')

/** Units of one thing are numbered: "Thermal drone 2" will do in place of "Thermal drone 1", and a core drill will not. */
export const areUnitsOfOne = (one: { readonly name: string }, other: { readonly name: string }): boolean =>
  sortOf(one.name) === sortOf(other.name)

/** Several units of one thing at one site: "Thermal drone", four of them. */
export interface Counted<P> {
  readonly key: string
  readonly name: string
  readonly units: readonly P[]
}

interface Unit {
  readonly name: string
  readonly kind: string
  readonly siteId: string
}

/** What stands by itself, and what is counted: equipment of which a site has several units, in the order of the first of each. */
export const countUnits = <P extends Unit>(places: readonly P[]): (P | Counted<P>)[] => {
  const bySort = new Map<string, P[]>()
  for (const place of places) {
    const key =
      place.kind === 'equipment' ? `${place.siteId} ${sortOf(place.name)}` : `${place.siteId} ${place.name}`
    const list = bySort.get(key)
    if (list) list.push(place)
    else bySort.set(key, [place])
  }
  return [...bySort].flatMap(([key, units]): (P | Counted<P>)[] => {
    const [first] = units
    if (!first) return []
    const inOrder = [...units].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
    return units.length === 1 ? [first] : [{ key, name: sortOf(first.name), units: inOrder }]
  })
}

export const isCounted = <P extends Unit>(one: P | Counted<P>): one is Counted<P> => 'units' in one

/** Where any of several units are taken, and how many are free then; neighbours that are alike are one. Spans in any order. */
export const freeOfMany = (units: readonly (readonly Span[])[]): (Span & { readonly free: number })[] => {
  const edges: { at: Instant; by: number }[] = []
  // Those of one unit that touch are one, so that it is never counted twice.
  for (const spans of units)
    for (const { start, end } of mergeSpans(spans)) edges.push({ at: start, by: 1 }, { at: end, by: -1 })
  edges.sort((a, b) => a.at - b.at)
  const found: (Span & { free: number })[] = []
  let taken = 0
  for (const [i, { at, by }] of edges.entries()) {
    taken += by
    const next = edges[i + 1]
    if (!next || next.at === at || taken === 0) continue
    const last = found.at(-1)
    const free = units.length - taken
    if (last && last.end === at && last.free === free) found[found.length - 1] = { ...last, end: next.at }
    else found.push({ start: at, end: next.at, free })
  }
  return found
}

/**
 * Counted units as the blocks of one lane: where none is free it is taken, where some are, half of it is open, with how many.
 */
export const countedSpans = (units: readonly (readonly Span[])[]): BusySpan[] =>
  freeOfMany(units).map(({ start, end, free }) => ({
    start,
    end,
    state: free === 0 ? 'busy' : 'tentative',
    title: free === 0 ? 'none free' : `${free} of ${units.length} free`,
  }))
