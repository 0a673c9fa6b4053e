import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

interface Dates {
  dates: { recurrence: string; answer: string; clash: { title: string; state: string } | null }[]
  more: boolean
}
const series = (title: string, more: Record<string, unknown> = {}) =>
  marmot.sendMeeting(ilse, {
    title,
    people: [{ id: matteo.person.id, required: true }],
    starts: '2026-12-03T18:00',
    series: { rule: 'FREQ=WEEKLY;INTERVAL=2;COUNT=4', changes: [], ...more },
  })
const datesOf = async (who: Client, entryId: string) =>
  (await who.get<Dates>(`/api/meetings/${entryId}/dates`)).body
const own = (title: string, starts: string, more: Record<string, unknown> = {}) =>
  matteo.send('POST', '/api/entries', { title, starts, minutes: 60, zone: 'Europe/Vienna', ...more })

describe('the dates of a series that one is invited to', () => {
  it('say which of them collide with one’s own time, and with what', async () => {
    await own('Choir', '2026-12-17T18:30')
    await own('Perhaps skiing', '2026-12-31T18:00', { shows: 'tentative' })
    await own('Course', '2027-01-14T00:00', { minutes: 2 * 1440, allDay: true, shows: 'away' })
    const entryId = await series('Rope inspection, fortnightly')
    const { dates, more } = await datesOf(matteo, entryId)
    expect(more).toBe(false)
    expect(dates.map((one) => [one.recurrence.slice(0, 10), one.clash?.title ?? null])).toEqual([
      ['2026-12-03', null],
      ['2026-12-17', 'Choir'],
      ['2026-12-31', null],
      ['2027-01-14', 'Course'],
    ])
  })

  it('leave those out that were left out before it was sent, the first among them', async () => {
    const entryId = await series('Snow pit, fortnightly', {
      excepted: ['2026-12-03T18:00', '2026-12-31T18:00'],
    })
    const dates = (await datesOf(matteo, entryId)).dates.map((one) => one.recurrence.slice(0, 10))
    expect(dates).toEqual(['2026-12-17', '2027-01-14'])
    const [letter] = marmot.letters(matteo.person.address, entryId)
    expect(letter?.calendar).toMatch(/EXDATE[^\n]*20261203T180000[\s\S]*20261231T180000/)
    expect(letter?.text).toContain('Thursday 17 December')
    expect(letter?.text).toContain('not on Thu 3 Dec, Thu 31 Dec')
  })

  it('are told to those who take part, and to nobody else', async () => {
    const entryId = await series('Hut books, fortnightly')
    const tashi = await marmot.as('Tashi Lhendup')
    expect((await tashi.get(`/api/meetings/${entryId}/dates`)).status).toBe(404)
    expect((await datesOf(ilse, entryId)).dates).toHaveLength(4)
  })

  it('are the next 60 of a long one, which says that there are more', async () => {
    const entryId = await series('Station call', { rule: 'FREQ=DAILY;COUNT=70' })
    const { dates, more } = await datesOf(matteo, entryId)
    expect([dates.length, more]).toEqual([60, true])
  })
})
