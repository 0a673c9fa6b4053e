import { DAY, HOUR, toWall, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { addressOf, generate } from './generate.ts'

const NOW = Date.UTC(2026, 10, 23, 8)
const demo = generate(NOW)
const person = (name: string) => demo.people.find((one) => one.name === name)
const titled = (title: string) => demo.entries.find((entry) => entry.title === title)

describe('the demo', () => {
  it('is the same for the same day, and another for another', () => {
    expect(generate(NOW)).toEqual(demo)
    const later = generate(NOW + 7 * DAY)
    expect(later.entries[0]?.starts).not.toBe(demo.entries[0]?.starts)
  })

  it('has the people, sites and teams of the scenario, each with an address of their own', () => {
    expect(demo.people).toHaveLength(60)
    expect(new Set(demo.people.map((one) => one.address)).size).toBe(60)
    expect(demo.people.every((one) => /^[a-z.]+@corrie\.example$/.test(one.address))).toBe(true)
    expect(demo.people.filter((one) => one.leading).map((one) => one.name)[0]).toBe('Ilse Brandacher')
    expect(new Set(demo.people.map((one) => one.zone)).size).toBe(6)
    expect(demo.people.filter((one) => one.shares === 'nothing')).toHaveLength(2)
    expect(addressOf('Ødger Lund')).toBe('odger.lund@corrie.example')
  })

  it('has invitations that wait for Ilse and replies that she waits for', () => {
    const ilse = person('Ilse Brandacher')?.id
    const waiting = demo.entries.filter((entry) =>
      entry.participants.some((one) => one.personId === ilse && one.answer === 'needs-action'),
    )
    expect(waiting.length).toBeGreaterThanOrEqual(3)
    const outstanding = demo.entries.filter(
      (entry) => entry.ownerId === ilse && entry.participants.some((one) => one.answer === 'needs-action'),
    )
    expect(outstanding.length).toBeGreaterThanOrEqual(2)
    expect(titled('Visit of Lodestar Instruments')?.participants.some((one) => one.guest)).toBe(true)
  })

  it('has meetings that are talked about before they begin, and one for which another time is proposed', () => {
    const safety = titled('Winter field safety')
    const [date] = safety?.occurrences ?? []
    const asked = safety?.participants.map((one) => one.personId) ?? []
    expect(safety?.agenda.reduce((sum, item) => sum + (item.minutes ?? 0), 0)).toBeLessThanOrEqual(60)
    expect(safety?.said.length).toBeGreaterThan(1)
    expect(safety?.said.every((one) => one.at < NOW && asked.includes(one.personId))).toBe(true)
    expect(safety?.proposed?.start).toBeGreaterThan(date?.end ?? 0)
    expect(safety?.participants.map((one) => one.id)).toContain(safety?.proposed?.participantId)
  })

  it('reaches eight weeks back and sixteen ahead, with somebody away for two weeks', () => {
    const starts = demo.entries.flatMap((entry) => entry.occurrences.map((date) => date.start))
    expect(starts.reduce((least, start) => Math.min(least, start))).toBeLessThan(NOW - 55 * DAY)
    expect(starts.reduce((most, start) => Math.max(most, start))).toBeGreaterThan(NOW + 100 * DAY)
    expect(demo.entries.some((entry) => entry.shows === 'away' && entry.minutes === 14 * 1440)).toBe(true)
    expect(new Set(demo.entries.map((entry) => entry.shows))).toEqual(
      new Set(['busy', 'tentative', 'held', 'away', 'listed']),
    )
  })

  it('keeps its series on the same clock through the change of clocks in March', () => {
    const zone = zoneTable('Europe/Vienna')
    const dates = titled('Heads of teams')?.occurrences ?? []
    expect(new Set(dates.map((date) => (toWall(zone, date.start) % DAY) / HOUR))).toEqual(new Set([10]))
  })

  it('takes no place twice, turnaround counted', () => {
    for (const place of demo.places) {
      const taken = demo.reservations
        .filter((one) => one.resourceId === place.id)
        .sort((a, b) => a.start - b.start)
      const clash = taken.find((one, i) => {
        const before = taken[i - 1]
        return before !== undefined && before.end + (place.turnaround ?? 0) * 60_000 > one.start
      })
      expect([place.name, clash]).toEqual([place.name, undefined])
    }
  })

  it('has the equipment in counted units, a desk plan, and a room in repair', () => {
    const count = (name: string) => demo.places.filter((place) => place.name.startsWith(name)).length
    expect([
      count('Thermal drone'),
      count('Core drill'),
      count('GNSS receiver'),
      count('Snow-radar sledge'),
      count('Field van'),
      count('Loft'),
    ]).toEqual([4, 3, 6, 2, 1, 24])
    const shut = demo.closures[0]
    expect(demo.places.find((place) => place.id === shut?.resourceId)?.name).toBe('Icefall')
    expect(shut && shut.start < NOW && shut.end > NOW).toBe(true)
  })
})
