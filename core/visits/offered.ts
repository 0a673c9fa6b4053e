import type { LaneTime, WorkingHours } from '../availability/index.ts'
import { judge, type Rules, type SearchBrief, startsThatFit } from '../openings/index.ts'
import {
  type Day,
  dayOf,
  type Instant,
  instantOf,
  MINUTE,
  toWall,
  wallOf,
  weekStart,
  zoneTable,
} from '../time/index.ts'

/** How several people stand for one visit: all of them are there, one in turn is, or the visitor chooses one. */
export const TOGETHER = ['together', 'turn', 'choose'] as const
export type Together = (typeof TOGETHER)[number]

/** When a kind of meeting can be had. Lengths, gaps and notice in minutes. */
export interface Terms {
  /** Hours of its own, on the clock of whoever is visited; null is their working hours. */
  readonly hours: readonly WorkingHours[] | null
  /** 1 is Monday. */
  readonly weekdays: readonly number[]
  /** The first and the last day, counted from 1970-01-01; null is any. */
  readonly fromDay: Day | null
  readonly toDay: Day | null
  readonly notice: number
  /** How many days ahead. */
  readonly ahead: number
  readonly before: number
  readonly after: number
  readonly mostADay: number | null
  readonly mostAWeek: number | null
  readonly step: number
  /** Whether time that is only tentative or held may be had. */
  readonly tentative: boolean
  readonly together: Together
}

/** Somebody who can be visited: their time, and when the visits of this kind to them that stand begin. */
export interface Host {
  readonly id: string
  readonly time: LaneTime
  readonly booked: readonly Instant[]
  /** Where they are, for a room that seats all. */
  readonly siteId?: string
}

/** A time that is offered, and whose it is: of a panel all of them. */
export interface Offered {
  readonly start: Instant
  readonly hosts: readonly string[]
}

/** Days and weeks of somebody's that are full: nothing more of this kind can be had on them. */
const fullOn = ({ time, booked }: Host, { mostADay, mostAWeek }: Terms): ((start: Instant) => boolean) => {
  if (mostADay === null && mostAWeek === null) return () => false
  const table = zoneTable(time.zone)
  const day = (at: Instant): Day => dayOf(toWall(table, at))
  const days = new Map<Day, number>()
  const weeks = new Map<Day, number>()
  for (const at of booked) {
    days.set(day(at), (days.get(day(at)) ?? 0) + 1)
    const week = weekStart(day(at))
    weeks.set(week, (weeks.get(week) ?? 0) + 1)
  }
  return (start) =>
    (mostADay !== null && (days.get(day(start)) ?? 0) >= mostADay) ||
    (mostAWeek !== null && (weeks.get(weekStart(day(start))) ?? 0) >= mostAWeek)
}

/** What is asked of the search that finds everything else, so that what is offered is what is free. */
interface Asking {
  readonly minutes: number
  readonly from: Instant
  readonly to: Instant
  readonly now: Instant
  /** The zone on whose clock the starts lie: that of whoever keeps the page. */
  readonly zone: string
  readonly places?: SearchBrief['places']
}

const rulesOf = (terms: Terms): Rules => ({
  stretch: 0,
  earliest: null,
  latest: null,
  weekdays: terms.weekdays,
  lunch: true,
  before: terms.before,
  after: terms.after,
  mostADay: null,
  notice: terms.notice,
  tentative: terms.tentative,
})

/** The part of `[from, to)` in which a kind can be had at all; null where there is none. */
export const windowOf = (
  terms: Pick<Terms, 'fromDay' | 'toDay' | 'ahead'>,
  { from, to, now, zone }: Pick<Asking, 'from' | 'to' | 'now' | 'zone'>,
): { from: Instant; to: Instant } | null => {
  const table = zoneTable(zone)
  const at = (day: Day) => instantOf(table, wallOf(day))
  const today = dayOf(toWall(table, now))
  const first = Math.max(from, now, terms.fromDay === null ? 0 : at(terms.fromDay))
  const last = Math.min(
    to,
    at(today + terms.ahead + 1),
    terms.toDay === null ? Number.POSITIVE_INFINITY : at(terms.toDay + 1),
  )
  return first < last ? { from: first, to: last } : null
}

/** Starts lie on the clock: a window that begins in the middle of a day is searched from the beginning of it. */
const briefOf = (hosts: readonly Host[], terms: Terms, asking: Asking): SearchBrief => {
  const table = zoneTable(asking.zone)
  return {
    people: hosts.map((host) => ({
      id: host.id,
      required: true,
      ...(host.siteId ? { siteId: host.siteId } : {}),
      time: terms.hours ? { ...host.time, hours: terms.hours } : host.time,
    })),
    minutes: asking.minutes,
    from: instantOf(table, wallOf(dayOf(toWall(table, asking.from)))),
    to: asking.to,
    step: terms.step,
    zone: asking.zone,
    now: asking.now,
    rules: rulesOf(terms),
    ...(asking.places ? { places: asking.places } : {}),
  }
}

const startsFor = (hosts: readonly Host[], terms: Terms, asking: Asking): Instant[] => {
  // Somebody whose time is unknown is never free.
  if (hosts.length === 0 || hosts.some((host) => !host.time.known)) return []
  const full = hosts.map((host) => fullOn(host, terms))
  return startsThatFit(briefOf(hosts, terms, asking)).filter(
    (start) => start >= asking.from && !full.some((isFull) => isFull(start)),
  )
}

/**
 * The times that are offered, in order: within the terms, and free by the same search as everything else. Instants in
 * milliseconds. Cost: a search for each host, or one for a panel.
 */
export const offeredTimes = (hosts: readonly Host[], terms: Terms, asking: Asking): Offered[] => {
  const window = windowOf(terms, asking)
  if (!window || window.to - window.from < asking.minutes * MINUTE) return []
  const within = { ...asking, ...window }
  if (terms.together === 'together') {
    const ids = hosts.map((host) => host.id)
    return startsFor(hosts, terms, within).map((start) => ({ start, hosts: ids }))
  }
  const byStart = new Map<Instant, string[]>()
  for (const host of hosts)
    for (const start of startsFor([host], terms, within)) {
      const list = byStart.get(start)
      if (list) list.push(host.id)
      else byStart.set(start, [host.id])
    }
  return [...byStart].map(([start, ids]) => ({ start, hosts: ids })).sort((a, b) => a.start - b.start)
}

/** The places, by their ids, that a visit of some hosts would have at a start that is offered. */
export const placesAtStart = (
  hosts: readonly Host[],
  terms: Terms,
  asking: Asking,
  start: Instant,
): string[] =>
  asking.places
    ? (judge(briefOf(hosts, terms, asking), {
        start,
        end: start + asking.minutes * MINUTE,
      }).places?.places.flatMap((id) => id ?? []) ?? [])
    : []

/** Until when something may still be done about a visit, in milliseconds; null where it may not be at all. */
export const changeableUntil = (start: Instant, minutes: number | null): Instant | null =>
  minutes === null ? null : start - minutes * MINUTE

/** How many days a page looks ahead at once, at most. */
export const MOST_DAYS = 92
