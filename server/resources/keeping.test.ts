import type { KeptPlace, PlacesLooked, Trained } from '@marmot/contract/place-list'
import type { Resource } from '@marmot/contract/resources'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let tashi: Client
let site: string
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  tashi = await marmot.as('Tashi Lhendup')
  site = ilse.person.siteId
})
afterAll(() => marmot.stop())

const kept = async (who: Client) =>
  (await who.get<{ places: KeptPlace[] }>('/api/resources/kept')).body.places
const placeOf = async (who: Client, name: string): Promise<KeptPlace> => {
  const found = (await kept(who)).find((one) => one.name === name)
  if (!found) throw new Error(`no ${name}`)
  return found
}
const seen = async (name: string) =>
  (await tashi.get<{ resources: Resource[] }>('/api/resources')).body.resources.find(
    (one) => one.name === name,
  )
const add = (who: Client, name: string, more: Record<string, unknown> = {}) =>
  who.send<{ id: string }>('POST', '/api/resources', { name, kind: 'room', siteId: site, seats: 4, ...more })
const look = (who: Client, list: string | Buffer) =>
  who.upload<PlacesLooked>('/api/resources/list/look', Buffer.from(list))
const take = (who: Client, list: string | Buffer, plan: string) =>
  who.upload<{ made: number; changed: number }>(`/api/resources/list?plan=${plan}`, Buffer.from(list))

/** One pixel. */
const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==',
  'base64',
)

describe('the list of places', () => {
  it('is added to, changed and handed on by those who look after places, and by nobody else', async () => {
    expect(problemOf(await add(tashi, 'Tor')).code).toBe('no-steward')
    const { body } = await add(ilse, 'Tor', { features: { screens: 2 } })
    expect(await seen('Tor')).toMatchObject({
      id: body.id,
      seats: 4,
      steward: 'Ilse Brandacher',
      site: 'Innsbruck',
    })
    expect(problemOf(await add(ilse, 'Tor')).code).toBe('name-taken')
    const put = (who: Client, more: Record<string, unknown>) =>
      who.send('PUT', `/api/resources/${body.id}`, { name: 'Tor', kind: 'room', siteId: site, ...more })
    expect((await put(matteo, { version: 1 })).status).toBe(404)
    expect((await put(ilse, { version: 1, seats: 6, about: 'By the stairs.' })).status).toBe(200)
    expect(await seen('Tor')).toMatchObject({ seats: 6, about: 'By the stairs.', features: {} })
    expect(problemOf(await put(ilse, { version: 1, seats: 9 })).code).toBe('stale')
    expect(problemOf(await put(ilse, { version: 2, name: 'Serac' })).code).toBe('name-taken')
    expect(problemOf(await put(ilse, { version: 2, seats: -1 })).code).toBe('invalid')
    expect((await put(ilse, { version: 2, stewardId: matteo.person.id })).status).toBe(200)
    expect((await kept(ilse)).some((one) => one.name === 'Tor')).toBe(false)
    expect((await placeOf(matteo, 'Tor')).steward).toBe('Matteo Ruprechter')
  })

  it('takes a place out of use once nothing is reserved of it; it cannot be had then, and comes back', async () => {
    const { id } = (await add(ilse, 'Kar')).body
    const retire = (retired: boolean) => ilse.send('PUT', `/api/resources/${id}/retired`, { retired })
    const take = () => marmot.askForPlace(ilse, 'Kar', '2027-05-20T09:00', { title: 'Quartz' })
    const { entryId } = (await take()).body
    const refused = await retire(true)
    expect(problemOf(refused).code).toBe('still-reserved')
    expect(problemOf(refused).detail).toContain('Kar has 1 reservation to come.')
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    expect((await retire(true)).status).toBe(200)
    expect(await seen('Kar')).toBeUndefined()
    expect((await placeOf(ilse, 'Kar')).retired).toBe(true)
    expect(problemOf(await take()).code).toBe('retired')
    expect((await retire(false)).status).toBe(200)
    expect((await take()).status).toBe(200)
  })

  it('keeps a picture, and nothing that is none, has a script in it, or is too large', async () => {
    const { id } = (await add(ilse, 'Cairn')).body
    const path = `/api/resources/${id}/picture`
    const codes = []
    for (const bytes of [
      Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'),
      Buffer.from('no picture'),
      Buffer.alloc(0),
      Buffer.from('GIF89a, which not every browser is sure of'),
      Buffer.concat([PNG, Buffer.alloc(50 * 1024 * 1024)]),
    ])
      codes.push(problemOf(await ilse.upload(path, bytes)).code)
    expect(codes).toEqual(['bad-picture', 'bad-picture', 'bad-picture', 'bad-picture', 'too-large'])
    expect((await matteo.upload(path, PNG)).status).toBe(404)
    expect((await tashi.get(path)).status).toBe(404)
    const { body } = await ilse.upload<{ picture: string }>(path, PNG)
    expect((await seen('Cairn'))?.picture).toBe(body.picture)
    const read = await tashi.get(path)
    expect([read.headers.get('content-type'), read.headers.get('content-security-policy')]).toEqual([
      'image/png',
      "default-src 'none'; sandbox",
    ])
    expect((await ilse.send('DELETE', path)).status).toBe(200)
    expect((await seen('Cairn'))?.picture).toBeNull()
  })

  it('keeps who was trained until when; it counts from then on', async () => {
    const lab = await marmot.placeId('Cold lab −20')
    const path = `/api/resources/${lab}/trained`
    const mayNot = async () => (await seen('Cold lab −20'))?.mayNot
    expect((await ilse.get(path)).status).toBe(404)
    expect(await mayNot()).toBe('not-trained')
    expect((await matteo.send('PUT', `${path}/${tashi.person.id}`, { until: '2027-06-30' })).status).toBe(200)
    expect(await mayNot()).toBeNull()
    await matteo.send('PUT', `${path}/${tashi.person.id}`, { until: '2026-01-31' })
    expect(await mayNot()).toBe('training-over')
    const listed = await matteo.get<{ trained: Trained[] }>(path)
    expect(listed.body.trained.find((one) => one.name === 'Tashi Lhendup')).toMatchObject({
      until: '2026-01-31',
      over: true,
    })
    expect((await matteo.send('PUT', `${path}/${lab}`, { until: null })).status).toBe(404)
    await matteo.send('DELETE', `${path}/${tashi.person.id}`)
    expect(await mayNot()).toBe('not-trained')
  })
})

describe('a list of places as CSV', () => {
  it('goes out and comes back the same; taken twice, it changes nothing', async () => {
    await add(ilse, '=Sum; "Hall"', {
      about: '+two\nlines',
      features: { camera: 1, screens: 2 },
      floor: '-1',
    })
    const out = await ilse.get('/api/resources/kept.csv')
    expect(out.text).toContain(`"'=Sum; ""Hall"""`)
    const same = await look(ilse, out.text)
    expect([...new Set(same.body.lines.map((line) => line.does))]).toEqual(['same'])
    const list =
      'name;kind;site;seats;features\nSnow pit;Rooms;Innsbruck;3;2 screens, camera\nSerac;room;Innsbruck;9;\n'
    const first = await look(ilse, list)
    expect(first.body.lines.map((line) => [line.does, line.words])).toEqual([
      ['made', ''],
      ['changed', 'seats 8, now 9; features camera; 2 screens; step-free, now nothing'],
    ])
    expect(await seen('Snow pit')).toBeUndefined()
    expect((await take(ilse, list, first.body.plan)).body).toEqual({ made: 1, changed: 1 })
    expect(await seen('Snow pit')).toMatchObject({
      seats: 3,
      features: { screens: 2, camera: 1 },
      mayNot: null,
    })
    // What was looked at is not what it would do now.
    expect(problemOf(await take(ilse, list, first.body.plan)).code).toBe('list-changed')
    const again = await look(ilse, list)
    expect(again.body.lines.map((line) => line.does)).toEqual(['same', 'same'])
    expect((await take(ilse, list, again.body.plan)).body).toEqual({ made: 0, changed: 0 })
  })

  it('is read in whatever it is encoded', async () => {
    const list = 'name,kind,site\nGrödner Stüberl,room,Innsbruck\n'
    const utf16 = Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(list, 'utf16le')])
    for (const bytes of [Buffer.from(`\uFEFF${list}`), utf16, Buffer.from(list, 'latin1')])
      expect((await look(ilse, bytes)).body.lines).toMatchObject([{ name: 'Grödner Stüberl', does: 'made' }])
  })

  it('says what is wrong, and changes nothing then', async () => {
    const trouble = async (list: string | Buffer) => problemOf(await look(ilse, list)).detail
    expect(await trouble('name,place\nTor,Innsbruck\n')).toContain(
      'The list has no column “kind” and “site”. Its first line has “name”, “place”.',
    )
    expect(await trouble('')).toContain('no column')
    expect(await trouble('name,kind,site\n')).toContain('names no place')
    expect(await trouble(PNG)).toContain('Nothing was changed.')
    expect(problemOf(await look(ilse, Buffer.alloc(3 * 1024 * 1024, 'a'))).code).toBe('too-large')
    expect(await trouble(`name,kind,site\n${'Tor,room,Innsbruck\n'.repeat(5001)}`)).toContain(
      '5000 places at most',
    )
    expect(problemOf(await look(tashi, 'name,kind,site\nTor,room,Innsbruck\n')).code).toBe('no-steward')
    const list = 'name,kind,site\nBlockfield,room,Innsbruck\nBlockfield,room,Innsbruck\nEsker,room,Dunedin\n'
    const { body } = await look(ilse, list)
    expect(body.lines.map((line) => [line.does, line.words])).toEqual([
      ['made', ''],
      ['refused', 'is in the list twice: line 2 has it, too'],
      ['refused', 'is looked after by somebody else'],
    ])
    expect(problemOf(await take(ilse, list, body.plan)).code).toBe('bad-list')
    expect(await seen('Blockfield')).toBeUndefined()
  })
})
