import { request } from 'node:http'
import type { Conversation } from '@marmot/contract/conversation'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, GUEST, startTestMarmot, type TestMarmot, until, withGuest } from '../testing/marmot.ts'

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

const aMeetingOf = (more: Record<string, unknown> = {}) =>
  marmot.sendMeeting(ilse, {
    ...withGuest(tashi),
    ...more,
  })
const linkOf = (entryId: string) => marmot.linkOf(GUEST, entryId)

const say = (who: Client, entryId: string, text: string, more: Record<string, unknown> = {}) =>
  who.send<{ messageId: string }>('POST', `/api/meetings/${entryId}/conversation`, { text, ...more })
const heardBy = async (who: Client, entryId: string, query = '') =>
  (await who.get<Conversation>(`/api/meetings/${entryId}/conversation${query}`)).body
const textsIn = (conversation: Conversation) => conversation.messages.map((one) => one.text)

/** Listens to the stream at an address until it is stopped; gives what came so far. */
const listen = async (path: string, cookie = '') => {
  const stop = new AbortController()
  const stream = await fetch(`${marmot.url}${path}`, { headers: { cookie }, signal: stop.signal })
  let heard = ''
  let over = false
  const reading = (async () => {
    for await (const part of stream.body ?? []) heard += Buffer.from(part).toString('utf8')
  })()
    .catch(() => undefined)
    .finally(() => {
      over = true
    })
  return {
    status: stream.status,
    heard: () => heard,
    over: () => over,
    stop: async () => {
      stop.abort()
      await reading
    },
  }
}

describe('what is said about a meeting', () => {
  it('is heard live by those who take part, guests too, and by nobody else', async () => {
    const entryId = await aMeetingOf()
    const link = linkOf(entryId)
    const [guest, colleague, stranger] = [
      await listen(`${link}/events`),
      await listen('/api/events', tashi.cookie),
      await listen('/api/events', matteo.cookie),
    ]
    const said = await say(ilse, entryId, 'Shall we bring the long core?')
    expect(said.status).toBe(200)
    for (const one of [guest, colleague])
      await until(one.heard, (heard) => heard.includes(`"kind":"conversation","entryId":"${entryId}"`))
    expect(guest.heard()).not.toContain(ilse.person.id)
    // A reservation anywhere is nothing for a guest.
    await ilse.send('POST', '/api/entries', {
      title: 'A marker',
      starts: '2026-12-09T14:00',
      minutes: 60,
      zone: 'Europe/Vienna',
    })
    const answered = await marmot.anyone('POST', `${link}/conversation`, { text: 'The short one, please.' })
    expect(answered.status).toBe(200)
    const all = await heardBy(tashi, entryId)
    expect(all.messages.map(({ who, text, mine }) => [who, text, mine])).toEqual([
      ['Ilse Brandacher', 'Shall we bring the long core?', false],
      ['Rosa Quispe', 'The short one, please.', false],
    ])
    expect(all.unread).toBe(2)
    const theirs = await marmot.anyone<Conversation>('GET', `${link}/conversation`)
    expect(theirs.body.messages.map((one) => one.mine)).toEqual([false, true])
    expect(guest.heard()).not.toContain('"kind":"time"')
    expect(stranger.heard()).not.toContain('"kind":"conversation"')
    expect((await matteo.get(`/api/meetings/${entryId}/conversation`)).status).toBe(404)
    expect((await say(matteo, entryId, 'Hello')).status).toBe(404)
    await tashi.send('POST', `/api/meetings/${entryId}/conversation/read`)
    expect((await heardBy(tashi, entryId)).unread).toBe(0)
    for (const one of [guest, colleague, stranger]) await one.stop()
  })

  it('makes a notice for whoever is meant by name, and for nobody else', async () => {
    const entryId = await aMeetingOf({ title: 'Drill plan' })
    const noticed = async (who: Client) =>
      (
        await who.get<{ notices: { kind: string; entryId: string; who: string }[] }>('/api/now')
      ).body.notices.filter((one) => one.kind === 'meant' && one.entryId === entryId)
    await say(ilse, entryId, 'Nobody in particular, not even someone@tashi lhendup')
    expect(await noticed(tashi)).toEqual([])
    await say(ilse, entryId, 'What do you think, @tashi lhendup? And @Ilse Brandacher?')
    expect(await noticed(tashi)).toMatchObject([{ who: 'Ilse Brandacher' }])
    expect(await noticed(ilse)).toEqual([])
    await marmot.anyone('POST', `${linkOf(entryId)}/conversation`, {
      text: '@Ilse Brandacher, I come by train',
    })
    expect(await noticed(ilse)).toMatchObject([{ who: 'Rosa Quispe' }])
  })

  it('is said once however often it is sent, taken out and put back by its speaker alone', async () => {
    const entryId = await aMeetingOf()
    const headers = { 'idempotency-key': 'the same' }
    const path = `/api/meetings/${entryId}/conversation`
    const first = await tashi.send<{ messageId: string }>('POST', path, { text: 'Once' }, headers)
    await tashi.send('POST', path, { text: 'Once' }, headers)
    expect(textsIn(await heardBy(ilse, entryId))).toEqual(['Once'])
    const { messageId } = first.body
    expect((await ilse.send('DELETE', `/api/messages/${messageId}`)).status).toBe(404)
    expect((await matteo.send('DELETE', `/api/messages/${messageId}`)).status).toBe(404)
    expect((await tashi.send('DELETE', `/api/messages/${messageId}`)).status).toBe(200)
    expect(textsIn(await heardBy(ilse, entryId))).toEqual([])
    await tashi.send('POST', `/api/messages/${messageId}/restore`)
    expect(textsIn(await heardBy(ilse, entryId))).toEqual(['Once'])
    const link = linkOf(entryId)
    const guest = await marmot.anyone<{ messageId: string }>('POST', `${link}/conversation`, { text: 'Mine' })
    expect((await marmot.anyone('DELETE', `${link}/messages/${messageId}`)).status).toBe(404)
    expect((await marmot.anyone('DELETE', `${link}/messages/${guest.body.messageId}`)).status).toBe(200)
    expect(textsIn(await heardBy(ilse, entryId))).toEqual(['Once'])
  })

  it('of a series is for those who take part in the date at which it was said', async () => {
    const entryId = await aMeetingOf({
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
      guests: [],
    })
    const dates = ['2026-12-03T14:00', '2026-12-10T14:00', '2026-12-17T14:00']
    // Matteo is asked to the second date alone, and Tashi let off it.
    const changed = await ilse.send('POST', `/api/meetings/${entryId}/change`, {
      version: 1,
      recurrence: dates[1],
      scope: 'this',
      people: [{ id: matteo.person.id, required: true }],
    })
    expect(changed.status).toBe(200)
    for (const recurrence of dates) await say(ilse, entryId, `About ${recurrence}`, { recurrence })
    const at = (...which: number[]) => which.map((i) => `About ${dates[i]}`)
    expect(textsIn(await heardBy(ilse, entryId))).toEqual(at(0, 1, 2))
    expect(textsIn(await heardBy(tashi, entryId))).toEqual(at(0, 2))
    const his = await heardBy(matteo, entryId)
    expect(textsIn(his)).toEqual(at(1))
    // Who takes part in one date does not learn of others.
    expect(his.messages[0]?.recurrence).toBeNull()
    expect((await matteo.get(`/api/meetings/${entryId}/conversation?recurrence=${dates[0]}`)).status).toBe(
      404,
    )
    expect((await say(matteo, entryId, 'There', { recurrence: dates[2] })).status).toBe(404)
    const file = await ilse.upload<{ id: string }>(
      `/api/meetings/${entryId}/files?name=plan.txt&recurrence=${dates[0]}`,
      Buffer.from('a plan'),
    )
    expect((await tashi.get(`/api/attachments/${file.body.id}`)).text).toBe('a plan')
    expect((await matteo.get(`/api/attachments/${file.body.id}`)).status).toBe(404)
    // What was said at a date goes with it, also into a series of its own.
    const split = await ilse.send<{ entryId: string }>('POST', `/api/meetings/${entryId}/change`, {
      version: 2,
      recurrence: dates[1],
      scope: 'following',
      minutes: 30,
    })
    expect(textsIn(await heardBy(ilse, entryId))).toEqual(at(0))
    expect(textsIn(await heardBy(ilse, split.body.entryId))).toEqual(at(1, 2))
  })

  it('has files with it that guests add and read by their link, as far as they are of the meeting', async () => {
    const entryId = await aMeetingOf()
    const other = await aMeetingOf({ title: 'Another' })
    const link = linkOf(entryId)
    const add = async (path: string, name: string, content: string) => {
      const answer = await fetch(`${marmot.url}${path}?name=${name}`, { method: 'POST', body: content })
      return { status: answer.status, id: ((await answer.json()) as { id: string }).id }
    }
    const mine = await add(`${link}/files`, 'route.txt', 'by train')
    expect(mine.status).toBe(200)
    const said = await marmot.anyone('POST', `${link}/conversation`, { text: '', files: [mine.id] })
    expect(said.status).toBe(200)
    const read = await heardBy(tashi, entryId)
    expect(read.messages).toMatchObject([{ text: '', files: [mine.id] }])
    expect(read.files).toMatchObject([{ name: 'route.txt', who: 'Rosa Quispe', mayRemove: false }])
    expect((await tashi.get(`/api/attachments/${mine.id}`)).text).toBe('by train')
    const theirs = await ilse.upload<{ id: string }>(
      `/api/meetings/${other}/files?name=plan.txt`,
      Buffer.from('x'),
    )
    expect((await marmot.anyone('GET', `${link}/files/${mine.id}`)).text).toBe('by train')
    expect((await marmot.anyone('GET', `${link}/files/${theirs.body.id}`)).status).toBe(404)
    // A file of another meeting is not said here, nor one that is none of what may be attached.
    await say(tashi, entryId, 'look', { files: [theirs.body.id] })
    expect((await heardBy(tashi, entryId)).messages.at(-1)).toMatchObject({ text: 'look', files: [] })
    expect((await add(`${link}/files`, 'run.html', '<script>')).status).toBe(422)
    // Whoever added it takes it off, and the organizer; nobody else does.
    expect((await tashi.send('DELETE', `/api/attachments/${mine.id}`)).status).toBe(403)
    expect((await ilse.send('DELETE', `/api/attachments/${mine.id}`)).status).toBe(200)
    expect((await tashi.get(`/api/attachments/${mine.id}`)).status).toBe(404)
    expect((await ilse.send('POST', `/api/attachments/${mine.id}/restore`)).status).toBe(200)
    expect((await heardBy(tashi, entryId)).files).toHaveLength(1)
  })

  it('is listened to by so many at once with one link, and no more', async () => {
    const entryId = await aMeetingOf()
    const path = `${linkOf(entryId)}/events`
    const first = await listen(path)
    await until(first.heard, (heard) => heard.includes('ready'))
    const more = []
    for (let i = 0; i < 30; i++) more.push(await listen(path))
    await until(first.over, (over) => over)
    expect(more.at(-1)?.over()).toBe(false)
    for (const one of more) await one.stop()
  })

  it('is asked who sends a file before any of it is read, where anybody could', async () => {
    const path = `/api/invitations/${'x'.repeat(40)}/files?name=large.zip`
    const status = await new Promise<number | undefined>((resolve, reject) => {
      const sending = request(`${marmot.url}${path}`, {
        method: 'POST',
        headers: { 'content-length': 9 * 1024 * 1024 },
      })
      sending.on('response', (answer) => {
        resolve(answer.statusCode)
        sending.destroy()
      })
      sending.on('error', reject)
      // Of what was announced nothing comes.
      sending.flushHeaders()
    })
    expect(status).toBe(404)
  })

  it('ends for whoever is let off: no word, no file, no event more', async () => {
    const entryId = await aMeetingOf()
    const link = linkOf(entryId)
    const guest = await listen(`${link}/events`)
    expect(guest.status).toBe(200)
    await say(ilse, entryId, 'Before')
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, people: [], guests: [] })
    const before = guest.heard()
    await say(ilse, entryId, 'After')
    expect((await marmot.anyone('GET', `${link}/conversation`)).status).toBe(404)
    expect((await tashi.get(`/api/meetings/${entryId}/conversation`)).status).toBe(404)
    expect((await marmot.anyone('GET', `${link}/events`)).status).toBe(404)
    expect(guest.heard()).toBe(before)
    await guest.stop()
  })

  it('goes on when the meeting is cancelled, for those who were to come', async () => {
    const entryId = await aMeetingOf({ agenda: [{ title: 'Drill sites' }] })
    await say(ilse, entryId, 'Bring boots')
    const cancelled = await ilse.send('POST', `/api/meetings/${entryId}/cancel`, { reason: 'Snow' })
    expect(cancelled.status).toBe(200)
    expect((await say(tashi, entryId, 'A pity!')).status).toBe(200)
    expect(textsIn(await heardBy(ilse, entryId))).toEqual(['Bring boots', 'A pity!'])
    expect((await tashi.get(`/api/meetings/${entryId}/agenda`)).text).toContain('Drill sites')
    expect((await matteo.get(`/api/meetings/${entryId}/conversation`)).status).toBe(404)
  })

  it('says in plain words what cannot be said', async () => {
    const entryId = await aMeetingOf()
    expect((await say(ilse, entryId, '   ')).status).toBe(422)
    expect((await say(ilse, entryId, 'x'.repeat(4001))).status).toBe(422)
    expect((await say(ilse, entryId, 'nul \u0000')).status).toBe(422)
    await marmot.pool.query(
      `insert into message (occurrence_id, person_id, text, at)
       select o.id, $2, 'again', now() + interval '1 year' from occurrence o, generate_series(1, 120) where o.entry_id = $1`,
      [entryId, ilse.person.id],
    )
    expect((await say(ilse, entryId, 'one more')).status).toBe(429)
    const all = await heardBy(tashi, entryId)
    expect([all.messages.length, all.more]).toEqual([60, true])
    const older = await heardBy(tashi, entryId, `?before=${all.messages[0]?.at}`)
    expect(older.messages.every((one) => one.at < (all.messages[0]?.at ?? ''))).toBe(true)
  })
})
