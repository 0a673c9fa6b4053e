import { instantFromText, toWall, wallText, zoneTable } from '../time/index.ts'
import { type Asked, type PlaceNeed, type SearchBrief, type SearchPlace, USUAL_RULES } from './brief.ts'

// Small briefs for the tests: people of an office in Innsbruck, on days at the beginning of December.

export const VIENNA = 'Europe/Vienna'
export const at = (text: string) => instantFromText(VIENNA, text)
export const words = (instant: number) => wallText(toWall(zoneTable(VIENNA), instant))
export const office = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 }))
export const asked = (
  id: string,
  zone = VIENNA,
  more: Partial<Asked['time']> = {},
  required = true,
): Asked => ({
  id,
  required,
  siteId: zone,
  time: { zone, known: true, hours: office, outside: 'outside', spans: [], ...more },
})
export const brief = (people: Asked[], more: Partial<SearchBrief> = {}): SearchBrief => ({
  people,
  minutes: 60,
  from: at('2026-12-03T00:00'),
  to: at('2026-12-05T00:00'),
  step: 15,
  zone: VIENNA,
  now: at('2026-11-23T09:00'),
  rules: USUAL_RULES,
  ...more,
})
export const busy = (from: string, to: string, state: 'busy' | 'away' | 'tentative' = 'busy') => ({
  start: at(from),
  end: at(to),
  state,
})
export const room = (id: string, more: Partial<SearchPlace> = {}): SearchPlace => ({
  id,
  name: id,
  siteId: VIENNA,
  kind: 'room',
  seats: 6,
  floor: '1',
  turnaround: 0,
  features: {},
  mayTake: true,
  time: {
    zone: VIENNA,
    known: true,
    outside: 'closed',
    hours: [1, 2, 3, 4, 5, 6, 7].map((weekday) => ({ weekday, from: 0, to: 1440 })),
    spans: [],
  },
  ...more,
})
export const aRoom: PlaceNeed = { kind: 'room', siteId: null, least: 1, count: 1, seats: null, features: {} }
export const rooms = (all: SearchPlace[], needs: PlaceNeed[], more: object = {}) => ({
  all,
  needs,
  ids: [],
  must: true,
  guests: 0,
  homeSite: VIENNA,
  ...more,
})
