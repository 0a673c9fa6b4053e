import { blockedSpan, type Place } from '@marmot/core/reservations'
import { z } from 'zod'
import { span, workingHours } from './availability.ts'
import { event } from './live.ts'
import { id, instant, route, wall } from './route.ts'

export const KINDS = ['room', 'lab', 'desk', 'equipment'] as const

export const resource = z.object({
  id,
  name: z.string(),
  kind: z.enum(KINDS),
  siteId: id,
  site: z.string(),
  floor: z.string(),
  seats: z.number(),
  /** Features with their quantities: `{"screens": 2}`. */
  features: z.record(z.string(), z.number()),
  about: z.string(),
  turnaround: z.number(),
  hours: z.array(workingHours),
  closed: z.array(z.object({ start: instant, end: instant, reason: z.string() })),
  /** False for places that only trained people may take. */
  mayTake: z.boolean(),
  /** True when a steward has to approve; such places are not offered with a meeting yet. */
  asksApproval: z.boolean(),
  zone: z.string(),
})
export type Resource = z.infer<typeof resource>

export const reservation = span.extend({
  id,
  resourceId: id,
  /** Who has it, as far as the asker may know. */
  by: z.string(),
})
export type ReservationOnWire = z.infer<typeof reservation>

/**
 * A place as core judges it: its lane with every reservation and the turnaround after it, titled as far as the asker
 * may know (else by who has it). Places that ask for approval are not to be taken at once.
 */
export const placeOf = (place: Resource, reservations: readonly ReservationOnWire[]): Place => {
  const instants = (span: { start: string; end: string }) => ({
    start: Date.parse(span.start),
    end: Date.parse(span.end),
  })
  return {
    ...place,
    mayTake: place.mayTake && !place.asksApproval,
    time: {
      zone: place.zone,
      known: true,
      hours: place.hours,
      outside: 'closed',
      closed: place.closed.map((shut) => ({ ...instants(shut), reason: shut.reason })),
      spans: reservations
        .filter((taken) => taken.resourceId === place.id)
        .map((taken) => ({
          ...blockedSpan(instants(taken), place.turnaround),
          state: taken.state,
          title: taken.title ?? taken.by,
        })),
    },
  }
}

export const listResources = route({
  method: 'GET',
  path: '/api/resources',
  summary: 'Every place and piece of equipment.',
  who: 'person',
  answer: z.object({ resources: z.array(resource) }),
})

export const listReservations = route({
  method: 'GET',
  path: '/api/reservations',
  summary:
    'What is reserved in a range: of every place, or of those of some kinds on some sites and of particular ones.',
  who: 'person',
  query: z.object({
    from: instant,
    to: instant,
    /** Ids of sites, with commas; with `kinds`, or it is for every place. */
    sites: z.string().max(4000).optional(),
    kinds: z.string().max(200).optional(),
    /** Ids of particular places, besides. */
    places: z.string().max(4000).optional(),
    /** A meeting of mine that is left out, on one date or on all. */
    apart: id.optional(),
    apartDate: wall.optional(),
  }),
  answer: z.object({ reservations: z.array(reservation) }),
})

/** Reservations of these places changed; for everybody, since any of them may be looking at it. */
export const reservationsEvent = event('reservations', { resources: z.array(id) })
