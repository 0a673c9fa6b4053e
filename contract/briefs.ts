import { MOST_DATES, type Rules, STEPS, USUAL_RULES } from '@marmot/core/openings'
import { MOST_TIMES } from '@marmot/core/polls'
import { AVOIDABLE } from '@marmot/core/weather'
import { z } from 'zod'
import { apart } from './availability.ts'
import { KINDS } from './resources.ts'
import { address, id, once } from './route.ts'

const dayMinute = z.number().int().min(0).max(1440)
/** Days are counted from 1970-01-01, instants in milliseconds: an answer holds thousands of them. */
const day = z.number().int().min(0).max(60_000)
const ms = z.number()

const rules = once(
  (): z.ZodType<Rules> =>
    z.object({
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
    }),
)

export const placeNeed = once(() =>
  z.object({
    kind: z.enum(KINDS),
    /** A site, or null: each where at least `least` of the people are. */
    siteId: id.nullable(),
    least: z.number().int().min(1).max(100),
    count: z.number().int().min(1).max(8),
    seats: z.number().int().min(1).max(2000).nullable(),
    features: z.record(z.string().max(60), z.number().int().min(1).max(100)),
  }),
)

export const seriesRule = once(() =>
  z.object({
    every: z.number().int().min(1).max(12),
    unit: z.enum(['week', 'month']),
    count: z.number().int().min(2).max(MOST_DATES),
  }),
)

/** What a meeting needs, as data: it is searched, sent, kept as a template, and stands in the address bar. */
export const brief = once(() =>
  z.object({
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
    rules: rules(),
    /** Particular places. */
    places: z.array(id).max(20),
    needs: z.array(placeNeed()).max(8),
    /** Whether a time without the needed places is no opening. */
    placesMust: z.boolean(),
    /** At which site it is out of doors, and what of the weather there is rather to be avoided. */
    outdoors: z
      .object({ siteId: id, avoid: z.array(z.enum(AVOIDABLE)).max(AVOIDABLE.length) })
      .nullable()
      .default(null),
    series: seriesRule().nullable(),
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
  }),
)
export type Brief = z.infer<ReturnType<typeof brief>>

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
  outdoors: null,
  series: null,
  start: null,
  hold: null,
  asks: [],
  meeting: null,
})
