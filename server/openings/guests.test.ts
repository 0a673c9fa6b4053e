import { emptyBrief } from '@marmot/contract/briefs'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { startPartnerStandIn } from '../../standins/partner/server.ts'
import { type Client, startTestMarmot, TEST_START, type TestMarmot } from '../testing/marmot.ts'
import { prepareSearch } from './search.ts'

const GUEST = 'noor.haddad@lodestar.example'

let marmot: TestMarmot
let partner: Awaited<ReturnType<typeof startPartnerStandIn>>
beforeAll(async () => {
  partner = await startPartnerStandIn({ port: 0, now: () => TEST_START })
  marmot = await startTestMarmot({ feedHosts: new Set([`localhost:${partner.port}`]) })
})
afterAll(async () => {
  await marmot.stop()
  await partner.stop()
})

it('a guest whose free/busy one reads counts in one’s search, and is unknown in that of others', async () => {
  const ilse = await marmot.as('Ilse Brandacher')
  const tashi = await marmot.as('Tashi Lhendup')
  await ilse.send('PUT', `/api/feeds/read/${crypto.randomUUID()}`, {
    name: 'Lodestar',
    address: `http://localhost:${partner.port}/free-busy.ics`,
    whose: 'guest',
    guest: GUEST,
  })
  const lane = async (who: Client) => {
    const brief = {
      ...emptyBrief(Math.floor(TEST_START / 86_400_000), who.person.id),
      guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    }
    const { search } = await prepareSearch(marmot.pool, { id: who.person.id }, brief, TEST_START)
    return search.people.at(-1)?.time
  }
  const known = await lane(ilse)
  expect([known?.known, (known?.spans.length ?? 0) > 5]).toEqual([true, true])
  expect((await lane(tashi))?.known).toBe(false)
})
