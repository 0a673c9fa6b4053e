import { addItem, readAgenda, retitleItem } from '@marmot/core/agenda'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { WebsocketProvider } from 'y-websocket'
import * as Y from 'yjs'
import { type Running, startMarmot } from '../app.ts'
import {
  attempt,
  type Client,
  GUEST,
  signInAs,
  startTestMarmot,
  type TestMarmot,
  testSettings,
  until,
  withGuest,
} from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

/** A meeting of Ilse's with Tashi and a guest. */
const aMeetingOf = (more: Record<string, unknown> = {}) =>
  marmot.sendMeeting(ilse, {
    ...withGuest(tashi),
    ...more,
  })

/** Somebody who writes in an agenda, as a browser does it. */
interface Writer {
  readonly document: Y.Doc
  readonly provider: WebsocketProvider
  readonly ended: () => { code: number; words: string } | null
}

const writers: WebsocketProvider[] = []
afterEach(() => {
  for (const provider of writers.splice(0)) provider.destroy()
})

const writerAt = (url: string, path: string, headers: Record<string, string>): Writer => {
  const document = new Y.Doc()
  class Socket extends WebSocket {
    constructor(address: string) {
      super(address, { headers })
    }
  }
  const provider = new WebsocketProvider(`${url.replace('http', 'ws')}${path}/agenda`, 'live', document, {
    disableBc: true,
    WebSocketPolyfill: Socket as never,
    maxBackoffTime: 200,
  })
  let ended: { code: number; words: string } | null = null
  provider.on('connection-close', (event: { code: number; reason: string } | null) => {
    if (event && event.code >= 4000) ended = { code: event.code, words: event.reason }
  })
  writers.push(provider)
  return { document, provider, ended: () => ended }
}
const writer = (who: Client, entryId: string, url = marmot.url) =>
  writerAt(url, `/api/meetings/${entryId}`, { cookie: who.cookie })

const titlesOf = ({ document }: Writer) => readAgenda(document).items.map((one) => one.title)
const comesTo = (who: Writer, titles: string[]) =>
  until(
    () => titlesOf(who),
    (seen) => JSON.stringify(seen) === JSON.stringify(titles),
    20,
  )
const synced = (who: Writer) =>
  until(
    () => who.provider.synced,
    (is) => is,
    20,
  )
const add = (who: Writer, title: string) => addItem(who.document, title, { title, who: '', minutes: null })

describe('an agenda', () => {
  it('is written by several at once, a guest among them, and each sees where the others are', async () => {
    const entryId = await aMeetingOf()
    const [one, two] = [writer(ilse, entryId), writer(tashi, entryId)]
    const guest = writerAt(marmot.url, marmot.linkOf(GUEST, entryId), {})
    await Promise.all([synced(one), synced(two), synced(guest)])
    add(one, 'Drill sites')
    await comesTo(guest, ['Drill sites'])
    retitleItem(one.document, 'Drill sites', 'Drill sites, north')
    retitleItem(guest.document, 'Drill sites', 'Three drill sites')
    await comesTo(two, ['Three drill sites, north'])
    // Whoever claims to be somebody else is known by their own name.
    guest.provider.awareness.setLocalStateField('user', { name: 'Henrike Aasland' })
    await until(
      () => [...two.provider.awareness.getStates().values()].map((state) => state.user?.name),
      (names) => names.includes('Rosa Quispe') && !names.includes('Henrike Aasland'),
      20,
    )
    const read = await tashi.get<{ items: { title: string }[] }>(`/api/meetings/${entryId}/agenda`)
    expect(read.body.items.map((item) => item.title)).toEqual(['Three drill sites, north'])
  })

  it('has both texts after one was offline, and all of them after the database and the server were away', async () => {
    const entryId = await aMeetingOf()
    const [one, two] = [writer(ilse, entryId), writer(tashi, entryId)]
    await Promise.all([synced(one), synced(two)])
    add(one, 'Drill sites')
    await comesTo(two, ['Drill sites'])
    two.provider.disconnect()
    add(two, 'Boxes')
    retitleItem(two.document, 'Drill sites', 'Drill sites, by Tashi')
    retitleItem(one.document, 'Drill sites', 'By Ilse: Drill sites')
    two.provider.connect()
    await comesTo(one, ['By Ilse: Drill sites, by Tashi', 'Boxes'])
    // Every connection to the database is cut in the moment in which something is typed.
    add(one, 'Cut')
    await marmot.pool.query(
      'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
    )
    add(two, 'Off')
    const titles = (from: Writer) => [...titlesOf(from)].sort()
    await until(
      () => [titles(one), titles(two)].map((each) => each.length),
      (counts) => counts.every((count) => count === 4),
      30,
    )
    // A reader of its own, on a server of its own, has what was kept and nothing else.
    const other = await startMarmot(testSettings(marmot.databaseUrl))
    try {
      const late = writer(await signInAs(other.url, 'Tashi Lhendup'), entryId, other.url)
      await until(
        () => titles(late),
        (seen) => JSON.stringify(seen) === JSON.stringify(titles(one)),
        30,
      )
    } finally {
      await other.stop()
    }
  })

  it('is one on two servers, with everybody’s cursor', async () => {
    const entryId = await aMeetingOf()
    const other: Running = await startMarmot(testSettings(marmot.databaseUrl))
    try {
      const there = await signInAs(other.url, 'Tashi Lhendup')
      const [one, two] = [writer(ilse, entryId), writer(there, entryId, other.url)]
      await Promise.all([synced(one), synced(two)])
      two.provider.awareness.setLocalStateField('item', 'Drill sites')
      add(one, 'Drill sites')
      await comesTo(two, ['Drill sites'])
      retitleItem(one.document, 'Drill sites', 'Drill sites, north')
      retitleItem(two.document, 'Drill sites', 'Three drill sites')
      await comesTo(one, ['Three drill sites, north'])
      await comesTo(two, ['Three drill sites, north'])
      await until(
        () => [...one.provider.awareness.getStates().values()].map((state) => state.user?.name),
        (names) => names.includes('Tashi Lhendup'),
        20,
      )
      // What was written comes to rest, and is read by whoever comes then.
      await until(
        () => marmot.pool.query('select 1 from agenda_update'),
        (left) => left.rowCount === 0,
        30,
      )
      const late = writer(ilse, entryId)
      await comesTo(late, ['Three drill sites, north'])
    } finally {
      await other.stop()
    }
  })

  it('goes out with the invitation, and is found in the calendar part', async () => {
    const entryId = await aMeetingOf({
      agenda: [
        { title: 'Drill sites', who: 'Tashi', minutes: 20 },
        { title: 'Boxes', minutes: 10 },
      ],
    })
    const [letter] = marmot.mail.mailboxes.of(GUEST)
    expect(letter?.text).toContain('Agenda:   1. Drill sites, Tashi, 20 min\n          2. Boxes, 10 min')
    expect(letter?.calendar.replace(/\r\n[ \t]/g, '')).toContain(
      'DESCRIPTION:1. Drill sites\\, Tashi\\, 20 min\\n2. Boxes\\, 10 min',
    )
    const read = await marmot.anyone('GET', `${marmot.linkOf(GUEST, entryId)}/agenda`)
    expect(read.body).toMatchObject({ items: [{ title: 'Drill sites' }, { title: 'Boxes' }], notes: '' })
    // What is written later is in the next letter, and is no reason for one.
    const one = writer(ilse, entryId)
    await synced(one)
    add(one, 'Budget')
    await until(
      async () => (await ilse.get(`/api/meetings/${entryId}/agenda`)).text,
      (text) => text.includes('Budget'),
    )
    const before = marmot.letters(GUEST, entryId).length
    const sent = await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, title: 'Cores' })
    expect(sent.status).toBe(200)
    await marmot.quiet()
    expect(marmot.letters(GUEST, entryId)).toHaveLength(before + 1)
    expect(marmot.letters(GUEST, entryId).at(-1)?.text).toContain('3. Budget')
  })

  it('has in it whatever somebody sends, and is kept, read and sent all the same; no cursor trips the others', async () => {
    const entryId = await aMeetingOf()
    const [one, guest] = [writer(ilse, entryId), writerAt(marmot.url, marmot.linkOf(GUEST, entryId), {})]
    await Promise.all([synced(one), synced(guest)])
    add(guest, 'Nul \u0000, half \ud800\nWhy:     a row of its own')
    const paragraph = new Y.XmlElement('paragraph')
    paragraph.insert(0, [new Y.XmlText('and \u0000 in the notes')])
    guest.document.getXmlFragment('notes').insert(0, [paragraph, new Y.XmlElement('script')])
    await until(
      () =>
        marmot.pool.query<{ text: string }>('select text from agenda where text like $1', ['%in the notes']),
      (kept) =>
        kept.rows[0]?.text.startsWith('1. Nul  , half') === true && !kept.rows[0].text.includes('\nWhy'),
      20,
    )
    expect((await ilse.get(`/api/meetings/${entryId}/agenda`)).status).toBe(200)
    const sent = await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, title: 'Cores' })
    expect(sent.status).toBe(200)
    await marmot.quiet()
    expect(marmot.letters(GUEST, entryId).at(-1)?.text).toContain('in the notes')
    // A cursor that is at no place is left out; what is none is refused.
    guest.provider.awareness.setLocalStateField('cursor', { anchor: {}, head: {} })
    guest.provider.awareness.setLocalStateField('item', 'p')
    await until(
      () => [...one.provider.awareness.getStates().values()].find((state) => state.item === 'p'),
      (state) => state !== undefined && state.cursor === null,
      20,
    )
    guest.provider.awareness.setLocalStateField('cursor', { anchor: 5, head: { type: 'x' } })
    expect(await until(guest.ended, (ended) => ended !== null, 20)).toMatchObject({ code: 4400 })
    expect(one.ended()).toBeNull()
  })

  it('takes nothing that is nested so deep that editors stumble over it, and goes on without', async () => {
    const entryId = await aMeetingOf()
    const [one, two] = [writer(ilse, entryId), writer(tashi, entryId)]
    await Promise.all([synced(one), synced(two)])
    add(one, 'Drill sites')
    await comesTo(two, ['Drill sites'])
    let within = two.document.getXmlFragment('notes')
    for (let i = 0; i < 30; i++) {
      const quote = new Y.XmlElement('blockquote')
      within.insert(0, [quote])
      within = quote
    }
    await until(
      () => one.document.getXmlFragment('notes').length,
      (length) => length === 1,
      20,
    )
    two.document.transact(() => {
      for (let i = 0; i < 500; i++) {
        const quote = new Y.XmlElement('blockquote')
        within.insert(0, [quote])
        within = quote
      }
    })
    expect(await until(two.ended, (ended) => ended !== null, 20)).toMatchObject({ code: 4400 })
    add(one, 'Boxes')
    const late = writer(tashi, entryId)
    await comesTo(late, ['Drill sites', 'Boxes'])
    let depth = 0
    for (let at: unknown = late.document.getXmlFragment('notes'); at instanceof Y.XmlFragment; at = at.get(0))
      depth++
    expect(depth).toBe(31)
  })

  it('of a date is for who takes part in it, and theirs no more once they are let off', async () => {
    const entryId = await aMeetingOf()
    const path = `/api/meetings/${entryId}/agenda/live`
    expect(await attempt(marmot.url, path, {})).toBe(401)
    expect(await attempt(marmot.url, path, { cookie: matteo.cookie })).toBe(404)
    expect(
      await attempt(marmot.url, path, { cookie: tashi.cookie, origin: 'https://elsewhere.example' }),
    ).toBe(403)
    expect(await attempt(marmot.url, path, { cookie: tashi.cookie, origin: marmot.url })).toBe(101)
    expect(await attempt(marmot.url, '/api/meetings/none/agenda/live', { cookie: tashi.cookie })).toBe(404)
    expect(await attempt(marmot.url, '/api/session', { cookie: tashi.cookie })).toBe(404)
    expect(await attempt(marmot.url, `${path}?recurrence=never`, { cookie: tashi.cookie })).toBe(422)
    expect(await attempt(marmot.url, `/api/invitations/${'x'.repeat(40)}/agenda/live`, {})).toBe(404)
    expect((await matteo.get(`/api/meetings/${entryId}/agenda`)).status).toBe(404)
    expect((await tashi.get(path)).status).toBe(426)

    const [one, guest] = [writer(tashi, entryId), writerAt(marmot.url, marmot.linkOf(GUEST, entryId), {})]
    await Promise.all([synced(one), synced(guest)])
    const changed = await ilse.send('POST', `/api/meetings/${entryId}/change`, {
      version: 1,
      people: [],
      guests: [],
    })
    expect(changed.status).toBe(200)
    for (const who of [one, guest])
      expect(await until(who.ended, (ended) => ended !== null, 20)).toMatchObject({ code: 4404 })
  })

  it('goes on while its meeting is moved, and when a date of a series becomes another series', async () => {
    const single = await aMeetingOf()
    const [one, guest] = [writer(tashi, single), writerAt(marmot.url, marmot.linkOf(GUEST, single), {})]
    const series = await aMeetingOf({ series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] } })
    const dated = writer(tashi, series)
    await Promise.all([one, guest, dated].map(synced))
    const change = (id: string, more: Record<string, unknown>) =>
      ilse.send('POST', `/api/meetings/${id}/change`, { version: 1, ...more })
    expect((await change(single, { starts: '2026-12-04T09:00' })).status).toBe(200)
    expect(
      (await change(series, { recurrence: '2026-12-03T14:00', scope: 'all', starts: '2026-12-03T15:00' }))
        .status,
    ).toBe(200)
    for (const who of [one, guest, dated]) add(who, 'Still here')
    await until(
      () => marmot.pool.query("select 1 from agenda where text like '%Still here%'"),
      (kept) => (kept.rowCount ?? 0) >= 2,
      20,
    )
    expect([one, guest, dated].map((who) => who.ended())).toEqual([null, null, null])
  })

  it('of a cancelled series is for those whose dates they were', async () => {
    const entryId = await aMeetingOf({
      series: { rule: 'FREQ=WEEKLY;COUNT=2', changes: [] },
      agenda: [{ title: 'Of the first date' }],
    })
    const off = await ilse.send('POST', `/api/meetings/${entryId}/change`, {
      version: 1,
      recurrence: '2026-12-03T14:00',
      scope: 'this',
      people: [],
    })
    expect(off.status).toBe(200)
    expect((await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})).status).toBe(200)
    const read = await tashi.get(`/api/meetings/${entryId}/agenda`)
    expect([read.status, read.text.includes('Of the first date')]).toEqual([200, false])
    expect((await tashi.get(`/api/meetings/${entryId}/agenda?recurrence=2026-12-03T14:00`)).status).toBe(404)
    const hers = await ilse.get(`/api/meetings/${entryId}/agenda?recurrence=2026-12-03T14:00`)
    expect(hers.text).toContain('Of the first date')
  })

  it('is closed with the session', async () => {
    const entryId = await aMeetingOf()
    const again = await marmot.as('Tashi Lhendup')
    const one = writer(again, entryId)
    await synced(one)
    await again.send('DELETE', '/api/session')
    expect(await until(one.ended, (ended) => ended !== null, 20)).toMatchObject({ code: 4401 })
  })

  it('takes no document of 10 MB and nothing that is none, says so, and stays as it was', async () => {
    const entryId = await aMeetingOf()
    const [one, two] = [writer(ilse, entryId), writer(tashi, entryId)]
    await Promise.all([synced(one), synced(two)])
    add(one, 'Drill sites')
    await comesTo(two, ['Drill sites'])
    // 50 kB at a time, until it is full.
    for (let i = 0; i < 6 && !two.ended(); i++) {
      two.document.getText('notes-of-another-kind').insert(0, 'x'.repeat(50_000))
      await new Promise((resolve) => setImmediate(resolve))
    }
    expect(await until(two.ended, (ended) => ended !== null, 20)).toMatchObject({ code: 4413 })
    const path = `${marmot.url.replace('http', 'ws')}/api/meetings/${entryId}/agenda/live`
    const closed = (bytes: Uint8Array) =>
      new Promise<number>((resolve) => {
        const socket = new WebSocket(path, { headers: { cookie: tashi.cookie } })
        socket.on('open', () => socket.send(bytes))
        socket.on('close', resolve)
        socket.on('error', () => undefined)
      })
    expect(await closed(new Uint8Array(10 * 1024 * 1024))).toBe(1009)
    expect(await closed(new Uint8Array([0, 2, 200, 255, 255, 1, 3, 9]))).toBe(4400)
    expect(await closed(new Uint8Array([77]))).toBe(4400)
    expect(await closed(new Uint8Array([1, 255, 255, 255]))).toBe(4400)
    add(one, 'Boxes')
    const late = writer(tashi, entryId)
    await comesTo(late, ['Drill sites', 'Boxes'])
    const kept = await marmot.pool.query<{ bytes: number }>(
      'select sum(length(document))::int as bytes from agenda_update',
    )
    expect(kept.rows[0]?.bytes ?? 0).toBeLessThan(150_000)
  })
})
