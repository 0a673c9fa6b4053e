import type { SearchPlace } from '@marmot/core/openings'
import { blockedSpan, MAY_NOT, type Place, type Reservable, turnaroundOf } from '@marmot/core/reservations'
import { z } from 'zod'
import { span, workingHours } from './availability.ts'
import { event } from './live.ts'
import { id, instant, route, wall } from './route.ts'

export const KINDS = ['room', 'lab', 'desk', 'equipment'] as const

/** By which rules a place is reserved; minutes, unless said otherwise, and null is no limit. */
export const placeRules = z.object({
  trainedOnly: z.boolean(),
  /** By name; everybody where there is none. */
  teams: z.array(z.string()),
  asksApproval: z.boolean(),
  approvalHours: z.number(),
  hours: z.array(workingHours),
  before: z.number(),
  after: z.number(),
  shortest: z.number().nullable(),
  longest: z.number().nullable(),
  aheadDays: z.number().nullable(),
  notice: z.number().nullable(),
  atOnce: z.number().nullable(),
})

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
  /** Names its picture, where it has one: another picture has another name. */
  picture: z.string().nullable(),
  rules: placeRules,
  /** When it is closed besides; those of one closure that repeats have the same id. Without one, its whole site is. */
  closed: z.array(z.object({ start: instant, end: instant, reason: z.string(), closureId: id.nullable() })),
  /** Why the asker may not have it; null where they may. */
  mayNot: z.enum(MAY_NOT).nullable(),
  /** How many reservations of it to come the asker has, where that has a limit. */
  mine: z.number(),
  zone: z.string(),
  /** Who looks after it, and whether that is whoever asks. */
  steward: z.string().nullable(),
  looksAfter: z.boolean(),
})
export type Resource = z.infer<typeof resource>

export const reservation = span.extend({
  id,
  resourceId: id,
  /** Who has it, as far as the asker may know. */
  by: z.string(),
  /** True for one of the asker’s own. */
  mine: z.boolean(),
  /** True while its place’s steward has not decided about it. */
  requested: z.boolean(),
  /** The date that it is for, by its wall time, where the asker may know what it is for. */
  recurrence: wall.optional(),
})
export type ReservationOnWire = z.infer<typeof reservation>

/**
 * A place as core judges it: its lane with every reservation and the turnaround after it, titled as far as the asker
 * may know (else by who has it). Places that ask for approval are not offered of themselves.
 */
export const placeOf = (place: Resource, reservations: readonly ReservationOnWire[]): Place => {
  const instants = (span: { start: string; end: string }) => ({
    start: Date.parse(span.start),
    end: Date.parse(span.end),
  })
  return {
    ...place,
    turnaround: turnaroundOf(place.rules),
    mayTake: place.mayNot === null && !place.rules.asksApproval,
    time: {
      zone: place.zone,
      known: true,
      hours: place.rules.hours,
      outside: 'closed',
      closed: place.closed.map((shut) => ({ ...instants(shut), reason: shut.reason })),
      spans: reservations
        .filter((taken) => taken.resourceId === place.id)
        .map((taken) => ({
          ...blockedSpan(instants(taken), turnaroundOf(place.rules)),
          state: taken.state,
          title: taken.title ?? taken.by,
        })),
    },
  }
}

/** A place with the rules by which it is reserved. */
export const reservableOf = (place: Resource): Reservable => ({ ...place, open: placeOf(place, []).time })

/** A place as the search sees it, with what is reserved of it but for the brief's own hold. */
export const searchPlaceOf = (
  place: Resource,
  reservations: readonly ReservationOnWire[],
  hold: string | null = null,
): SearchPlace => ({
  ...placeOf(
    place,
    reservations.filter((taken) => hold === null || taken.entryId !== hold),
  ),
  kind: place.kind,
  floor: place.floor,
  features: place.features,
})

export const listResources = route({
  method: 'GET',
  path: '/api/resources',
  summary: 'Every place and piece of equipment.',
  who: 'person',
  answer: () => z.object({ resources: z.array(resource) }),
})

export const listReservations = route({
  method: 'GET',
  path: '/api/reservations',
  summary:
    'What is reserved in a range: of every place, or of those of some kinds on some sites and of particular ones.',
  who: 'person',
  query: () =>
    z.object({
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
  answer: () => z.object({ reservations: z.array(reservation) }),
})

/** What these places are, when they are closed, or by which rules they are reserved changed; for everybody. */
export const placesEvent = event('places', { resources: z.array(id) })

/** Reservations of these places changed; for everybody, since any of them may be looking at it. */
export const reservationsEvent = event('reservations', { resources: z.array(id) })

const minutes = (most: number) => z.number().int().min(1).max(most).nullable()

/** Rules as a steward sets them; teams by their names. */
const rulesBody = z.object({
  trainedOnly: z.boolean(),
  teams: z.array(z.string().max(200)).max(50),
  asksApproval: z.boolean(),
  approvalHours: z.number().int().min(1).max(720),
  hours: z
    .array(
      z.object({
        weekday: z.number().int().min(1).max(7),
        from: z.number().int().min(0).max(1440),
        to: z.number().int().min(1).max(1440),
      }),
    )
    .max(28),
  before: z.number().int().min(0).max(1440),
  after: z.number().int().min(0).max(1440),
  shortest: minutes(44_640),
  longest: minutes(44_640),
  aheadDays: minutes(550),
  notice: z.number().int().min(0).max(527_040).nullable(),
  atOnce: minutes(1000),
})

export const readRules = route({
  method: 'GET',
  path: '/api/resources/:resourceId/rules',
  summary: 'The rules of a place that I look after, and the teams that there are.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  answer: () => z.object({ rules: placeRules, version: z.number(), teams: z.array(z.string()) }),
})

export const lookAtRules = route({
  method: 'POST',
  path: '/api/resources/:resourceId/rules/look',
  summary:
    'Which reservations to come other rules of a place would not allow. They stay; nothing is changed.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  body: () => rulesBody,
  answer: () =>
    z.object({
      hits: z.array(
        z.object({ reservationId: id, by: z.string(), start: instant, end: instant, words: z.string() }),
      ),
    }),
})

export const putRules = route({
  method: 'PUT',
  path: '/api/resources/:resourceId/rules',
  summary: 'Set the rules of a place that I look after. What is reserved of it already stays.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  body: () => rulesBody.extend({ version: z.number().int() }),
  answer: () => z.object({ version: z.number() }),
})
