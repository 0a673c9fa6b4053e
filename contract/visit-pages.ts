import { STEPS } from '@marmot/core/openings'
import { TOGETHER } from '@marmot/core/visits'
import { z } from 'zod'
import { placeNeed } from './briefs.ts'
import { day, id, instant, route } from './route.ts'
import { question, slug, WHERES } from './visits.ts'

const minutesADay = z.number().int().min(0).max(480)
const policy = z.number().int().min(0).max(60_000).nullable()

/** A kind of meeting as whoever keeps the page says it. Sensible where only a name and a length are given. */
export const visitKind = z.object({
  slug,
  title: z.string().trim().min(1, 'is missing').max(120),
  about: z.string().trim().max(2000).default(''),
  lengths: z.array(z.number().int().min(5).max(1440)).min(1, 'are missing').max(6),
  hours: z
    .array(
      z.object({
        weekday: z.number().int().min(1).max(7),
        from: z.number().int().min(0).max(1440),
        to: z.number().int().min(0).max(2880),
      }),
    )
    .max(28)
    .nullable()
    .default(null),
  weekdays: z
    .array(z.number().int().min(1).max(7))
    .min(1, 'are missing')
    .max(7)
    .default([1, 2, 3, 4, 5, 6, 7]),
  fromDay: day.nullable().default(null),
  toDay: day.nullable().default(null),
  notice: z.number().int().min(0).max(60_000).default(240),
  ahead: z.number().int().min(1).max(366).default(60),
  before: minutesADay.default(0),
  after: minutesADay.default(0),
  mostADay: z.number().int().min(1).max(50).nullable().default(null),
  mostAWeek: z.number().int().min(1).max(200).nullable().default(null),
  step: z.union(STEPS.map((step) => z.literal(step))).default(30),
  tentative: z.boolean().default(false),
  together: z.enum(TOGETHER).default('together'),
  where: z.enum(WHERES).default('mine'),
  /** Where, in words: mine; or what can be chosen, a line each. */
  place: z.string().trim().max(1000).default(''),
  need: placeNeed().nullable().default(null),
  questions: z.array(question).max(20).default([]),
  mostGuests: z.number().int().min(0).max(20).default(3),
  moveBefore: policy.default(120),
  cancelBefore: policy.default(120),
  cost: z.string().trim().max(200).default(''),
  /** What is said once a time is taken, and where to go from there. */
  words: z.string().trim().max(2000).default(''),
  goOn: z
    .union([z.url({ protocol: /^https?$/, error: 'is no web address' }).max(500), z.literal('')])
    .default(''),
  /** How long before it the visitor is reminded by letter; null is not at all. */
  remind: z.number().int().min(5).max(20_160).nullable().default(1440),
  /** A letter afterwards; empty for none. */
  thanks: z.string().trim().max(4000).default(''),
  /** Whether a visitor has to press a link in a letter before a time is theirs. */
  proof: z.boolean().default(false),
  /** Whether it can be had by links alone that each work once. */
  byLinkOnly: z.boolean().default(false),
  on: z.boolean().default(true),
})
export type VisitKind = z.output<typeof visitKind>

const host = z.object({ personId: id, name: z.string(), agreed: z.boolean() })

const keptKind = visitKind.extend({ id, hosts: z.array(host) })
export type KeptVisitKind = z.infer<typeof keptKind>

const pageWords = z.object({
  slug,
  name: z.string().trim().min(1, 'is missing').max(120),
  about: z.string().trim().max(2000).default(''),
  accent: z.number().int().min(0).max(9).default(0),
  on: z.boolean().default(true),
})

const keptPage = pageWords.extend({ id, kinds: z.array(keptKind) })
export type KeptVisitPage = z.infer<typeof keptPage>

export const listVisitPages = route({
  method: 'GET',
  path: '/api/visit-pages',
  summary: 'My pages on which people from outside pick a time, and where others would like to offer mine.',
  who: 'person',
  answer: () =>
    z.object({
      pages: z.array(keptPage),
      /** Kinds of others that would offer my time, once I agree or as long as I do. */
      asked: z.array(
        z.object({ kindId: id, title: z.string(), page: z.string(), by: z.string(), agreed: z.boolean() }),
      ),
    }),
})

export const putVisitPage = route({
  method: 'PUT',
  path: '/api/visit-pages/:pageId',
  summary: 'Make or change a page of mine. Off means off, at once, also for whoever has it open.',
  who: 'person',
  params: () => z.object({ pageId: id }),
  body: () => pageWords,
})

export const deleteVisitPage = route({
  method: 'DELETE',
  path: '/api/visit-pages/:pageId',
  summary: 'Take a page of mine away. What was taken on it stands.',
  who: 'person',
  params: () => z.object({ pageId: id }),
})

export const putVisitKind = route({
  method: 'PUT',
  path: '/api/visit-pages/:pageId/kinds/:kindId',
  summary: 'Make or change a kind of meeting on a page of mine. Whoever is new in it is asked first.',
  who: 'person',
  params: () => z.object({ pageId: id, kindId: id }),
  body: () =>
    visitKind.extend({
      /** Who can be visited; mine alone without. */
      hosts: z.array(id).max(20).optional(),
    }),
})

export const deleteVisitKind = route({
  method: 'DELETE',
  path: '/api/visit-pages/:pageId/kinds/:kindId',
  summary: 'Take a kind of meeting away. What was taken of it stands.',
  who: 'person',
  params: () => z.object({ pageId: id, kindId: id }),
})

export const agreeToHost = route({
  method: 'POST',
  path: '/api/visit-kinds/:kindId/agree',
  summary: 'Agree that my time is offered on somebody’s page, or not any more.',
  who: 'person',
  params: () => z.object({ kindId: id }),
  body: () => z.object({ agree: z.boolean() }),
})

export const makeOnceLink = route({
  method: 'POST',
  path: '/api/visit-pages/:pageId/kinds/:kindId/links',
  summary: 'Make a link with which a kind can be had once.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ pageId: id, kindId: id }),
  body: () => z.object({ secret: z.string().regex(/^[\w-]{43}$/, 'is no secret of a link') }),
})

/** What became of a visit. */
export const VISIT_STATES = ['coming', 'over', 'cancelled'] as const

const visitLine = z.object({
  visitId: id,
  entryId: id.nullable(),
  kind: z.string(),
  name: z.string(),
  address: z.string(),
  host: z.string(),
  start: instant,
  end: instant,
  state: z.enum(VISIT_STATES),
  /** How often its time changed since it was taken. */
  moves: z.number(),
  guests: z.number(),
  answers: z.array(z.string()),
  takenAt: instant,
})
export type VisitLine = z.infer<typeof visitLine>

export const listVisits = route({
  method: 'GET',
  path: '/api/visits',
  summary: 'What was taken on my pages, and of my time: the newest 500.',
  who: 'person',
  answer: () => z.object({ visits: z.array(visitLine) }),
})
