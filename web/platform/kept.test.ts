import 'fake-indexeddb/auto'
import { listEntries } from '@marmot/contract/entries'
import { whoAmI } from '@marmot/contract/people'
import { DAY } from '@marmot/core/time'
import { beforeEach, describe, expect, it } from 'vitest'
import { aPerson, aSession } from '../testing/people.ts'
import { forget, keep, keepWeeks, keptAnswer } from './kept.ts'
import { entriesFrom, weeksAround } from './weeks.ts'

const now = Date.parse('2026-11-23T08:00:00Z')
const text = (at: number) => new Date(at).toISOString()
const occurrence = (start: number, title: string) => ({
  entryId: crypto.randomUUID(),
  recurrence: text(start).slice(0, 16),
  start: text(start),
  end: text(start + 3_600_000),
  zone: 'Europe/Vienna',
  allDay: false,
  title,
  place: '',
  shows: 'busy' as const,
  state: 'busy' as const,
  answer: 'accepted' as const,
  answered: null,
  repeats: false,
  changed: false,
  meeting: false,
  reserved: false,
  own: true,
  private: false,
  outdoors: null,
  categoryId: null,
  attached: false,
  hidden: false,
  version: 1,
})
const toDo = (title: string, due: string) => ({
  id: crypto.randomUUID(),
  title,
  due,
  dueAllDay: due.endsWith('T00:00'),
  zone: 'Europe/Vienna',
  categoryId: null,
})
const { from, to } = weeksAround(now)
const weeks = {
  from,
  to,
  entries: {
    occurrences: [occurrence(now, 'Rope inspection'), occurrence(now + 20 * DAY, 'Snow pit')],
    gaps: [],
    elsewhere: [{ start: text(now), end: text(now + DAY / 24), state: 'busy' as const, title: 'Choir' }],
    daysOff: [{ start: text(now), end: text(now + DAY), title: 'Epiphany' }],
    due: [toDo('Order saw blades', '2026-11-23T00:00'), toDo('Wax the sledge', '2026-12-10T09:30')],
    forecasts: [],
    unknown: [],
    hours: [{ weekday: 1, from: 540, to: 1020 }],
    mayChange: true,
  },
}

beforeEach(() => forget())

describe('the weeks that are kept', () => {
  it('give what touches a range, to be read and not changed', () => {
    const known = entriesFrom(weeks, { from: now - DAY, to: now + DAY })
    expect(known.occurrences.map((one) => one.title)).toEqual(['Rope inspection'])
    expect(known.elsewhere.map((one) => one.title)).toEqual(['Choir'])
    expect(known.daysOff.map((one) => one.title)).toEqual(['Epiphany'])
    expect(known.due.map((one) => one.title)).toEqual(['Order saw blades'])
    expect(entriesFrom(weeks, { from: now + 2 * DAY, to: now + 3 * DAY }).elsewhere).toEqual([])
    expect([known.mayChange, known.unknown, known.hours]).toEqual([false, [], weeks.entries.hours])
  })

  it('say of which part of a range nothing is known', () => {
    const known = entriesFrom(weeks, { from: to - DAY, to: to + DAY })
    expect(known.unknown).toEqual([{ start: text(to), end: text(to + DAY) }])
    expect(entriesFrom(weeks, { from: from - DAY, to: from + DAY }).unknown).toEqual([
      { start: text(from - DAY), end: text(from) },
    ])
  })

  it('answer for my own time, within them, and for nobody else’s', async () => {
    await keepWeeks(weeks)
    const asked = (query: Record<string, string>) => keptAnswer(`/api/entries?${new URLSearchParams(query)}`)
    const range = { from: text(now), to: text(now + DAY) }
    expect(listEntries.answer.parse((await asked(range))?.json).occurrences).toHaveLength(1)
    expect(await asked({ ...range, of: crypto.randomUUID() })).toBeUndefined()
    expect(await asked({ from: text(to + DAY), to: text(to + 2 * DAY) })).toBeUndefined()
  })
})

describe('an answer that is kept', () => {
  const ilse = aSession({ person: aPerson('Ilse Brandacher') })

  it('of who I am goes on with the server’s clock', async () => {
    const minute = 60_000
    await keep('/api/session', { json: ilse, at: Date.now() - 30 * minute })
    const seen = await keptAnswer('/api/session')
    const ahead = Date.parse(whoAmI.answer.parse(seen?.json).now) - Date.parse(ilse.now)
    expect(Math.round(ahead / minute)).toBe(30)
  })

  it('is forgotten when somebody else signs in', async () => {
    await keep('/api/session', { json: ilse, at: Date.now() })
    await keep('/api/categories', { json: { categories: [] }, at: Date.now() })
    await keep('/api/session', { json: ilse, at: Date.now() })
    expect(await keptAnswer('/api/categories')).toBeDefined()
    await keep('/api/session', { json: aSession({ person: aPerson('Tashi Lhendup') }), at: Date.now() })
    expect(await keptAnswer('/api/categories')).toBeUndefined()
  })

  it('in the form of an older Marmot, or of months ago, is none', async () => {
    await keep('/api/session', { json: { who: 'Ilse' }, at: Date.now() })
    expect(await keptAnswer('/api/session')).toBeUndefined()
    await keep('/api/categories', { json: { categories: [] }, at: Date.now() - 90 * DAY })
    expect(await keptAnswer('/api/categories')).toBeUndefined()
  })

  it('of a meeting that was looked at is one of the newest', async () => {
    const address = (i: number) => `/api/meetings/${String(i).padStart(8, '0')}-0000-4000-8000-000000000000`
    for (let i = 0; i < 130; i++) await keep(address(i), { json: { i }, at: Date.now() + i })
    expect(await keptAnswer(address(5))).toBeUndefined()
    expect((await keptAnswer(address(129)))?.json).toEqual({ i: 129 })
  })
})
