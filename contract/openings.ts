import type { LaneTime } from '@marmot/core/availability'
import {
  MOST_DATES,
  type Rules,
  type SearchBrief,
  type SearchPlace,
  STEPS,
  USUAL_RULES,
} from '@marmot/core/openings'
import { MOST_TIMES } from '@marmot/core/polls'
import { type Instant, instantOf, wallOf, zoneTable } from '@marmot/core/time'
import { z } from 'zod'
import { apart, MOST_ASKED } from './availability.ts'
import { KINDS } from './resources.ts'
import { address, id, instant, route, wall } from './route.ts'

const dayMinute = z.number().int().min(0).max(1440)
/** Days are counted from 1970-01-01, instants in milliseconds: an answer holds thousands of them. */
const day = z.number().int().min(0).max(60_000)
const ms = z.number()

export const rules: z.ZodType<Rules> = z.object({
  stretch: z.number().int().min(0).max(5760).nullable(),
  earliest: dayMinute.nullable(),
  latest: dayMinute.nullable(),
  weekdays: z.array(z.number().int().min(1).max(7)).max(7),
  lunch: z.boolean(),
  before: z.number().int().min(0).max(480),
  after: z.number().int().min(0).max(480),
  mostADay: z.number().int().max(50).nullable(),
  notice: z.number().int().min(0).max(60_000),
  tentative: z.boolean(),
})

export const placeNeed = z.object({
  kind: z.enum(KINDS),
  /** A site, or null: each where at least `least` of the people are. */
  siteId: id.nullable(),
  least: z.number().int().min(1).max(100),
  count: z.number().int().min(1).max(8),
  seats: z.number().int().min(1).max(2000).nullable(),
  features: z.record(z.string().max(60), z.number().int().min(1).max(100)),
})

export const seriesRule = z.object({
  every: z.number().int().min(1).max(12),
  unit: z.enum(['week', 'month']),
  count: z.number().int().min(2).max(MOST_DATES),
})

/** What a meeting needs, as data: it is searched, sent, kept as a template, and stands in the address bar. */
export const brief = z.object({
  title: z.string().max(200),
  note: z.string().max(10_000),
  /** Points of its agenda as they are typed, a line each. */
  agenda: z.string().max(10_000).default(''),
  minutes: z.number().int().max(44_640),
  people: z.array(z.object({ id, required: z.boolean(), group: z.string().max(20).nullable() })).max(2000),
  guests: z.array(z.object({ address, name: z.string().max(100), required: z.boolean() })).max(100),
  /** People of whom any `atLeast` are enough. */
  groups: z
    .array(z.object({ id: z.string().max(20), name: z.string().max(60), atLeast: z.number().int() }))
    .max(10),
  /** The window: from the start of one day up to the end of the day before another, in the asker's zone. */
  fromDay: day,
  toDay: day,
  step: z.number().int(),
  rules,
  /** Particular places. */
  places: z.array(id).max(20),
  needs: z.array(placeNeed).max(8),
  /** Whether a time without the needed places is no opening. */
  placesMust: z.boolean(),
  series: seriesRule.nullable(),
  /** The chosen time. */
  start: ms.nullable(),
  /** The hold on it, when there is one. */
  hold: id.nullable(),
  /** Starts that several people will be asked about. */
  asks: z.array(ms).max(MOST_TIMES).default([]),
  /** The meeting that this becomes a change of, as it is now; null for a new one. */
  meeting: z
    .object({
      ...apart.shape,
      version: z.number().int(),
      organizerId: id,
      title: z.string().max(200),
      start: ms,
      minutes: z.number().int(),
    })
    .nullable()
    .default(null),
})
export type Brief = z.infer<typeof brief>

export const DEFAULT_STEP = STEPS[2]
const WINDOW_DAYS = 14

/** A brief with nothing in it but the person who makes it: half an hour in the next two weeks. */
export const emptyBrief = (today: number, me: string): Brief => ({
  title: '',
  note: '',
  agenda: '',
  minutes: 30,
  people: [{ id: me, required: true, group: null }],
  guests: [],
  groups: [],
  fromDay: today,
  toDay: today + WINDOW_DAYS,
  step: DEFAULT_STEP,
  rules: USUAL_RULES,
  places: [],
  needs: [],
  placesMust: true,
  series: null,
  start: null,
  hold: null,
  asks: [],
  meeting: null,
})

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
  body: () => z.object({ brief }),
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

export const template = z.object({ id, name: z.string(), brief, usedAt: instant })
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
  body: () => z.object({ name: z.string().trim().min(1, 'is missing').max(60), brief }),
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
