import type { LaneTime } from '@marmot/core/availability'
import type { SearchBrief, SearchPlace } from '@marmot/core/openings'
import { type Instant, instantOf, wallOf, zoneTable } from '@marmot/core/time'
import type { Forecast } from '@marmot/core/weather'
import { z } from 'zod'
import { MOST_ASKED } from './availability.ts'
import { type Brief, brief } from './briefs.ts'
import { id, instant, route, wall } from './route.ts'

/** Days are counted from 1970-01-01, instants in milliseconds: an answer holds thousands of them. */
const day = z.number().int().min(0).max(60_000)
const ms = z.number()

/** What a search needs beside the brief: everybody's time, the places, and how much each was stretched lately. */
export interface Known {
  readonly meId: string
  readonly zone: string
  readonly homeSite: string
  readonly now: Instant
  /** The time of a person by their id, or of a guest by their address. */
  readonly timeOf: (id: string) => LaneTime
  readonly siteOf: (personId: string) => string | undefined
  readonly places: readonly SearchPlace[]
  readonly past: Readonly<Record<string, number>>
  /** What is expected at a site; null where no forecast is known. */
  readonly forecastAt: (siteId: string) => Forecast | null
}

/** The brief as core searches it: the same on the server and in the browser. */
export const searchBriefOf = (given: Brief, known: Known): SearchBrief => {
  const table = zoneTable(known.zone)
  return {
    people: [
      ...given.people.map((one) => {
        const siteId = known.siteOf(one.id)
        return {
          id: one.id,
          required: one.required,
          ...(one.group ? { group: one.group } : {}),
          ...(siteId ? { siteId } : {}),
          time: known.timeOf(one.id),
        }
      }),
      ...given.guests.map((guest) => ({
        id: guest.address,
        required: guest.required,
        time: known.timeOf(guest.address),
      })),
    ],
    groups: given.groups,
    minutes: given.minutes,
    from: instantOf(table, wallOf(given.fromDay)),
    to: instantOf(table, wallOf(given.toDay)),
    step: given.step,
    zone: known.zone,
    now: known.now,
    rules: given.rules,
    places: {
      ids: given.places,
      needs: given.needs,
      must: given.placesMust,
      all: known.places,
      guests: given.guests.length,
      homeSite: known.homeSite,
    },
    past: known.past,
    outdoors: given.outdoors
      ? { forecast: known.forecastAt(given.outdoors.siteId), avoid: given.outdoors.avoid }
      : null,
  }
}

const share = z.object({ id: z.string(), minutes: z.number() })
const parts = z.object({
  missing: z.array(z.string()),
  tentative: z.array(share),
  stretch: z.array(share),
  lunch: z.array(share),
  squeezed: z.array(share),
  scraps: z.number(),
  days: z.number(),
  fairness: z.number(),
  spared: z.array(z.string()),
  places: z
    .object({
      places: z.array(z.string().nullable()),
      seatsWasted: z.number(),
      featuresMissing: z.number(),
      floorsApart: z.number(),
      lacking: z.number(),
      cost: z.number(),
    })
    .nullable(),
  /** What is expected out of doors. */
  weather: z
    .object({
      expected: z
        .object({
          whole: z.boolean(),
          low: z.number(),
          high: z.number(),
          rain: z.number(),
          chance: z.number(),
          wind: z.number(),
        })
        .nullable(),
      until: ms.nullable(),
      cost: z.number(),
    })
    .nullable()
    .default(null),
})

const whyNot = z.object({
  from: ms,
  to: ms,
  people: z.array(
    z.object({
      id: z.string(),
      kind: z.enum(['away', 'busy', 'held', 'tentative', 'hours', 'lunch', 'bounds', 'gap', 'full', 'group']),
      since: ms.nullable(),
      until: ms.nullable(),
      title: z.string().nullable(),
    }),
  ),
  places: z.array(
    z.object({
      siteId: z.string(),
      seats: z.number(),
      features: z.record(z.string(), z.number()),
      places: z.array(z.number()),
    }),
  ),
  rule: z.enum(['weekdays', 'notice', 'window']).nullable(),
})

const change = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('optional'), id: z.string() }),
  z.object({ kind: z.literal('shorten'), minutes: z.number() }),
  z.object({ kind: z.literal('stretch'), minutes: z.number() }),
  z.object({ kind: z.literal('later'), days: z.number() }),
  z.object({ kind: z.enum(['tentative', 'lunch', 'gaps', 'bounds', 'limit', 'weekdays', 'no-places']) }),
  z.object({ kind: z.literal('fewer'), group: z.string(), atLeast: z.number() }),
  z.object({ kind: z.literal('seats'), need: z.number(), seats: z.number() }),
  z.object({ kind: z.literal('features'), need: z.number() }),
  z.object({ kind: z.literal('site'), need: z.number(), siteId: z.string() }),
  z.object({ kind: z.literal('split'), first: z.array(z.string()), second: z.array(z.string()) }),
])

const answer = z.object({
  found: z.object({
    openings: z.array(z.object({ start: ms, end: ms, from: ms, to: ms, parts, cost: z.number() })),
    bands: z.array(z.object({ start: ms, end: ms, missing: z.number(), stretch: z.number() })),
    unknown: z.array(z.string()),
    starts: z.number(),
    tried: z.number(),
  }),
  why: whyNot.nullable(),
  days: z.array(whyNot.extend({ day })),
  help: z.array(z.object({ changes: z.array(change), openings: z.number(), second: z.number().optional() })),
})

/** One line of a search's answer: what is found so far, how much is done (0 to 1), or why it cannot be searched. */
export const searchLine = z.union([
  z.object({ share: z.number(), answer }),
  z.object({ refused: z.object({ code: z.string(), detail: z.string() }) }),
])

/** How far beyond the window people's time is looked at, in days, so that a later window can be offered. */
export const LATER_DAYS = 28

export const findOpenings = route({
  method: 'POST',
  path: '/api/openings',
  summary:
    'Search a brief on the server: lines of JSON, each with what is found so far and how much is done; the last has share 1. Ended early by closing the connection.',
  who: 'person',
  body: () => z.object({ brief: brief() }),
  answersFile: true,
})

export const readBalance = route({
  method: 'POST',
  path: '/api/openings/balance',
  summary:
    'How many minutes each of these people was stretched lately in meetings of at least two of them; left out for whoever shares no times.',
  who: 'person',
  body: () => z.object({ people: z.array(id).min(1).max(MOST_ASKED) }),
  answer: () =>
    z.object({
      weeks: z.number(),
      people: z.array(z.object({ personId: id, minutes: z.number(), meetings: z.number() })),
    }),
})

export const template = z.object({ id, name: z.string(), brief: brief(), usedAt: instant })
export type Template = z.infer<typeof template>

export const listTemplates = route({
  method: 'GET',
  path: '/api/briefs',
  summary: 'My briefs kept as templates; the one used last comes first.',
  who: 'person',
  answer: () => z.object({ templates: z.array(template) }),
})

export const putTemplate = route({
  method: 'PUT',
  path: '/api/briefs/:templateId',
  summary: 'Keep a brief as a template, or note that it was used.',
  who: 'person',
  params: () => z.object({ templateId: id }),
  body: () => z.object({ name: z.string().trim().min(1, 'is missing').max(60), brief: brief() }),
  answer: () => template,
})

export const deleteTemplate = route({
  method: 'DELETE',
  path: '/api/briefs/:templateId',
  summary: 'Forget a template.',
  who: 'person',
  params: () => z.object({ templateId: id }),
})

export const putHold = route({
  method: 'PUT',
  path: '/api/holds/:holdId',
  summary: 'Hold a time of mine and places while I decide; the same hold again moves it. It goes by itself.',
  who: 'person',
  params: () => z.object({ holdId: id }),
  body: () =>
    z.object({
      title: z.string().trim().max(200),
      starts: wall,
      minutes: z.number().int(),
      zone: z.string().max(100),
      places: z.array(id).max(8),
      until: instant,
    }),
  answer: () => z.object({ holdId: id, until: instant }),
})

export const readHold = route({
  method: 'GET',
  path: '/api/holds/:holdId',
  summary: 'A hold of mine, while it lasts.',
  who: 'person',
  params: () => z.object({ holdId: id }),
  answer: () => z.object({ holdId: id, start: instant, end: instant, places: z.array(id), until: instant }),
})

export const releaseHold = route({
  method: 'DELETE',
  path: '/api/holds/:holdId',
  summary: 'Let a hold of mine go.',
  who: 'person',
  params: () => z.object({ holdId: id }),
})
