import { SCOPES } from '@marmot/core/entries'
import { dayFromCivil, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { aMeeting } from '../testing/meeting.ts'
import { endFor, fieldsOf, readTime, timeFields, wantedOf } from './wanted.ts'

const ZONE = zoneTable('Europe/Vienna')
const TODAY = dayFromCivil(2026, 11, 23) ?? 0

describe('what of a meeting is to be otherwise', () => {
  it('is nothing while the fields say what is there', () => {
    const one = aMeeting()
    const fields = fieldsOf(one, ZONE)
    expect(fields).toMatchObject({ day: '3 Dec', from: '14:00', until: '15:00', note: '<p>With ropes</p>' })
    expect(fields.members.map((each) => each.name)).toEqual(['Tashi', 'Noor'])
    expect(wantedOf(one, fields, 'this', ZONE, TODAY)).toBeNull()
  })

  it('is only what differs, its time on the clock of the meeting’s own zone', () => {
    const one = aMeeting()
    const fields = fieldsOf(one, ZONE)
    expect(wantedOf(one, { ...fields, title: ' Icefall watch ' }, 'this', ZONE, TODAY)).toEqual({
      version: 3,
      title: 'Icefall watch',
    })
    // Ten in Innsbruck is a quarter to three in the afternoon in Kathmandu.
    expect(wantedOf(one, { ...fields, from: '10:00', until: '45m' }, 'this', ZONE, TODAY)).toEqual({
      version: 3,
      starts: '2026-12-03T14:45',
      minutes: 45,
    })
    expect(wantedOf(one, { ...fields, places: [] }, 'this', ZONE, TODAY)).toEqual({ version: 3, places: [] })
    const said = { ...fields, purpose: ' Sorting ', headCount: 3, takesTime: false }
    expect(wantedOf(one, said, 'this', ZONE, TODAY)).toEqual({
      version: 3,
      purpose: 'Sorting',
      headCount: 3,
      shows: 'listed',
    })
  })

  it('names people and guests together, as they are to be', () => {
    const one = aMeeting()
    const fields = fieldsOf(one, ZONE)
    const [tashi] = fields.members
    if (!tashi) throw new Error('nobody')
    const members = [{ ...tashi, required: false }]
    expect(wantedOf(one, { ...fields, members }, 'this', ZONE, TODAY)).toEqual({
      version: 3,
      people: [{ id: tashi.personId, required: false }],
      guests: [],
    })
    // In another order they are the same.
    expect(
      wantedOf(one, { ...fields, members: [...fields.members].reverse() }, 'this', ZONE, TODAY),
    ).toBeNull()
  })

  it('of a series says for which date, and whether for all', () => {
    const one = aMeeting({ repeats: true, recurrence: '2026-12-03T18:45' })
    const fields = { ...fieldsOf(one, ZONE), note: '<p>Without ropes</p>' }
    for (const scope of SCOPES)
      expect(wantedOf(one, fields, scope, ZONE, TODAY)).toEqual({
        version: 3,
        note: '<p>Without ropes</p>',
        recurrence: '2026-12-03T18:45',
        scope,
      })
  })
})

describe('the time in the fields', () => {
  const fields = fieldsOf(aMeeting(), ZONE)

  it('is read near the day that was meant, however far from the meeting', () => {
    const start = Date.parse('2027-09-30T08:00:00Z')
    const far = { ...fields, ...timeFields(start, start + 3_600_000, ZONE) }
    expect(readTime(far, ZONE, TODAY)).toMatchObject({ start, end: start + 3_600_000, errors: {} })
  })

  it('keeps its length when it begins at another clock, also past midnight', () => {
    expect(endFor(fields, '16:30', 60)).toBe('17:30')
    expect(endFor(fields, '23:30', 60)).toBe('00:30')
    expect(endFor({ until: '90m' }, '16:30', 90)).toBe('90m')
    expect(endFor(fields, 'noonish', 60)).toBe('15:00')
  })
})
