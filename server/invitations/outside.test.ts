import type { Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import { createTransport } from 'nodemailer'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { roomsOver, roomsWanted } from '../entries/index.ts'
import {
  aMeeting,
  type Client,
  heldUp,
  problemOf,
  startTestMarmot,
  type TestMarmot,
  until,
} from '../testing/marmot.ts'

const TASHI = 'tashi.lhendup@corrie.example'
const NOOR = 'noor.haddad@lodestar.example'
const MIRA = 'mira.solberg@lodestar.example'

let marmot: TestMarmot
let tashi: Client
let ilse: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  tashi = await marmot.as('Tashi Lhendup')
  ilse = await marmot.as('Ilse Brandacher')
})
afterAll(() => marmot.stop())

interface Said {
  readonly uid: string
  readonly method?: 'REQUEST' | 'CANCEL' | 'DECLINECOUNTER'
  readonly sequence?: number
  readonly stamp?: string
  readonly start?: string
  readonly end?: string
  readonly title?: string
  readonly more?: readonly string[]
  readonly from?: string
  readonly organizer?: string
  readonly to?: string
}

/** Noor's own calendar program writes to Tashi: in her own zone's time, with no code of ours. */
const mail = async ({
  uid,
  method = 'REQUEST',
  sequence = 0,
  stamp = '20261123T080000Z',
  start = '20261202T130000',
  end = '20261202T140000',
  title = 'Sensor test',
  more = [],
  from = NOOR,
  organizer = from,
  to = TASHI,
}: Said) => {
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Lodestar//Diary//EN',
    `METHOD:${method}`,
    'BEGIN:VEVENT',
    `UID:${uid}`,
    `SEQUENCE:${sequence}`,
    `DTSTAMP:${stamp}`,
    `DTSTART;TZID=Europe/Oslo:${start}`,
    `DTEND;TZID=Europe/Oslo:${end}`,
    `SUMMARY:${title}`,
    'LOCATION:Lodestar\\, hall 2',
    `ORGANIZER;CN=Noor Haddad:mailto:${organizer}`,
    `ATTENDEE;RSVP=TRUE;PARTSTAT=NEEDS-ACTION:mailto:${TASHI}`,
    `ATTENDEE;PARTSTAT=ACCEPTED:mailto:${MIRA}`,
    ...more,
    'END:VEVENT',
    'END:VCALENDAR',
  ]
  await post(lines.join('\r\n'), method, from, [to])
}

const post = async (content: string, method: string, from: string, to: readonly string[]): Promise<void> => {
  const transport = createTransport({
    host: '127.0.0.1',
    port: marmot.mailPort,
    secure: false,
    ignoreTLS: true,
  })
  try {
    const icalEvent = { method, content }
    await transport.sendMail({ from, to: [...to], subject: method, text: method, icalEvent })
  } finally {
    transport.close()
  }
}

/** What stands on Tashi's lane under a title: when, and how. */
const lane = async (title = 'Sensor test') =>
  (
    await tashi.get<{
      occurrences: { title: string; start: string; state: string | null; entryId: string; place: string }[]
    }>('/api/entries?from=2026-11-23T00:00:00Z&to=2027-02-01T00:00:00Z')
  ).body.occurrences
    .filter((one) => one.title === title)
    .map(({ start, state, entryId, place }) => ({ start: start.slice(5, 16), state, entryId, place }))
const read = async (entryId: string) => (await tashi.get<Meeting>(`/api/meetings/${entryId}`)).body
const waiting = async () =>
  (await tashi.get<{ toAnswer: Meeting[] }>('/api/now')).body.toAnswer.map((one) => one.title)
const noticed = async (entryId: string) =>
  (await tashi.get<{ notices: Notice[] }>('/api/now')).body.notices.filter((one) => one.entryId === entryId)

/** What came back to Noor about a meeting. */
const back = (uid: string, address = NOOR) =>
  marmot.mail.mailboxes
    .of(address)
    .filter((one) => one.calendar.includes(`UID:${uid}`))
    .reverse()
const backUntil = (uid: string, many: number) =>
  until(
    () => back(uid),
    (found) => found.length === many,
  )
const lines = (calendar = '') => calendar.replace(/\r\n[ \t]/g, '')

describe('a meeting to which somebody outside invites', () => {
  it('stands on the lane, unanswered, moves and is called off as its organizer says', async () => {
    await mail({ uid: 'lodestar-1' })
    const [one] = await lane()
    expect(one).toMatchObject({ start: '12-02T12:00', state: 'tentative', place: 'Lodestar, hall 2' })
    const entryId = one?.entryId ?? ''
    expect(await waiting()).toContain('Sensor test')
    expect(await read(entryId)).toMatchObject({
      organizer: 'Noor Haddad',
      iOrganize: false,
      mayChange: false,
      myAnswer: 'needs-action',
    })
    expect(
      (await read(entryId)).participants.map((each) => [each.name, each.organizer, each.answer]),
    ).toEqual([
      ['Noor Haddad', true, 'accepted'],
      [MIRA, false, 'accepted'],
      ['Tashi Lhendup', false, 'needs-action'],
    ])
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, {
      answer: 'accepted',
      message: 'With the saw',
    })
    expect(await lane()).toMatchObject([{ state: 'busy' }])
    const [reply] = await backUntil('lodestar-1', 1)
    expect(reply).toMatchObject({ from: TASHI, method: 'REPLY' })
    expect(lines(reply?.calendar)).toMatch(/ATTENDEE;CN=Tashi Lhendup;PARTSTAT=ACCEPTED:mailto:tashi/)
    expect(reply?.calendar).toContain('COMMENT:With the saw')

    await mail({ uid: 'lodestar-1', sequence: 1, start: '20261203T090000', end: '20261203T100000' })
    expect(await lane()).toMatchObject([{ start: '12-03T08:00', state: 'tentative', entryId }])
    await mail({ uid: 'lodestar-1', method: 'CANCEL', sequence: 2, more: ['COMMENT:The hall is lent'] })
    expect(await lane()).toEqual([])
    expect(await read(entryId)).toMatchObject({ cancelled: true, cancelReason: 'The hall is lent' })
    expect(await noticed(entryId)).toMatchObject([
      { kind: 'cancelled', who: 'Noor Haddad', message: 'The hall is lent' },
      { kind: 'changed' },
      { kind: 'invited' },
    ])
  })

  it('is joined by the ways of its organizer’s own service, as they are last; ours is not asked for a room', async () => {
    const uid = 'lodestar-afar'
    const joined = async () => (await read((await lane('From afar'))[0]?.entryId ?? '')).conference
    await mail({
      uid,
      title: 'From afar',
      more: [
        'CONFERENCE;VALUE=URI;FEATURE=VIDEO;LABEL=Join:https://meet.lodestar.example/hall',
        'CONFERENCE;VALUE=URI;FEATURE=PHONE:tel:+47-22-55-01-00,,4711',
      ],
    })
    expect(await joined()).toEqual({
      link: 'https://meet.lodestar.example/hall',
      telephone: '+47-22-55-01-00',
      code: '4711',
    })
    await mail({ uid, title: 'From afar', sequence: 1, more: ['CONFERENCE;VALUE=URI:tel:+47-22-55-01-00'] })
    expect(await joined()).toEqual({ link: '', telephone: '+47-22-55-01-00', code: '' })
    expect(await roomsWanted(marmot.pool, 10)).toEqual([])
    expect(await roomsOver(marmot.pool, Date.UTC(2030, 0), 10)).toEqual([])
    await mail({ uid, title: 'From afar', sequence: 2, more: ['CONFERENCE;VALUE=URI:javascript:alert(1)'] })
    expect(await joined()).toBeNull()
  })

  it('follows the order in which was written, not in which it came', async () => {
    const uid = 'lodestar-order'
    await mail({ uid, title: 'In order', sequence: 2, start: '20261204T090000', end: '20261204T100000' })
    await mail({ uid, title: 'In order', sequence: 1 })
    await mail({ uid, title: 'In order', sequence: 2, stamp: '20261123T070000Z' })
    expect(await lane('In order')).toMatchObject([{ start: '12-04T08:00' }])
    await mail({ uid, title: 'In order', sequence: 1, method: 'CANCEL' })
    expect(await lane('In order')).toHaveLength(1)
  })

  it('keeps the answer when only its words change', async () => {
    const uid = 'lodestar-words'
    await mail({ uid, title: 'Words' })
    const [one] = await lane('Words')
    await tashi.send('POST', `/api/meetings/${one?.entryId}/answer`, { answer: 'tentative' })
    await mail({ uid, title: 'Other words', stamp: '20261123T090000Z' })
    expect((await read(one?.entryId ?? '')).myAnswer).toBe('tentative')
    expect(await lane('Other words')).toHaveLength(1)
  })

  it('that repeats has its dates, one of them moved, one called off, one answered by itself', async () => {
    const uid = 'lodestar-series'
    const title = 'Weekly test'
    await mail({ uid, title, more: ['RRULE:FREQ=WEEKLY;COUNT=4'] })
    expect((await lane(title)).map((one) => one.start)).toEqual([
      '12-02T12:00',
      '12-09T12:00',
      '12-16T12:00',
      '12-23T12:00',
    ])
    const entryId = (await lane(title))[0]?.entryId ?? ''
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    await mail({
      uid,
      title,
      sequence: 1,
      start: '20261209T150000',
      end: '20261209T160000',
      more: ['RECURRENCE-ID;TZID=Europe/Oslo:20261209T130000'],
    })
    await mail({
      uid,
      title,
      sequence: 2,
      method: 'CANCEL',
      more: ['RECURRENCE-ID;TZID=Europe/Oslo:20261216T130000'],
    })
    expect((await lane(title)).map((one) => [one.start, one.state])).toEqual([
      ['12-02T12:00', 'busy'],
      ['12-09T14:00', 'tentative'],
      ['12-23T12:00', 'busy'],
    ])
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, {
      answer: 'declined',
      recurrence: '2026-12-09T13:00',
    })
    const replies = await backUntil(uid, 2)
    expect(lines(replies[1]?.calendar)).toContain('RECURRENCE-ID;TZID=Europe/Oslo:20261209T130000')
    expect(lines(replies[1]?.calendar)).toContain('PARTSTAT=DECLINED')
    // It is declined for that date and can be found again, and taken after all.
    expect((await lane(title)).find((one) => one.start === '12-09T14:00')?.state).toBeNull()
  })

  it('says what it says as text that does nothing, also of one date', async () => {
    const uid = 'lodestar-script'
    const evil =
      'X-ALT-DESC;FMTTYPE=text/html:<p onclick="x()">Bring <b>gloves</b><script>alert(1)</script></p>'
    await mail({ uid, title: 'Gloves', more: ['RRULE:FREQ=WEEKLY;COUNT=2', evil] })
    await mail({
      uid,
      title: 'Gloves',
      sequence: 1,
      start: '20261209T150000',
      end: '20261209T160000',
      more: ['RECURRENCE-ID;TZID=Europe/Oslo:20261209T130000', evil.replace('gloves', 'boots')],
    })
    const kept = await marmot.pool.query<{ note: string }>(
      `select e.note from entry e where e.source_uid = $1
       union all select v.note from override v join entry e on e.id = v.entry_id where e.source_uid = $1`,
      [uid],
    )
    expect(kept.rows.map((row) => row.note)).toEqual([
      '<p>Bring <b>gloves</b></p>',
      '<p>Bring <b>boots</b></p>',
    ])
  })

  it('for some dates of a series alone gives those dates, and an answer names each', async () => {
    const uid = 'lodestar-dates'
    const title = 'Two dates'
    for (const day of ['20261202', '20261209'])
      await mail({
        uid,
        title,
        start: `${day}T130000`,
        end: `${day}T140000`,
        stamp: `20261123T08000${day === '20261202' ? 0 : 1}Z`,
        more: [`RECURRENCE-ID;TZID=Europe/Oslo:${day}T130000`],
      })
    const dates = await lane(title)
    expect(dates.map((one) => one.start)).toEqual(['12-02T12:00', '12-09T12:00'])
    await tashi.send('POST', `/api/meetings/${dates[0]?.entryId}/answer`, { answer: 'accepted' })
    const replies = await backUntil(uid, 2)
    expect(replies.map((one) => /RECURRENCE-ID[^:]*:(\w+)/.exec(one.calendar)?.[1]).sort()).toEqual([
      '20261202T130000',
      '20261209T130000',
    ])
  })

  it('is answered by another time, which the organizer may decline; or passed on; or not told at all', async () => {
    const uid = 'lodestar-counter'
    await mail({ uid, title: 'Counter' })
    const entryId = (await lane('Counter'))[0]?.entryId ?? ''
    const proposed = await tashi.send('POST', `/api/meetings/${entryId}/proposals`, {
      start: '2026-12-02T15:00:00Z',
      minutes: 30,
      message: 'After the flight',
    })
    expect(proposed.status).toBe(200)
    const [counter] = await backUntil(uid, 1)
    expect(counter?.method).toBe('COUNTER')
    expect(counter?.calendar).toContain('DTSTART:20261202T150000Z')
    const mine = async () =>
      (await tashi.get<{ proposals: unknown[] }>(`/api/meetings/${entryId}/proposals`)).body.proposals.length
    expect(await mine()).toBe(1)
    await mail({ uid, title: 'Counter', method: 'DECLINECOUNTER' })
    expect(await mine()).toBe(0)
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'declined', quiet: true })
    await tashi.send('POST', `/api/meetings/${entryId}/delegate`, { to: { person: ilse.person.id } })
    const replies = await backUntil(uid, 2)
    expect(lines(replies[1]?.calendar)).toContain(
      'PARTSTAT=DELEGATED;DELEGATED-TO="mailto:ilse.brandacher@corrie.example"',
    )
  })

  it('is nobody’s here to change, and goes out again as it came', async () => {
    const uid = 'lodestar-theirs'
    await mail({ uid, title: 'Theirs' })
    const entryId = (await lane('Theirs'))[0]?.entryId ?? ''
    const change = { version: 1, title: 'Mine now' }
    expect((await tashi.send('POST', `/api/meetings/${entryId}/change`, change)).status).toBe(404)
    expect((await tashi.send('POST', `/api/meetings/${entryId}/cancel`, {})).status).toBe(404)
    const edited = await tashi.send('PUT', `/api/entries/${entryId}`, {
      ...change,
      starts: '2026-12-02T13:00',
      minutes: 60,
      zone: 'Europe/Oslo',
      recurrence: '2026-12-02T13:00',
    })
    expect([edited.status, problemOf(edited).code]).toEqual([409, 'is-a-meeting'])
    expect((await ilse.get(`/api/meetings/${entryId}`)).status).toBe(404)
    const exported = lines((await tashi.get('/api/export')).text)
    expect(exported).toContain(`UID:${uid}`)
    expect(exported).toContain(`ORGANIZER;CN=Noor Haddad:mailto:${NOOR}`)
  })
})

describe('a letter that claims what is not its sender’s', () => {
  const refused = (said: Said) =>
    mail(said).then(
      () => 'taken',
      (error: Error) => /550 ([a-z-]+):/.exec(error.message)?.[1] ?? error.message,
    )

  it('changes nothing, whatever it claims', async () => {
    const own = await ilse.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({ title: 'Moraine of ours', people: [{ id: tashi.person.id, required: true }] }),
    )
    await marmot.quiet()
    const uid = own.body.entryId
    const before = await lane('Moraine of ours')
    // The UID of a meeting of ours; one of ours as its organizer; somebody else's organizer; somebody else's meeting.
    expect(await refused({ uid, title: 'Moraine of ours', method: 'CANCEL', sequence: 9 })).toBe(
      'not-from-them',
    )
    expect(await refused({ uid: 'x-1', organizer: 'ilse.brandacher@corrie.example' })).toBe('not-from-them')
    expect(
      await refused({
        uid: 'x-2',
        from: 'ilse.brandacher@corrie.example',
        organizer: 'ilse.brandacher@corrie.example',
      }),
    ).toBe('not-from-them')
    expect(await refused({ uid: 'x-3', organizer: MIRA })).toBe('not-from-them')
    await mail({ uid: 'lodestar-hers', title: 'Hers' })
    expect(
      await refused({ uid: 'lodestar-hers', title: 'Hers', from: MIRA, method: 'CANCEL', sequence: 9 }),
    ).toBe('not-from-them')
    expect(await lane('Moraine of ours')).toEqual(before)
    expect(await lane('Hers')).toHaveLength(1)
  })

  it('holds nobody up where it takes long to read', async () => {
    // A zone of 240 kB that each of 99 dates would have to be read with.
    const zone = [
      'BEGIN:VTIMEZONE',
      'TZID:Nowhere',
      ...Array.from({ length: 2000 }, (_, i) => [
        'BEGIN:STANDARD',
        `DTSTART:${1970 + (i % 50)}0101T000000`,
        'TZOFFSETFROM:+0100',
        'TZOFFSETTO:+0200',
        `RDATE:${1970 + (i % 50)}0${1 + (i % 9)}01T000000`,
        'END:STANDARD',
      ]).flat(),
      'END:VTIMEZONE',
    ]
    const date = (i: number) => [
      'BEGIN:VEVENT',
      'UID:lodestar-slow',
      'DTSTAMP:20261123T080000Z',
      `DTSTART;TZID=Nowhere:202612${String(1 + (i % 28)).padStart(2, '0')}T${String(i % 24).padStart(2, '0')}0000`,
      `RECURRENCE-ID;TZID=Nowhere:202612${String(1 + (i % 28)).padStart(2, '0')}T${String(i % 24).padStart(2, '0')}0000`,
      `ORGANIZER:mailto:${NOOR}`,
      `ATTENDEE:mailto:${TASHI}`,
      'END:VEVENT',
    ]
    const text = [
      'BEGIN:VCALENDAR',
      'METHOD:REQUEST',
      ...zone,
      ...Array.from({ length: 99 }, (_, i) => date(i)).flat(),
      'END:VCALENDAR',
    ].join('\r\n')
    expect(text.length).toBeLessThan(300_000)
    const share = await heldUp(ilse, () => post(text, 'REQUEST', NOOR, [TASHI]).catch(() => undefined))
    expect(share).toBeLessThan(0.5)
  })

  it('is sent to so many of ours and no more', async () => {
    const many = Array.from({ length: 51 }, (_, i) => `somebody-${i}@corrie.example`)
    const text = ['BEGIN:VCALENDAR', 'METHOD:REQUEST', 'BEGIN:VEVENT', 'UID:x', 'END:VEVENT', 'END:VCALENDAR']
    await expect(post(text.join('\r\n'), 'REQUEST', NOOR, many)).rejects.toThrow('too-many')
  })

  it('is refused when nobody of ours is in it, or nothing of it can be kept', async () => {
    expect(await refused({ uid: 'x-4', to: 'matteo.ruprechter@corrie.example' })).toBe('not-an-invitation')
    expect(await refused({ uid: 'x-5', more: ['RRULE:FREQ=MINUTELY'] })).toBe('not-an-invitation')
    expect(await refused({ uid: 'x-6', start: '20260231T090000', end: '20260231T100000' })).toBe(
      'not-a-calendar',
    )
    expect(await refused({ uid: 'x-7', more: [`DESCRIPTION:${'x'.repeat(400_000)}`] })).toBe('too-large')
    expect(await lane()).toEqual([])
  })
})
