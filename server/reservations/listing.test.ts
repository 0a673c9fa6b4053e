import type { ListedReservation } from '@marmot/contract/reservations'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const RANGE = 'from=2027-04-01T00:00:00Z&to=2027-05-01T00:00:00Z'
interface Listed {
  reservations: ListedReservation[]
  total: number
  caresFor: number
}
const list = async (who: Client, query = '') =>
  (await who.get<Listed>(`/api/reservations/list?${RANGE}${query}`)).body

describe('the list of reservations', () => {
  it('has mine with all of their words, by pages, sorted and grouped', async () => {
    const mine = async (starts: string, place: string, title: string, purpose: string) =>
      marmot.reserve(tashi, place, starts, { title, purpose })
    const firstId = await mine('2027-04-06T18:30', 'Serac', 'Quernstone', 'Sorting')
    await mine('2027-04-07T18:30', 'Col', 'Adze', 'Talks')
    await mine('2027-04-08T18:30', 'Serac', 'Mattock', 'Sorting')
    const all = await list(tashi)
    expect(all).toMatchObject({ total: 3, caresFor: 0 })
    expect(all.reservations.map((one) => [one.place, one.title, one.mine])).toEqual([
      ['Serac', 'Quernstone', true],
      ['Col', 'Adze', true],
      ['Serac', 'Mattock', true],
    ])
    expect(all.reservations[0]).toMatchObject({
      entryId: firstId,
      recurrence: '2027-04-06T18:30',
      repeats: false,
    })
    const byTitle = await list(tashi, '&sort=title&down=true')
    expect(byTitle.reservations.map((one) => one.title)).toEqual(['Quernstone', 'Mattock', 'Adze'])
    const paged = await list(tashi, '&first=1&many=1')
    expect([paged.total, paged.reservations.map((one) => one.title)]).toEqual([3, ['Adze']])
    const grouped = await list(tashi, '&group=purpose&sort=start&down=true')
    expect(grouped.reservations.map((one) => [one.purpose, one.inGroup, one.title])).toEqual([
      ['Sorting', 2, 'Mattock'],
      ['Sorting', 2, 'Quernstone'],
      ['Talks', 1, 'Adze'],
    ])
    expect((await list(tashi, '&find=mattock')).total).toBe(1)
    expect((await list(tashi, '&find=%25')).total).toBe(0)
    expect((await list(tashi, '&kind=lab')).total).toBe(0)
  })

  it('tells whoever looks after a place who has it and whom to ask, and what it is called as far as that is shared', async () => {
    await tashi.send('PUT', '/api/sharing', {
      to: 'organisation',
      id: null,
      sees: 'nothing',
      does: 'look',
      seesPrivate: false,
    })
    await marmot.reserve(tashi, 'Firn', '2027-04-12T18:30', {
      title: 'Yatagan',
      note: '<p>Kukri</p>',
      purpose: 'Packing',
      headCount: 4,
      contact: { name: 'Tashi', address: '', telephone: '+977 1' },
    })
    const answer = await ilse.get<Listed>(`/api/reservations/list?whose=cared&${RANGE}&find=packing`)
    expect(answer.body.caresFor).toBeGreaterThan(6)
    expect(answer.body.reservations).toMatchObject([
      {
        by: 'Tashi Lhendup',
        title: '',
        purpose: 'Packing',
        headCount: 4,
        contact: { telephone: '+977 1' },
        mine: false,
        entryId: null,
      },
    ])
    expect(answer.text).not.toMatch(/Yatagan|Kukri/)
    // By what may not be read nothing is found.
    expect((await list(ilse, '&whose=cared&find=yatagan')).total).toBe(0)
    // Of places that somebody else looks after nothing is listed, nor of others' where one looks after none.
    expect((await list(matteo, '&whose=cared&find=packing')).total).toBe(0)
    expect((await list(tashi, '&whose=cared')).total).toBe(0)
  })

  it('goes out as CSV that no spreadsheet takes for a formula', async () => {
    await marmot.reserve(matteo, 'Moraine', '2027-04-14T18:30', {
      title: '=1+1',
      purpose: 'Says "two", or so',
    })
    const csv = await matteo.get(`/api/reservations/list.csv?${RANGE}`)
    expect(csv.text.startsWith('Start,End,Place,Kind,Site,Reserved by,What for,Purpose')).toBe(true)
    expect(csv.text).toContain(
      `2027-04-14T16:30:00.000Z,2027-04-14T17:30:00.000Z,Moraine,room,Innsbruck,Matteo Ruprechter,'=1+1,"Says ""two"", or so"`,
    )
  })

  it('is refused in words', async () => {
    const get = (query: string) => ilse.get(`/api/reservations/list?${query}`)
    expect(problemOf(await get('from=2027-05-01T00:00:00Z&to=2027-04-01T00:00:00Z')).code).toBe('empty-range')
    for (const query of ['&many=100000', '&first=-1', '&sort=password', '&whose=everybody'])
      expect([(await get(RANGE + query)).status, query]).toEqual([422, query])
  })
})
