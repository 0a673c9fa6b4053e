import { randomUUID } from 'node:crypto'
import type { LayerSet } from '@marmot/contract/layers'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let aroha: Client
let declan: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  aroha = await marmot.as('Aroha Pene')
  declan = await marmot.as('Declan Furey')
})
afterAll(() => marmot.stop())

const sets = async (who: Client) => (await who.get<{ sets: LayerSet[] }>('/api/layers')).body.sets
const layer = (id: string, more = {}) => ({ kind: 'person', id, tone: 2, shown: true, ...more })
const put = (who: Client, id: string, name: string, layers: readonly unknown[]) =>
  who.send<LayerSet>('PUT', `/api/layers/${id}`, { name, layers })

describe('a set of layers', () => {
  const id = randomUUID()

  it('is kept as it was ordered, coloured and hidden, and is the same however often it is sent', async () => {
    const layers = [
      layer(declan.person.id, { shown: false, tone: 7 }),
      layer(randomUUID(), { kind: 'place' }),
      layer(randomUUID(), { kind: 'feed' }),
    ]
    for (const _ of [1, 2])
      expect((await put(aroha, id, 'Stations', layers)).body).toEqual({ id, name: 'Stations', layers })
    expect(await sets(aroha)).toEqual([{ id, name: 'Stations', layers }])
  })

  it('comes first when it was used last', async () => {
    const other = randomUUID()
    await put(aroha, other, 'Radar', [])
    expect((await sets(aroha)).map((set) => set.name)).toEqual(['Radar', 'Stations'])
    await put(aroha, id, 'All stations', [layer(declan.person.id)])
    expect((await sets(aroha)).map((set) => set.name)).toEqual(['All stations', 'Radar'])
    expect((await aroha.send('DELETE', `/api/layers/${other}`)).status).toBe(200)
    expect((await sets(aroha)).map((set) => set.name)).toEqual(['All stations'])
  })

  it('is nobody else’s to see, change or delete', async () => {
    expect(await sets(declan)).not.toContainEqual(expect.objectContaining({ id }))
    const changed = await put(declan, id, 'Mine now', [])
    expect([changed.status, problemOf(changed).code]).toEqual([404, 'not-found'])
    expect((await declan.send('DELETE', `/api/layers/${id}`)).status).toBe(404)
    expect((await sets(aroha))[0]?.name).toBe('All stations')
  })

  it.each([
    ['a layer of no kind', [layer(randomUUID(), { kind: 'moon' })], /^layers\.0\.kind$/],
    ['a colour there is not', [layer(randomUUID(), { tone: 10 })], /^layers\.0\.tone$/],
    ['more layers than can be looked at', Array.from({ length: 61 }, () => layer(randomUUID())), /^layers$/],
  ])('with %s is refused by its field, and the set stays', async (_, layers, path) => {
    const refused = await put(aroha, id, 'Broken', layers)
    expect(refused.status).toBe(422)
    expect(problemOf(refused).fields?.[0]?.path).toMatch(path)
    expect((await sets(aroha))[0]?.name).toBe('All stations')
  })
})
