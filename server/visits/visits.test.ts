import { randomBytes, randomUUID } from 'node:crypto'
import type { Notice } from '@marmot/contract/notices'
import type { KeptVisitPage, VisitLine } from '@marmot/contract/visit-pages'
import { DAY, dayText, MINUTE } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Running, startMarmot } from '../app.ts'
import {
  type Client,
  problemOf,
  startTestMarmot,
  type TestMarmot,
  testSettings,
  until,
} from '../testing/marmot.ts'
import { cancelDeclined, writeToVisitors } from './reminding.ts'

let marmot: TestMarmot
let other: Running
let tashi: Client
let ilse: Client
let matteo: Client
beforeAll(async () => {
  // Each visitor comes from a place of their own, as a proxy says.
  marmot = await startTestMarmot({ proxy: true })
  const smtpUrl = `smtp://127.0.0.1:${marmot.mail.smtpPort}`
  other = await startMarmot(testSettings(marmot.databaseUrl, { smtpUrl, proxy: true }))
  tashi = await marmot.as('Tashi Lhendup')
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(async () => {
  await other.stop()
  await marmot.stop()
})

const secret = () => randomBytes(32).toString('base64url')
/** A day beyond all that the demo has: a Monday. */
const MONDAY = Date.parse('2027-05-03T00:00:00Z')

interface Page {
  readonly slug: string
  readonly pageId: string
  readonly kindId: string
}
let pages = 0
/** Has somebody make a page with one kind of meeting on it. */
const aPage = async (who: Client, more: Record<string, unknown> = {}): Promise<Page> => {
  const page = { slug: `page-${++pages}`, pageId: randomUUID(), kindId: randomUUID() }
  const put = await who.send('PUT', `/api/visit-pages/${page.pageId}`, {
    slug: page.slug,
    name: who.person.name,
  })
  if (put.status !== 200) throw new Error(put.text)
  const kind = await putKind(who, page, more)
  if (kind.status !== 200) throw new Error(kind.text)
  return page
}
const putKind = (who: Client, page: Page, more: Record<string, unknown> = {}) =>
  who.send('PUT', `/api/visit-pages/${page.pageId}/kinds/${page.kindId}`, {
    slug: 'lab-visit',
    title: 'Lab visit',
    lengths: [60],
    ahead: 366,
    step: 60,
    ...more,
  })

interface Kind {
  readonly starts: number[]
  readonly next: number | null
  readonly zone: string
  readonly kind: { readonly hosts: { readonly host: string; readonly name: string }[] }
}
const look = (page: Page, from: number, days = 1, more = '') =>
  marmot.anyone<Kind>(
    'GET',
    `/api/v/${page.slug}/lab-visit?from=${new Date(from).toISOString()}&days=${days}${more}`,
  )
const starts = async (page: Page, from: number, days = 1, more = '') =>
  (await look(page, from, days, more)).body.starts
const bodyOf = (start: number, more: Record<string, unknown> = {}) => ({
  start: new Date(start).toISOString(),
  minutes: 60,
  name: 'Rosa Quispe',
  address: 'rosa@lodestar.example',
  zone: 'America/Lima',
  guests: [],
  answers: {},
  own: secret(),
  ...more,
})
let clients = 0
const take = (
  page: Page,
  body: ReturnType<typeof bodyOf>,
  url = marmot.url,
  client = `10.0.${++clients >> 8}.${clients & 255}`,
) =>
  fetch(`${url}/api/v/${page.slug}/lab-visit/visits`, {
    method: 'POST',
    headers: {
      'content-type': 'application/json',
      'idempotency-key': randomUUID(),
      'x-forwarded-for': client,
    },
    body: JSON.stringify(body),
  }).then(async (response) => {
    const text = await response.text()
    return { status: response.status, text, body: JSON.parse(text), headers: response.headers }
  })
const entryOf = async (page: Page): Promise<string> => {
  const found = await marmot.pool.query<{ entry_id: string }>(
    'select entry_id from visit where kind_id = $1 order by taken_at desc, id limit 1',
    [page.kindId],
  )
  return found.rows[0]?.entry_id ?? ''
}
const lately = async (who: Client) =>
  (await who.get<{ notices: Notice[] }>('/api/now')).body.notices.map((one) => `${one.who} ${one.kind}`)

describe('a visitor page', () => {
  it('offers what is free, and takes it: both have the same invitation, with the answers in it; the other times close', async () => {
    const page = await aPage(tashi, {
      where: 'mine',
      place: 'Cold room, second floor',
      questions: [{ id: 'q1', kind: 'text', words: 'What will you bring?', required: true, options: [] }],
    })
    const before = await starts(page, MONDAY)
    const chosen = before[2] ?? 0
    expect(problemOf(await take(page, bodyOf(chosen)))).toMatchObject({
      code: 'answers',
      fields: [{ path: 'answers.q1', message: 'is missing' }],
    })
    const body = bodyOf(chosen, {
      answers: { q1: 'Two cores' },
      guests: [{ address: 'kofi@lodestar.example', name: 'Kofi' }],
    })
    const taken = await take(page, body)
    expect(taken.body).toMatchObject({ host: 'Tashi Lhendup', where: 'Cold room, second floor' })
    expect(await starts(page, MONDAY)).toEqual(before.filter((start) => start !== chosen))
    const entryId = await entryOf(page)
    await marmot.quiet()
    for (const address of ['rosa@lodestar.example', 'kofi@lodestar.example']) {
      const [letter, ...more] = marmot.letters(address, entryId)
      expect(more).toEqual([])
      expect(letter?.calendar).toContain('Two cores')
      expect(letter?.where).toBe('Cold room, second floor')
      expect(letter?.calendar).toMatch(/PARTSTAT=ACCEPTED/)
      // On the clock on which the time was chosen.
      expect(letter?.text).toContain('(Lima time, UTC−5)')
    }
    const meeting = await tashi.get<{ note: string; participants: { answer: string }[] }>(
      `/api/meetings/${entryId}`,
    )
    expect(meeting.body.note).toContain('What will you bring? Two cores')
    expect(await lately(tashi)).toContain('Rosa Quispe visit-taken')
    // Their own link, and no other, leads to it.
    const own = await marmot.anyone<{ page: string; moveUntil: string }>('GET', `/api/visits/${body.own}`)
    expect(own.body).toMatchObject({ page: page.slug, host: 'Tashi Lhendup' })
    expect((await marmot.anyone('GET', `/api/visits/${secret()}`)).status).toBe(404)
  })

  it('keeps an hour free around each visit: nobody gets it, and no letter or calendar shows it', async () => {
    const from = MONDAY + 7 * DAY
    const page = await aPage(tashi, { before: 60, after: 60 })
    const before = await starts(page, from)
    const chosen = before[3] ?? 0
    await take(page, bodyOf(chosen))
    const hour = 60 * MINUTE
    expect(await starts(page, from)).toEqual(before.filter((start) => Math.abs(start - chosen) >= 2 * hour))
    // Another kind without gaps may not lie in what is kept free either.
    const short = await aPage(tashi, { lengths: [60] })
    const near = await starts(short, from)
    expect(near).not.toContain(chosen - hour)
    expect(near).not.toContain(chosen + hour)
    const range = `from=${new Date(from).toISOString()}&to=${new Date(from + DAY).toISOString()}`
    const seen = await matteo.timeOf<{
      people: { spans: { start: string; end: string; gap?: boolean }[] }[]
    }>([tashi.person.id], range)
    expect(
      seen.body.people[0]?.spans.map((span) => [Date.parse(span.start) - chosen, span.gap ?? false]),
    ).toEqual([
      [0, false],
      [-hour, true],
      [hour, true],
    ])
    const entryId = await entryOf(page)
    await marmot.quiet()
    const [letter] = marmot.letters('rosa@lodestar.example', entryId)
    expect(letter?.calendar).toMatch(/DTSTART[^:]*:20270510T\d{6}/)
    expect(letter?.calendar.match(/BEGIN:VEVENT/g)).toHaveLength(1)
    const exported = await tashi.get<string>('/api/export')
    expect(exported.text).not.toMatch(/kept free/)
    // Moved by its host, what is kept free goes with it; cancelled, it is gone.
    const meeting = await tashi.get<{ version: number }>(`/api/meetings/${entryId}`)
    await tashi.send('POST', `/api/meetings/${entryId}/change`, {
      version: meeting.body.version,
      starts: new Date(chosen + 4 * hour + 345 * MINUTE).toISOString().slice(0, 16),
      zone: 'Asia/Kathmandu',
    })
    expect(await starts(page, from)).toContain(chosen)
    await tashi.send('POST', `/api/meetings/${entryId}/cancel`, {})
    expect(await starts(page, from)).toEqual(before)
  })

  it('is moved and cancelled by its visitor, within what is allowed; the other side is told once', async () => {
    const from = MONDAY + 14 * DAY
    const page = await aPage(tashi)
    const [first = 0, second = 0] = await starts(page, from)
    const body = bodyOf(first)
    await take(page, body)
    const entryId = await entryOf(page)
    await marmot.quiet()
    // Its own time is in nobody's way while another is looked for.
    expect(await starts(page, from, 1, `&visit=${body.own}`)).toContain(first)
    const moved = await marmot.anyone('POST', `/api/visits/${body.own}/move`, {
      start: new Date(second).toISOString(),
    })
    expect(moved.status).toBe(200)
    await marmot.quiet()
    const letters = marmot.letters('rosa@lodestar.example', entryId)
    expect(letters.map((one) => one.method)).toEqual(['REQUEST', 'REQUEST'])
    expect(letters[1]?.calendar).toMatch(/PARTSTAT=ACCEPTED/)
    expect(await lately(tashi)).toContain('Rosa Quispe visit-moved')
    const busy = bodyOf(first, { address: 'kofi@lodestar.example', name: 'Kofi' })
    await take(page, busy)
    const back = await marmot.anyone('POST', `/api/visits/${body.own}/move`, {
      start: new Date(first).toISOString(),
    })
    expect(problemOf(back).code).toBe('time-taken')
    const gone = await marmot.anyone('POST', `/api/visits/${body.own}/cancel`, { reason: 'Snowed in' })
    expect(gone.status).toBe(200)
    await marmot.quiet()
    const last = marmot.letters('rosa@lodestar.example', entryId).at(-1)
    expect([last?.method, last?.text.includes('Rosa Quispe cancelled it: Snowed in')]).toEqual([
      'CANCEL',
      true,
    ])
    expect((await marmot.anyone('POST', `/api/visits/${body.own}/cancel`, {})).status).toBe(404)

    const strict = await aPage(tashi, { moveBefore: null, cancelBefore: 60_000 })
    const [late = 0] = await starts(strict, Date.parse('2026-12-21T00:00:00Z'))
    const theirs = bodyOf(late)
    await take(strict, theirs)
    const at = { start: new Date(late + 120 * MINUTE).toISOString() }
    expect(problemOf(await marmot.anyone('POST', `/api/visits/${theirs.own}/move`, at)).code).toBe('too-late')
    expect(problemOf(await marmot.anyone('POST', `/api/visits/${theirs.own}/cancel`, {})).code).toBe(
      'too-late',
    )
  })

  it('is cancelled by a no from the mail program', async () => {
    const from = MONDAY + 15 * DAY
    const page = await aPage(tashi)
    const [first = 0] = await starts(page, from)
    await take(page, bodyOf(first))
    const entryId = await entryOf(page)
    await marmot.quiet()
    await marmot.pool.query(
      "update participant set answer = 'declined', answered_at = now() + interval '10 years' where entry_id = $1 and guest_address = 'rosa@lodestar.example'",
      [entryId],
    )
    await cancelDeclined({ pool: marmot.pool, clock: () => Date.parse('2026-11-24T08:00:00Z') })
    expect(await starts(page, from)).toContain(first)
    const list = await tashi.get<{ visits: VisitLine[] }>('/api/visits')
    expect(list.body.visits.find((one) => one.entryId === entryId)?.state).toBe('cancelled')
  })

  it('needs everybody of a panel, each of whom has agreed; a room that is free is had with it', async () => {
    const from = MONDAY + 21 * DAY
    const aRoom = { kind: 'room', siteId: null, least: 1, count: 1, seats: 3, features: {} }
    const page = await aPage(ilse, {
      hosts: [ilse.person.id, matteo.person.id],
      where: 'room',
      need: aRoom,
      after: 30,
      hours: [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 600, to: 720 })),
    })
    // Nothing of Matteo's time is offered before he says so.
    expect(await starts(page, from)).toEqual([])
    expect(await lately(matteo)).toContain('Ilse Brandacher visit-hosting')
    expect((await marmot.anyone<{ kinds: unknown[] }>('GET', `/api/v/${page.slug}`)).body.kinds).toEqual([])
    await matteo.send('POST', `/api/visit-kinds/${page.kindId}/agree`, { agree: true })
    const both = await starts(page, from)
    expect(both).toHaveLength(2)
    await marmot.sendMeeting(matteo, { title: 'Saw', starts: '2027-05-24T10:00' })
    expect(await starts(page, from)).toEqual([both[1]])
    await take(page, bodyOf(both[1] ?? 0))
    const entryId = await entryOf(page)
    expect(await marmot.statesOf(entryId)).toEqual(['taken'])
    const meeting = await matteo.get<{ participants: { name: string; answer: string }[] }>(
      `/api/meetings/${entryId}`,
    )
    expect(meeting.body.participants.map((one) => `${one.name} ${one.answer}`).sort()).toEqual([
      'Ilse Brandacher accepted',
      'Matteo Ruprechter accepted',
      'Rosa Quispe accepted',
    ])
    // What is kept free after it is theirs who come.
    const keptOf = async (who: Client) => {
      const range = `from=${new Date(from).toISOString()}&to=${new Date(from + DAY).toISOString()}`
      const seen = await who.timeOf<{ people: { spans: { gap?: boolean }[] }[] }>([who.person.id], range)
      return seen.body.people[0]?.spans.filter((span) => span.gap).length
    }
    expect([await keptOf(ilse), await keptOf(matteo)]).toEqual([1, 1])
    const no = await matteo.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'declined' })
    expect(no.status, no.text).toBe(200)
    expect([await keptOf(ilse), await keptOf(matteo)]).toEqual([1, 0])
    await matteo.send('POST', `/api/visit-kinds/${page.kindId}/agree`, { agree: false })
    expect(await starts(page, from + DAY)).toEqual([])
  })

  it('goes in turn: 100 visits to four differ by one at most, absences respected; nobody gets one while away', async () => {
    const people = await Promise.all(
      ['Wanjiru Kamande', 'Declan Furey', 'Catalina Reyes', 'Aroha Pene'].map((name) => marmot.as(name)),
    )
    const hours = [1, 2, 3, 4, 5, 6, 7].map((weekday) => ({ weekday, from: 0, to: 1440 }))
    const page = await aPage(ilse, {
      hosts: people.map((one) => one.person.id),
      together: 'turn',
      hours,
    })
    for (const one of people) await one.send('POST', `/api/visit-kinds/${page.kindId}/agree`, { agree: true })
    const [away] = people
    const gone = await away?.send('POST', '/api/entries', {
      title: 'Up the mountain',
      starts: '2027-06-07T00:00',
      minutes: 2 * 1440,
      zone: 'UTC',
      shows: 'away',
    })
    expect(gone?.status).toBe(200)
    const from = Date.parse('2027-06-07T00:00:00Z')
    const counts = async () => {
      const rows = await marmot.pool.query<{ host: string; n: number; early: number }>(
        `select hosts[1] as host, count(*)::integer as n, count(*) filter (where upper(span) <= '2027-06-09')::integer as early
           from visit where kind_id = $1 group by 1`,
        [page.kindId],
      )
      return rows.rows
    }
    // Some of their sites have holidays then, on which they work.
    for (let day = 2; day < 40; day++)
      for (const one of people)
        await one.send('PUT', `/api/site-days/worked/${dayText(from / DAY + day)}`, { works: true })
    for (let day = 2, taken = 0; taken < 100; day++) {
      const [, start] = await starts(page, from + day * DAY)
      for (let i = 0; i < 4 && taken < 100; i++) {
        const body = bodyOf(start ?? 0, { address: `visitor.${taken}@lodestar.example` })
        const { status, text } = await take(page, body)
        if (status !== 200) throw new Error(text)
        taken++
      }
    }
    const all = (await counts()).map((row) => row.n)
    expect([all.length, Math.max(...all) - Math.min(...all)]).toEqual([4, 0])
    const [, then] = await starts(page, from)
    for (let i = 0; i < 3; i++)
      await take(page, bodyOf(then ?? 0, { address: `early.${i}@lodestar.example` }))
    expect(problemOf(await take(page, bodyOf(then ?? 0))).code).toBe('time-taken')
    expect((await counts()).find((row) => row.host === away?.person.id)?.early).toBe(0)
  }, 120_000)

  const race = async (page: Page, wanted: readonly number[]) => {
    const answers = await Promise.all(
      Array.from({ length: 200 }, (_, i) => {
        const start = wanted[i % wanted.length] ?? 0
        const body = bodyOf(start, { address: `racer.${i}@lodestar.example` })
        return take(page, body, i % 2 ? marmot.url : other.url)
      }),
    )
    expect(answers.filter((one) => one.status !== 200 && one.status !== 409).map((one) => one.text)).toEqual(
      [],
    )
    const taken = await marmot.pool.query<{ n: number; times: number }>(
      'select count(*)::integer as n, count(distinct lower(span))::integer as times from visit where kind_id = $1',
      [page.kindId],
    )
    return { given: answers.filter((one) => one.status === 200).length, ...taken.rows[0] }
  }

  it.each([
    [null, 20],
    [3, 6],
  ])(
    'gives each of 20 times to one of 200 who race for them on two servers; at most %j a day',
    async (most, n) => {
      const from = MONDAY + (most ? 56 : 63) * DAY
      const hours = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1080 }))
      const page = await aPage(tashi, { mostADay: most, hours })
      const wanted = await starts(page, from, 2)
      expect(wanted).toHaveLength(20)
      expect(await race(page, wanted)).toEqual({ given: n, n, times: n })
      expect(await starts(page, from, 2)).toEqual([])
    },
    60_000,
  )

  it('slows down whoever takes one time after the other from one place', async () => {
    const page = await aPage(tashi)
    const [first = 0] = await starts(page, MONDAY + 105 * DAY)
    const answers = []
    for (let i = 0; i < 42; i++)
      answers.push(
        await take(page, bodyOf(first, { address: `many.${i}@lodestar.example` }), marmot.url, '10.9.9.9'),
      )
    expect(answers.slice(0, 40).every((one) => one.status !== 429)).toBe(true)
    expect(
      problemOf(answers.at(-1) ?? { status: 0, body: null, text: '', headers: new Headers() }).code,
    ).toBe('too-often')
  })

  it('is off at once, and says to strangers what it says where nothing ever was', async () => {
    const page = await aPage(tashi)
    const [first = 0] = await starts(page, MONDAY + 70 * DAY)
    const stream = await fetch(`${marmot.url}/api/v/${page.slug}/events`)
    const heard = stream.body?.pipeThrough(new TextDecoderStream()).getReader()
    await heard?.read()
    await putKind(tashi, page, { on: false })
    expect((await heard?.read())?.value).toContain('visit')
    await heard?.cancel()
    const off = await look(page, MONDAY)
    const never = await marmot.anyone('GET', `/api/v/nobody/lab-visit?from=2027-05-03T00:00:00Z&days=1`)
    expect([off.status, off.text]).toEqual([404, never.text])
    expect(problemOf(await take(page, bodyOf(first))).code).toBe('not-offered')
  })

  it('can be had once by a link, where it is had by links alone', async () => {
    const page = await aPage(tashi, { byLinkOnly: true })
    expect((await look(page, MONDAY + 77 * DAY)).status).toBe(404)
    const token = secret()
    const path = `/api/visit-pages/${page.pageId}/kinds/${page.kindId}/links`
    expect((await tashi.send('POST', path, { secret: token })).status).toBe(200)
    const [first = 0, second = 0] = await starts(page, MONDAY + 77 * DAY, 1, `&once=${token}`)
    const both = await Promise.all([first, second].map((start) => take(page, bodyOf(start, { once: token }))))
    expect(both.map((one) => one.status).sort()).toEqual([200, 404])
  })

  it('is kept for half an hour where a proof by letter is wanted, and theirs once they press its link, once', async () => {
    const page = await aPage(tashi, { proof: true })
    const from = MONDAY + 84 * DAY
    const before = await starts(page, from)
    const [first = 0] = before
    const kept = await take(page, bodyOf(first, { name: 'Lena', address: 'lena@lodestar.example' }))
    expect(kept.body).toMatchObject({ proof: true })
    expect(await starts(page, from)).toEqual(before.slice(1))
    expect(await entryOf(page)).toBe('')
    const token = await until(
      () =>
        /proof=([\w-]+)/.exec(
          marmot.mail.mailboxes
            .of('lena@lodestar.example')
            .find((one) => one.subject.startsWith('Is this you?'))?.text ?? '',
        )?.[1] ?? '',
      (seen) => seen !== '',
    )
    const prove = (own: string) => marmot.anyone('POST', `/api/visit-proofs/${token}`, { own })
    const own = secret()
    const both = await Promise.all([prove(own), prove(secret())])
    expect(both.map((one) => one.status)).toEqual([200, 200])
    expect(both[0].text).toBe(both[1].text)
    const rows = await marmot.pool.query('select 1 from visit where kind_id = $1', [page.kindId])
    expect(rows.rowCount).toBe(1)
    expect(await starts(page, from)).toEqual(before.slice(1))
    expect((await marmot.anyone('POST', `/api/visit-proofs/${secret()}`, { own })).status).toBe(404)
  })

  it('tells strangers nothing but what is offered: no title, no names of those who are not on it, no robots', async () => {
    await tashi.send('POST', '/api/entries', {
      title: 'Sphinxlike',
      starts: '2027-07-26T10:00',
      minutes: 60,
      zone: 'Asia/Kathmandu',
    })
    const page = await aPage(tashi)
    const from = Date.parse('2027-07-26T00:00:00Z')
    const seen = await look(page, from)
    expect(seen.text).not.toMatch(/Sphinxlike|corrie\.example/)
    const bad = (await take(page, bodyOf(Date.parse('2027-07-26T04:15:00Z')))).text
    expect(bad).not.toMatch(/Sphinxlike/)
    const robot = await take(page, bodyOf(seen.body.starts[0] ?? 0, { website: 'https://x.example' }))
    expect(robot.status).toBe(200)
    expect(await starts(page, from)).toEqual(seen.body.starts)
    // An address of ours is taken like any other.
    const ours = await take(page, bodyOf(seen.body.starts[0] ?? 0, { address: matteo.person.address }))
    expect(Object.keys(ours.body)).toEqual(Object.keys(robot.body))
  })

  it.each([
    ['a time that was not offered', { start: '2027-05-03T00:07:00Z' }, 'time-taken'],
    ['a length that is not', { minutes: 61 }, 'no-such-length'],
    ['a zone that does not exist', { zone: 'Europe/Nowhere' }, 'bad-zone'],
    ['an address that is none', { address: 'rosa' }, 'invalid'],
    ['no name', { name: ' ' }, 'invalid'],
    [
      'too many guests',
      { guests: [1, 2, 3, 4].map((n) => ({ address: `g${n}@lodestar.example` })) },
      'too-many-guests',
    ],
  ])('is refused with %s', async (_, more, code) => {
    const page = await aPage(tashi)
    const [first = 0] = await starts(page, MONDAY + 91 * DAY)
    expect(problemOf(await take(page, bodyOf(first, more))).code).toBe(code)
    expect(await starts(page, MONDAY + 91 * DAY)).toContain(first)
  })

  it('reminds its visitor once before, thanks them once after, and is listed for whoever keeps it and whoever is visited', async () => {
    const page = await aPage(tashi, { remind: 120, thanks: 'Come again.' })
    const [first = 0] = await starts(page, MONDAY + 98 * DAY)
    await take(page, bodyOf(first))
    const minute = async (at: number) => {
      await writeToVisitors({ pool: marmot.pool, clock: () => at })
      await writeToVisitors({ pool: marmot.pool, clock: () => at })
    }
    await minute(first - 121 * MINUTE)
    await minute(first - 119 * MINUTE)
    await minute(first + 61 * MINUTE)
    const count = (words: string) =>
      marmot.mail.mailboxes
        .of('rosa@lodestar.example')
        .filter((mail) => mail.subject === `${words}: Lab visit: Rosa Quispe`).length
    await until(
      () => [count('Soon'), count('Thank you')],
      (seen) => seen.join() === '1,1',
    )
    const mine = (await tashi.get<{ pages: KeptVisitPage[] }>('/api/visit-pages')).body.pages
    expect(mine.find((one) => one.id === page.pageId)?.kinds[0]).toMatchObject({ remind: 120, before: 0 })
    const list = await tashi.get<{ visits: VisitLine[] }>('/api/visits')
    expect(list.body.visits[0]).toMatchObject({ name: 'Rosa Quispe', state: 'coming', host: 'Tashi Lhendup' })
  })

  it('is kept by its owner alone: its address is had once, hours make sense, and nobody else changes it', async () => {
    const page = await aPage(matteo)
    const again = await ilse.send('PUT', `/api/visit-pages/${randomUUID()}`, {
      slug: page.slug,
      name: 'Ilse',
    })
    expect(problemOf(again)).toMatchObject({ code: 'address-taken', fields: [{ path: 'slug' }] })
    expect(
      (await ilse.send('PUT', `/api/visit-pages/${page.pageId}`, { slug: 'mine', name: 'x' })).status,
    ).toBe(404)
    expect((await putKind(ilse, page)).status).toBe(404)
    const hours = [
      { weekday: 1, from: 600, to: 700 },
      { weekday: 1, from: 650, to: 800 },
    ]
    expect(problemOf(await putKind(matteo, page, { hours })).code).toBe('bad-hours')
    expect((await ilse.send('DELETE', `/api/visit-pages/${page.pageId}`)).status).toBe(404)
    expect((await matteo.send('DELETE', `/api/visit-pages/${page.pageId}`)).status).toBe(200)
    expect((await marmot.anyone('GET', `/api/v/${page.slug}`)).status).toBe(404)
  })

  it('is no page any more once it is taken away, though a visit was taken on it; its address is free, and it can be had back', async () => {
    let page = await aPage(ilse)
    const [start = 0] = await starts(page, MONDAY + 70 * DAY)
    expect((await take(page, bodyOf(start))).status).toBe(200)
    const mine = async () =>
      (await ilse.get<{ pages: KeptVisitPage[] }>('/api/visit-pages')).body.pages.map((one) => one.slug)
    const before = await mine()
    // As often as one likes: what is taken away is not counted.
    for (let i = 0; i < 21; i++) {
      expect((await ilse.send('DELETE', `/api/visit-pages/${page.pageId}`)).status).toBe(200)
      expect(await mine()).toEqual(before.filter((slug) => slug !== page.slug))
      const back = { slug: page.slug, name: 'Ilse' }
      const put = await ilse.send('PUT', `/api/visit-pages/${i % 2 ? page.pageId : randomUUID()}`, back)
      expect(put.status, put.text).toBe(200)
      const made = (await ilse.get<{ pages: KeptVisitPage[] }>('/api/visit-pages')).body.pages
      page = { ...page, pageId: made.find((one) => one.slug === page.slug)?.id ?? '' }
    }
    const list = await ilse.get<{ visits: VisitLine[] }>('/api/visits')
    expect(list.body.visits.map((visit) => visit.state)).toContain('coming')
  })
})
