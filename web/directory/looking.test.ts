import { describe, expect, it } from 'vitest'
import { type Listed, lookedFor } from './looking.ts'

const person = (name: string, role: string, siteId: string, teams: string[] = []): Listed => ({
  id: name,
  name,
  role,
  zone: 'Europe/Vienna',
  siteId,
  teams,
})
const kaspar = person('Kaspar Thöni', 'Mechanic', 'innsbruck', ['Workshop'])
const tashi = person('Tashi Lhendup', 'Station lead', 'kathmandu')
const wanjiru = person('Wanjiru Kamande', 'Gauges, field safety', 'nairobi', ['Workshop'])
const everybody = [kaspar, tashi, wanjiru]
const find = (more: Partial<Parameters<typeof lookedFor>[1]>) =>
  lookedFor(everybody, { words: '', team: '', siteId: '', ...more }).map((one) => one.name)

describe('whom one looks for', () => {
  it('is found by the beginnings of their words, with accents or without, by what they do as well', () => {
    expect(find({ words: 'thoni' })).toEqual(['Kaspar Thöni'])
    expect(find({ words: 'THÖ kas' })).toEqual(['Kaspar Thöni'])
    expect(find({ words: 'safety wan' })).toEqual(['Wanjiru Kamande'])
    expect(find({ words: 'hendup' })).toEqual([])
  })

  it('is of the team and the site that are chosen, and everybody where nothing is', () => {
    expect(find({})).toHaveLength(3)
    expect(find({ team: 'Workshop' })).toEqual(['Kaspar Thöni', 'Wanjiru Kamande'])
    expect(find({ team: 'Workshop', siteId: 'nairobi', words: 'gau' })).toEqual(['Wanjiru Kamande'])
  })
})
