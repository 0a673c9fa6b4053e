import type { LaneTime } from '@marmot/core/availability'
import { DOES, SEES, SPAN_STATES } from '@marmot/core/sharing'
import { z } from 'zod'
import { event } from './live.ts'
import { address, id, instant, route, wall } from './route.ts'
import { level, receiver } from './sharing.ts'

export const workingHours = z.object({ weekday: z.number(), from: z.number(), to: z.number() })

export const span = z.object({
  start: instant,
  end: instant,
  state: z.enum(SPAN_STATES),
  title: z.string().optional(),
  place: z.string().optional(),
  entryId: id.optional(),
  /** Kept free before or after a meeting: taken, but no part of it. */
  gap: z.boolean().optional(),
  /** A day off of their whole site: a public holiday, or one on which it is closed; its title is what it is called. */
  dayOff: z.boolean().optional(),
})
export type SpanOnWire = z.infer<typeof span>

export const personTime = z.object({
  personId: id,
  zone: z.string(),
  /** The level the asker looks at. `nothing` means unknown, never free. */
  sees: z.enum(SEES),
  does: z.enum(DOES),
  hours: z.array(workingHours),
  spans: z.array(span),
  /** Times of which nothing is known, though the rest is: never free. */
  unknown: z.array(z.object({ start: instant, end: instant })).default([]),
})
export type PersonTime = z.infer<typeof personTime>

/** A guest's time, as a feed of theirs tells it that the asker reads; who has none is unknown, and not among them. */
export const guestTime = personTime.pick({ spans: true, unknown: true }).extend({ address: z.string() })
export type GuestTime = z.infer<typeof guestTime>

/** A lane of which nothing is known: a guest's, or one that is still on its way. */
export const unknownLane = (zone: string): LaneTime => ({
  zone,
  known: false,
  hours: [],
  outside: 'outside',
  spans: [],
})

/**
 * A person's time as the lane that core judges. Somebody who shares nothing is unknown, never free. What is held for
 * the brief in hand (`hold`) does not stand in its way.
 */
export const laneOf = (time: PersonTime, hold: string | null = null): LaneTime => ({
  zone: time.zone,
  known: time.sees !== 'nothing',
  hours: time.hours,
  outside: 'outside',
  spans: time.spans.filter((span) => hold === null || span.entryId !== hold).map(instants),
  unknown: time.unknown.map(instants),
})

const instants = <T extends { readonly start: string; readonly end: string }>(span: T) => ({
  ...span,
  start: Date.parse(span.start),
  end: Date.parse(span.end),
})

const WEEK = [1, 2, 3, 4, 5, 6, 7].map((weekday) => ({ weekday, from: 0, to: 1440 }))

/** A guest's lane, from what a feed tells of their time, in milliseconds. Of their hours nothing is known: none are taken for closed. */
export const guestLane = (zone: string, time: Pick<LaneTime, 'spans' | 'unknown'>): LaneTime => ({
  ...unknownLane(zone),
  ...time,
  known: true,
  hours: WEEK,
})

/** The same from what travels. */
export const guestLaneOf = (zone: string, { spans, unknown }: GuestTime): LaneTime =>
  guestLane(zone, { spans: spans.map(instants), unknown: unknown.map(instants) })

/** A meeting that is to be changed: the one date that is meant, or all of them without. Its own time is in nobody's way. */
export const apart = z.object({ entryId: id, recurrence: wall.nullable() })
export type Apart = z.infer<typeof apart>

/** So many people can be asked for at once: as many as a search takes. */
export const MOST_ASKED = 500

export const readAvailability = route({
  // Five hundred ids are longer than an address may be, so they travel in the body.
  method: 'POST',
  path: '/api/availability',
  summary: 'People’s time in a range, each as far as the asker may see it.',
  who: 'person',
  body: () =>
    z.object({
      people: z.array(id).min(1).max(MOST_ASKED),
      /** Guests, by their addresses. */
      guests: z.array(address).max(100).default([]),
      from: instant,
      to: instant,
      /** A meeting of mine that is left out. */
      apart: apart.optional(),
    }),
  answer: () => z.object({ people: z.array(personTime), guests: z.array(guestTime).default([]) }),
})

export const previewAvailability = route({
  method: 'GET',
  path: '/api/availability/preview',
  summary: 'My own time as somebody else sees it.',
  who: 'person',
  query: () => z.object({ to: receiver.to, id: id.optional(), from: instant, until: instant }),
  answer: () => personTime.extend({ ...level }),
})

/** People's time changed; for those who may know of it at all, since any of them may be looking at it. */
export const timeEvent = event('time', { people: z.array(id) })

/** Days off of sites changed; for everybody, since they are on everybody’s lanes. */
export const holidaysEvent = event('holidays', {})
