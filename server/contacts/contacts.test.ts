import { randomUUID } from 'node:crypto'
import type { Arranged, CardsDone, Contact } from '@marmot/contract/contacts'
import { readCards } from '@marmot/core/contacts'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let catalina: Client
let aroha: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  catalina = await marmot.as('Catalina Reyes')
  aroha = await marmot.as('Aroha Pene')
})
afterAll(() => marmot.stop())

const all = async (who: Client) => (await who.get<{ contacts: Contact[] }>('/api/contacts')).body.contacts
const named = async (who: Client, name: string) => (await all(who)).find((one) => one.name === name)
const make = async (who: Client, more: Record<string, unknown> = {}): Promise<Contact> => {
  const made = await who.send<Contact>('POST', '/api/contacts', { name: 'Rosa Lind', ...more })
  if (made.status !== 200) throw new Error(made.text)
  return made.body
}
const put = (who: Client, one: Contact, more: Record<string, unknown> = {}) =>
  who.send<Contact>('PUT', `/api/contacts/${one.id}`, { ...one, ...more })
const arrangedWith = async (who: Client, id: string) =>
  (await who.get<{ arranged: Arranged[] }>(`/api/contacts/${id}`)).body.arranged

describe('a contact', () => {
  it('is made by itself of whoever is invited, once, and has everything that was arranged with them', async () => {
    const guests = [{ address: 'noor@lodestar.example', name: 'Noor Haddad', required: true }]
    const meetings = ['2026-12-08T10:00', '2026-12-09T10:00'].map((starts, i) =>
      aMeeting({ title: `Radar ${i + 1}`, starts, guests, places: [] }),
    )
    for (const meeting of meetings) await catalina.send('POST', '/api/meetings', meeting)
    const noor = await named(catalina, 'Noor Haddad')
    expect(noor).toMatchObject({ madeBy: 'invitation', addresses: ['noor@lodestar.example'] })
    expect(
      (await all(catalina)).filter((one) => one.addresses.includes('noor@lodestar.example')),
    ).toHaveLength(1)
    expect(noor?.lastAt).toMatch(/^2026-12-09/)
    expect((await arrangedWith(catalina, noor?.id ?? '')).map((one) => [one.kind, one.title])).toEqual([
      ['meeting', 'Radar 2'],
      ['meeting', 'Radar 1'],
    ])
    // It is hers: a colleague who takes part in nothing has no such contact, and sees nothing of it.
    expect(await named(aroha, 'Noor Haddad')).toBeUndefined()
    expect((await aroha.get(`/api/contacts/${noor?.id}`)).status).toBe(404)
  })

  it('is made once of those whom several meetings invite in the same moment, in whatever order', async () => {
    const guests = ['ada', 'bela', 'cleo'].map((name) => ({
      address: `${name}@tarn.example`,
      name,
      required: true,
    }))
    const sent = await Promise.all(
      Array.from({ length: 6 }, (_, i) =>
        catalina.send('POST', '/api/meetings', {
          ...aMeeting({ title: `At once ${i}`, starts: `2026-12-1${i}T10:00`, places: [] }),
          guests: i % 2 ? guests : guests.toReversed(),
        }),
      ),
    )
    expect(sent.map((one) => one.status)).toEqual(Array(6).fill(200))
    await Promise.all([all(catalina), all(catalina)])
    const made = (await all(catalina)).filter((one) =>
      one.addresses.some((each) => each.endsWith('@tarn.example')),
    )
    expect(made.map((one) => one.name).sort()).toEqual(['ada', 'bela', 'cleo'])
  })

  it('is made by hand once, changed by its version, deleted, and brought back with its addresses', async () => {
    const key = randomUUID()
    const body = {
      name: 'Rosa Lind',
      addresses: ['rosa@lodestar.example', 'r@home.example'],
      telephone: '+43 1',
    }
    const first = await catalina.send<Contact>('POST', '/api/contacts', body, { 'idempotency-key': key })
    expect(
      (await catalina.send<Contact>('POST', '/api/contacts', body, { 'idempotency-key': key })).body,
    ).toEqual(first.body)
    const rosa = first.body
    expect(rosa).toMatchObject({ addresses: body.addresses, madeBy: 'hand', version: 1 })
    const changed = (await put(catalina, rosa, { addresses: ['r@home.example'], zone: 'Europe/Vienna' })).body
    expect(changed).toMatchObject({ addresses: ['r@home.example'], zone: 'Europe/Vienna', version: 2 })
    const stale = await put(catalina, rosa, { name: 'Rosi' })
    expect([stale.status, problemOf(stale).code]).toEqual([409, 'stale'])

    await catalina.send('DELETE', `/api/contacts/${rosa.id}`)
    expect(await named(catalina, 'Rosa Lind')).toBeUndefined()
    // Its address is free meanwhile; who comes back finds it taken.
    const other = await make(catalina, { name: 'Roswitha', addresses: ['r@home.example'] })
    const back = await catalina.send<Contact>('POST', `/api/contacts/${rosa.id}/restore`)
    expect(back.body).toMatchObject({ name: 'Rosa Lind', addresses: [] })
    await catalina.send('DELETE', `/api/contacts/${other.id}`)
  })

  it('is found by name, organisation, notes and address, by whose it is', async () => {
    const one = await make(catalina, {
      name: 'Zdeňka Horáková',
      organisation: 'Glacier Optics',
      addresses: ['zdenka@optics.example'],
      note: 'Brings the theodolite',
    })
    const found = async (who: Client, q: string) =>
      (
        await who.get<{ contacts: { id: string }[] }>(`/api/search?q=${encodeURIComponent(q)}`)
      ).body.contacts.map((each) => each.id)
    for (const q of ['zden', 'horak opt', 'theodo', 'optics exam'])
      expect(await found(catalina, q)).toEqual([one.id])
    expect(await found(aroha, 'zden')).toEqual([])
  })

  it.each([
    [{ name: ' ' }, 'invalid', 'name'],
    [{ zone: 'Mars/Base' }, 'unknown-zone', 'zone'],
    [{ addresses: ['matteo.ruprechter@corrie.example'] }, 'is-a-colleague', 'addresses'],
    [{ addresses: ['a@x.example', 'A@x.example'] }, 'twice', 'addresses'],
    [{ addresses: Array.from({ length: 11 }, (_, i) => `a${i}@x.example`) }, 'invalid', 'addresses'],
    [{ freeBusy: 'javascript:alert(1)' }, 'invalid', 'freeBusy'],
  ])('%j is refused, and the field named', async (more, code, field) => {
    const refused = await catalina.send('POST', '/api/contacts', { name: 'Rosa', ...more })
    expect([refused.status, problemOf(refused).code]).toEqual([422, code])
    expect(problemOf(refused).fields?.map((one) => one.path.split('.')[0])).toContain(field)
  })

  it('has an address that no other of the same person has; of two at once one is refused', async () => {
    const body = { addresses: ['twin@x.example'] }
    const both = await Promise.all(
      ['One', 'Two'].map((name) => aroha.send('POST', '/api/contacts', { ...body, name })),
    )
    expect(both.map((one) => one.status === 200).sort()).toEqual([false, true])
    const third = await aroha.send('POST', '/api/contacts', { ...body, name: 'Three' })
    expect(problemOf(third).code).toBe('address-taken')
    expect((await catalina.send('POST', '/api/contacts', { ...body, name: 'Hers' })).status).toBe(200)
  })

  it('is whom an entry or a to-do is about, and has them on its page', async () => {
    const mira = await make(catalina, { name: 'Mira Solberg' })
    const entry = await catalina.send<{ entryId: string }>('POST', '/api/entries', {
      title: 'Read Mira’s report',
      starts: '2026-12-10T06:00',
      minutes: 30,
      zone: 'America/Santiago',
    })
    const todo = await catalina.send<{ id: string }>('POST', '/api/todos', {
      title: 'Send Mira the maps',
      zone: 'America/Santiago',
    })
    const about = (who: Client, kind: 'entry' | 'todo', id: string, is: boolean) =>
      who.send('PUT', `/api/contacts/${mira.id}/about`, { kind, id, about: is })
    for (const [kind, id] of [
      ['entry', entry.body.entryId],
      ['todo', todo.body.id],
    ] as const) {
      expect((await about(catalina, kind, id, true)).status).toBe(200)
      expect((await about(catalina, kind, id, true)).status).toBe(200)
      expect((await about(aroha, kind, id, true)).status).toBe(404)
    }
    expect((await arrangedWith(catalina, mira.id)).map((one) => [one.kind, one.title])).toEqual([
      ['todo', 'Send Mira the maps'],
      ['entry', 'Read Mira’s report'],
    ])
    const whom = (who: Client) =>
      who.get<{ contacts: { name: string }[] }>(`/api/contacts/about?kind=todo&id=${todo.body.id}`)
    expect((await whom(catalina)).body.contacts.map((one) => one.name)).toEqual(['Mira Solberg'])
    expect((await whom(aroha)).body.contacts).toEqual([])
    await about(catalina, 'todo', todo.body.id, false)
    expect((await arrangedWith(catalina, mira.id)).map((one) => one.kind)).toEqual(['entry'])
    const theirs = await aroha.send<{ id: string }>('POST', '/api/todos', { title: 'Mine', zone: 'UTC' })
    expect((await about(catalina, 'todo', theirs.body.id, true)).status).toBe(404)
  })
})

describe('contacts in a file', () => {
  const card = (...lines: string[]) => ['BEGIN:VCARD', 'VERSION:4.0', ...lines, 'END:VCARD', ''].join('\r\n')
  const send = async (text: string, take: 'yes' | 'no') => {
    const answer = await aroha.upload<CardsDone>(`/api/contacts/file?take=${take}`, Buffer.from(text))
    if (answer.status !== 200) throw new Error(answer.text)
    return answer.body
  }

  it('are looked at, taken in, and taken in again without change; they go out as they came', async () => {
    const text =
      card('UID:i', 'FN:Ines Faro', 'EMAIL:ines@faro.example', 'ORG:Faro Ropes', 'TZ:Europe/Vienna') +
      card('FN:Matteo', 'EMAIL:matteo.ruprechter@corrie.example')
    expect(await send(text, 'no')).toMatchObject({ made: 1, changed: 0, same: 0 })
    expect(await named(aroha, 'Ines Faro')).toBeUndefined()
    const taken = await send(text, 'yes')
    expect(taken.refused).toEqual([
      { line: 0, title: 'Matteo', reason: 'It has the address of Matteo Ruprechter, who works here.' },
    ])
    expect(await named(aroha, 'Ines Faro')).toMatchObject({ madeBy: 'file', organisation: 'Faro Ropes' })
    expect(await send(text, 'yes')).toMatchObject({ made: 0, changed: 0, same: 1 })

    const out = (await aroha.get('/api/contacts/file')).text
    expect(readCards(out).cards.find((one) => one.name === 'Ines Faro')).toMatchObject({
      uid: 'i',
      addresses: ['ines@faro.example'],
      zone: 'Europe/Vienna',
    })
    expect(await send(out, 'yes')).toMatchObject({ made: 0, changed: 0, refused: [] })

    const changed = text.replace('Faro Ropes', 'Faro Ropes and Nets')
    expect(await send(changed, 'yes')).toMatchObject({ changed: 1 })
    expect(await named(aroha, 'Ines Faro')).toMatchObject({ organisation: 'Faro Ropes and Nets' })
  })

  it('are brought back by undo only where the file was not taken again meanwhile', async () => {
    const text = card('UID:again', 'FN:Ada Tarn')
    await send(text, 'yes')
    const first = await named(aroha, 'Ada Tarn')
    await aroha.send('DELETE', `/api/contacts/${first?.id}`)
    await send(text, 'yes')
    const back = await aroha.send('POST', `/api/contacts/${first?.id}/restore`)
    expect([back.status, problemOf(back).code]).toEqual([409, 'there-again'])
  })

  it('are known by their address where the file calls them otherwise', async () => {
    const known = await make(aroha, { name: 'Kofi Mensah', addresses: ['kofi@sea.example'] })
    const text = card('UID:other', 'FN:Kofi A. Mensah', 'EMAIL:kofi@sea.example', 'TEL:+1 709')
    expect(await send(text, 'yes')).toMatchObject({ made: 0, changed: 1 })
    expect(await named(aroha, 'Kofi A. Mensah')).toMatchObject({ id: known.id, telephone: '+1 709' })
  })

  it('that are none are refused, and nothing is taken', async () => {
    const answer = await aroha.upload('/api/contacts/file?take=yes', Buffer.from('name,address\nRosa,rosa'))
    expect([answer.status, problemOf(answer).code]).toEqual([422, 'no-contacts'])
    const photo = card(
      'FN:Photo',
      'EMAIL:p@x.example',
      `PHOTO:data:image/png;base64,${'A'.repeat(5_000_000)}`,
    )
    expect(await send(photo, 'no')).toMatchObject({ made: 1, refused: [] })
  })
})
