import { randomUUID } from 'node:crypto'
import type { PersonTime } from '@marmot/contract/availability'
import { emptyBrief } from '@marmot/contract/briefs'
import type { ReservationOnWire } from '@marmot/contract/resources'
import { dayFromCivil } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, startTestMarmot, TEST_START, type TestMarmot } from '../testing/marmot.ts'
import { prepareSearch } from './search.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let henrike: Client
let serac: string
/** A meeting of the director's that repeats, with Tashi in it and a room; Ilse stands in for her. */
let entryId: string
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  henrike = await marmot.as('Henrike Aasland')
  serac = await marmot.placeId('Serac')
  const made = await henrike.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      title: 'Moraine to be moved',
      people: [{ id: tashi.person.id, required: true }],
      places: [serac],
      starts: '2027-02-02T19:00',
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
    }),
  )
  entryId = made.body.entryId
})
afterAll(() => marmot.stop())

const [FROM, TO] = ['2027-02-01T00:00:00Z', '2027-02-22T00:00:00Z']
const DATE = '2027-02-09T19:00'
const ITS_STARTS = ['2027-02-02T18:00:00.000Z', '2027-02-09T18:00:00.000Z', '2027-02-16T18:00:00.000Z']

type ApartGiven = { entryId: string; recurrence: string | null } | undefined

/** The meeting's starts that still stand on Tashi's lane, and on the room's, for whoever asks. */
const standing = async (asker: Client, apart: ApartGiven) => {
  const time = await asker.send<{ people: PersonTime[] }>('POST', '/api/availability', {
    people: [tashi.person.id],
    from: FROM,
    to: TO,
    ...(apart ? { apart } : {}),
  })
  const query = new URLSearchParams({
    from: FROM,
    to: TO,
    places: serac,
    ...(apart ? { apart: apart.entryId } : {}),
    ...(apart?.recurrence ? { apartDate: apart.recurrence } : {}),
  })
  const taken = await asker.get<{ reservations: ReservationOnWire[] }>(`/api/reservations?${query}`)
  const its = (starts: readonly string[]) => starts.filter((start) => ITS_STARTS.includes(start))
  return {
    tashi: its(time.body.people[0]?.spans.map((span) => span.start) ?? []),
    serac: its(taken.body.reservations.map((one) => one.start)),
  }
}

const both = (starts: readonly string[]) => ({ tashi: starts, serac: starts })
const others = ITS_STARTS.filter((start) => start !== '2027-02-09T18:00:00.000Z')

describe('a meeting that is to be changed', () => {
  it('stands in nobody’s way for its organizer and their stand-in: all of it, or one date', async () => {
    for (const asker of [henrike, ilse]) {
      expect(await standing(asker, undefined)).toEqual(both(ITS_STARTS))
      expect(await standing(asker, { entryId, recurrence: null })).toEqual(both([]))
      expect(await standing(asker, { entryId, recurrence: DATE })).toEqual(both(others))
    }
  })

  it('stands as it did for everybody else, and so does what is no meeting at all', async () => {
    const matteo = await marmot.as('Matteo Ruprechter')
    expect(await standing(matteo, { entryId, recurrence: null })).toEqual(both(ITS_STARTS))
    expect(await standing(tashi, { entryId, recurrence: DATE })).toEqual(both(ITS_STARTS))
    expect(await standing(ilse, { entryId: randomUUID(), recurrence: null })).toEqual(both(ITS_STARTS))
  })

  it('stands in no search’s way either', async () => {
    const busyIn = async (asker: Client, meeting: ApartGiven, hold: string | null = null) => {
      const brief = {
        ...emptyBrief(dayFromCivil(2027, 2, 2) ?? 0, asker.person.id),
        people: [{ id: tashi.person.id, required: true, group: null }],
        places: [serac],
        hold,
        meeting: meeting
          ? { ...meeting, version: 1, organizerId: henrike.person.id, title: '', start: 0, minutes: 60 }
          : null,
      }
      const { search } = await prepareSearch(marmot.pool, { id: asker.person.id }, brief, TEST_START)
      const its = (spans: readonly { start: number }[] | undefined) =>
        (spans ?? []).filter((span) => ITS_STARTS.includes(new Date(span.start).toISOString())).length
      const place = search.places?.all.find((one) => one.id === serac)
      return [its(search.people[0]?.time.spans), its(place?.time.spans)]
    }
    expect(await busyIn(ilse, undefined)).toEqual([3, 3])
    expect(await busyIn(ilse, { entryId, recurrence: null })).toEqual([0, 0])
    expect(await busyIn(ilse, { entryId, recurrence: DATE })).toEqual([2, 2])
    // Nor is somebody else's meeting passed over because it is called one's hold.
    expect(await busyIn(tashi, { entryId, recurrence: null })).toEqual([3, 3])
    expect(await busyIn(tashi, undefined, entryId)).toEqual([3, 3])
  })
})
