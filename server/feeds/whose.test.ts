import type { PersonTime } from '@marmot/contract/availability'
import type { Feed } from '@marmot/contract/feeds'
import type { LayerSet } from '@marmot/contract/layers'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startPartnerStandIn } from '../../standins/partner/server.ts'
import { type Client, problemOf, startTestMarmot, TEST_START, type TestMarmot } from '../testing/marmot.ts'

const GUEST = 'noor.haddad@lodestar.example'
const [FROM, TO] = ['2026-11-24T00:00:00Z', '2026-11-25T00:00:00Z']

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let partner: Awaited<ReturnType<typeof startPartnerStandIn>>
beforeAll(async () => {
  partner = await startPartnerStandIn({ port: 0, now: () => TEST_START })
  marmot = await startTestMarmot({ feedHosts: new Set([`localhost:${partner.port}`]) })
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(async () => {
  await marmot.stop()
  await partner.stop()
})

const read = (who: Client, id: string, more: Record<string, unknown> = {}) =>
  who.send<Feed>('PUT', `/api/feeds/read/${id}`, {
    name: 'Lodestar',
    address: `http://localhost:${partner.port}/free-busy.ics`,
    ...more,
  })
interface Seen {
  people: PersonTime[]
  guests: { address: string; spans: { start: string; title?: string }[]; unknown: { start: string }[] }[]
}
interface Entries {
  elsewhere: { start: string; end: string; state: string; title: string }[]
}
interface Dates {
  dates: { recurrence: string; clash: { title: string; state: string } | null }[]
}
const timeOf = async (who: Client, of: Client, guests: string[] = [], range = { from: FROM, to: TO }) =>
  (await who.send<Seen>('POST', '/api/availability', { people: [of.person.id], guests, ...range })).body
const layers = async (who: Client) =>
  (await who.get<{ sets: LayerSet[] }>('/api/layers')).body.sets[0]?.layers ?? []

describe('a feed that is added', () => {
  it('lies beside one’s own time at once, and is laid there once', async () => {
    const id = crypto.randomUUID()
    const before = await layers(ilse)
    expect((await read(ilse, id)).body).toMatchObject({ whose: 'nobody', trouble: null })
    await read(ilse, id, { name: 'Lodestar, renamed' })
    expect(await layers(ilse)).toEqual([
      ...before,
      expect.objectContaining({ kind: 'feed', id, shown: true }),
    ])
    // Two that are added in the same moment are both there.
    const two = [crypto.randomUUID(), crypto.randomUUID()]
    await Promise.all(two.map((one) => read(ilse, one)))
    expect((await layers(ilse)).map((one) => one.id)).toEqual(expect.arrayContaining(two))
    // Whoever had none has a set now.
    const other = crypto.randomUUID()
    const wanjiru = await marmot.as('Wanjiru Kamande')
    await read(wanjiru, other)
    expect((await layers(wanjiru)).map((one) => one.id)).toContain(other)
  })

  it('of my own time takes it for everybody who asks, and tells nobody what it is', async () => {
    const at = '2026-11-24T0'
    const takenBefore = (await timeOf(tashi, ilse)).people[0]?.spans.length ?? 0
    const id = crypto.randomUUID()
    await read(ilse, id, { address: `http://localhost:${partner.port}/open-days.ics`, whose: 'mine' })
    const [seen] = (await timeOf(tashi, ilse)).people
    const added = seen?.spans.filter((span) => span.start === `${at}8:00:00.000Z`)
    expect(seen?.spans.length).toBe(takenBefore + 1)
    expect(added).toContainEqual({
      start: `${at}8:00:00.000Z`,
      end: '2026-11-24T10:00:00.000Z',
      state: 'busy',
    })
    expect(JSON.stringify(seen)).not.toContain('Calibration')
    await ilse.send('DELETE', `/api/feeds/read/${id}`)
    expect((await timeOf(tashi, ilse)).people[0]?.spans.length).toBe(takenBefore)
  })

  it('of my own time stands on my own lane and collides with what I am invited to; a stand-in sees when, not what', async () => {
    const henrike = await marmot.as('Henrike Aasland')
    const entriesOf = async (who: Client, of: Client) =>
      (await who.get<Entries>(`/api/entries?from=${FROM}&to=${TO}&of=${of.person.id}`)).body.elsewhere
    expect(await entriesOf(henrike, henrike)).toEqual([])
    const open = `http://localhost:${partner.port}/open-days.ics`
    await read(henrike, crypto.randomUUID(), { address: open, whose: 'mine' })
    const span = { start: '2026-11-24T08:00:00.000Z', end: '2026-11-24T10:00:00.000Z', state: 'busy' }
    const [mine] = await entriesOf(henrike, henrike)
    expect(mine).toEqual({ ...span, title: expect.stringMatching(/Calibration/) })
    expect(await entriesOf(ilse, henrike)).toEqual([{ ...span, title: '' }])

    const entryId = await marmot.sendMeeting(tashi, {
      title: 'Rope inspection, daily',
      people: [{ id: henrike.person.id, required: true }],
      starts: '2026-11-23T09:00',
      minutes: 15,
      zone: 'Europe/Vienna',
      series: { rule: 'FREQ=DAILY;COUNT=3', changes: [] },
    })
    const { dates } = (await henrike.get<Dates>(`/api/meetings/${entryId}/dates`)).body
    expect(dates.find((date) => date.recurrence.startsWith('2026-11-24'))?.clash).toEqual({
      title: mine?.title,
      state: 'busy',
    })
  })

  it('of a guest makes them known to whoever reads it, and to nobody else', async () => {
    expect((await timeOf(ilse, ilse, [GUEST])).guests).toEqual([])
    await read(ilse, crypto.randomUUID(), { whose: 'guest', guest: ` ${GUEST.toUpperCase()} ` })
    const { guests } = await timeOf(ilse, ilse, [GUEST, 'nobody@lodestar.example'])
    expect(guests.map((one) => one.address)).toEqual([GUEST])
    expect(guests[0]?.spans.length).toBeGreaterThan(0)
    expect((await timeOf(tashi, tashi, [GUEST])).guests).toEqual([])
  })

  it('of a guest is unknown beyond what it is for', async () => {
    const far = { from: '2027-02-01T00:00:00Z', to: '2027-02-02T00:00:00Z' }
    const [guest] = (await timeOf(ilse, ilse, [GUEST], far)).guests
    expect([guest?.spans, guest?.unknown.length]).toEqual([[], 1])
    const never = { from: '2028-06-01T00:00:00Z', to: '2028-06-02T00:00:00Z' }
    expect((await timeOf(ilse, ilse, [GUEST], never)).guests[0]?.unknown.length).toBe(1)
  })

  it('says whose it is with an address, or not at all', async () => {
    for (const more of [
      { whose: 'guest' },
      { whose: 'mine', guest: GUEST },
      { whose: 'guest', guest: 'Noor' },
    ]) {
      const refused = await read(ilse, crypto.randomUUID(), more)
      expect(problemOf(refused)).toMatchObject({ status: 422, fields: [{ path: 'guest' }] })
    }
  })

  it('that cannot be read leaves its guest unknown', async () => {
    const address = 'rosa.quispe@lodestar.example'
    const feed = await read(ilse, crypto.randomUUID(), {
      whose: 'guest',
      guest: address,
      address: `http://localhost:${partner.port}/nothing.ics`,
    })
    expect(feed.body.trouble).toMatch(/404/)
    expect((await timeOf(ilse, ilse, [address])).guests).toEqual([])
  })
})
