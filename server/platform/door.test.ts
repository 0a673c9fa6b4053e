import { emptyBrief } from '@marmot/contract/briefs'
import { createTransport } from 'nodemailer'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  aMeeting,
  type Client,
  problemOf,
  startTestMarmot,
  type TestMarmot,
  until,
} from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
})
afterAll(() => marmot.stop())

const entry = (more: Record<string, unknown>) => ({
  title: 'Quiet',
  starts: '2026-12-08T09:00',
  minutes: 30,
  zone: 'Europe/Vienna',
  ...more,
})
const id = '11111111-1111-4111-8111-111111111111'

/** A request with a text in each of the fields that take one. */
const FIELDS: Record<string, (text: string) => [method: 'POST' | 'PUT', path: string, body: unknown]> = {
  title: (text) => ['POST', '/api/entries', entry({ title: text })],
  place: (text) => ['POST', '/api/entries', entry({ place: text })],
  note: (text) => ['POST', '/api/entries', entry({ note: text })],
  zone: (text) => ['POST', '/api/entries', entry({ zone: text })],
  'repetition.rule': (text) => ['POST', '/api/entries', entry({ repetition: { rule: text } })],
  name: (text) => ['PUT', `/api/categories/${id}`, { name: text, tone: 1 }],
  'guests.0.name': (text) => [
    'POST',
    '/api/meetings',
    aMeeting({ guests: [{ address: 'noor@lodestar.example', name: text, required: true }] }),
  ],
  'guests.0.address': (text) => [
    'POST',
    '/api/meetings',
    aMeeting({ guests: [{ address: text, name: '', required: true }] }),
  ],
  message: (text) => ['POST', `/api/meetings/${id}/answer`, { answer: 'accepted', message: text }],
  address: (text) => ['PUT', `/api/feeds/read/${id}`, { name: 'Feed', address: text, everyMinutes: 60 }],
  'brief.title': (text) => [
    'POST',
    '/api/openings',
    { brief: { ...emptyBrief(20_790, ilse.person.id), title: text } },
  ],
  password: (text) => ['POST', '/api/session', { address: 'ilse.brandacher@corrie.example', password: text }],
}

describe('broken text', () => {
  it.each(
    Object.keys(FIELDS).flatMap((field) => [
      [field, 'a NUL', 'a\u0000b'],
      [field, 'half a character', 'a\ud800b'],
    ]),
  )('in %s, with %s, is refused by its name', async (field, _, text) => {
    const [method, path, body] = FIELDS[field]?.(text) ?? ['POST', '/', {}]
    const answer = await ilse.send(method, path, body)
    expect(problemOf(answer)).toMatchObject({ status: 422, code: 'invalid', fields: [{ path: field }] })
  })

  it('in a file’s name and in what is looked for is refused, too', async () => {
    const made = await ilse.send<{ entryId: string }>('POST', '/api/entries', entry({}))
    const file = await ilse.upload(
      `/api/entries/${made.body.entryId}/attachments?name=${encodeURIComponent('a\u0000.txt')}`,
      Buffer.from('hello'),
    )
    expect(problemOf(file)).toMatchObject({ status: 422, fields: [{ path: 'name' }] })
    expect((await ilse.get('/api/people?q=%00')).status).toBe(422)
    expect((await ilse.get('/api/people?q=%ED%A0%80')).status).toBeLessThan(500)
  })

  it('in a mail’s comment is kept without what is broken', async () => {
    const made = await ilse.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({ guests: [{ address: 'noor@lodestar.example', name: 'Noor', required: true }] }),
    )
    const transport = createTransport({ port: marmot.mailPort, host: '127.0.0.1', ignoreTLS: true })
    const content = [
      'BEGIN:VCALENDAR',
      'METHOD:REPLY',
      'BEGIN:VEVENT',
      `UID:${made.body.entryId}`,
      'COMMENT:Glad\u0000ly\u0007',
      'ATTENDEE;PARTSTAT=ACCEPTED:mailto:noor@lodestar.example',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n')
    await transport.sendMail({
      from: 'noor@lodestar.example',
      to: 'ilse.brandacher@corrie.example',
      text: 'x',
      icalEvent: { method: 'REPLY', content },
    })
    transport.close()
    const { rows } = await marmot.pool.query(
      'select message from participant where entry_id = $1 and guest_address is not null',
      [made.body.entryId],
    )
    expect(rows).toEqual([{ message: 'Gladly' }])
  })
})

describe('times that are on no calendar', () => {
  it.each([
    '2026-02-31T10:00',
    '2026-02-28T25:00',
    '9999-01-01T00:00',
    '0001-01-01T00:00',
    '2026-13-01T00:00',
  ])('%s is refused wherever a time is given', async (starts) => {
    const answers = [
      await ilse.send('POST', '/api/entries', entry({ starts })),
      await ilse.send('POST', '/api/meetings', aMeeting({ starts })),
      await ilse.send('POST', '/api/entries', entry({ repetition: { rule: null, added: [starts] } })),
      await ilse.send('POST', `/api/meetings/${id}/cancel`, { recurrence: starts }),
      await ilse.get(`/api/meetings/${id}?recurrence=${starts}`),
      await ilse.get(`/api/entries/${id}?recurrence=${starts}`),
    ]
    expect(answers.map((answer) => answer.status)).toEqual(answers.map(() => 422))
    expect(answers.every((answer) => (problemOf(answer).fields?.length ?? 0) > 0)).toBe(true)
  })

  it('an instant beyond all years is refused, too', async () => {
    const answer = await ilse.get('/api/entries?from=9999-01-01T00:00:00Z&to=9999-02-01T00:00:00Z')
    expect(problemOf(answer)).toMatchObject({ status: 422, fields: [{ path: 'from' }, { path: 'to' }] })
  })
})

it('no line of somebody’s making leaves in a letter', async () => {
  const title = 'Quiet\rATTENDEE:mailto:spy@lodestar.example'
  const made = await ilse.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({ title, guests: [{ address: 'lines@lodestar.example', name: 'No\ror', required: true }] }),
  )
  expect(made.status).toBe(200)
  const letter = await until(
    () => marmot.mail.mailboxes.of('lines@lodestar.example')[0],
    (one) => one !== undefined,
  )
  const lines = (letter?.calendar ?? '').split(/\r\n|\r|\n/)
  expect(lines.filter((line) => line.startsWith('ATTENDEE') && line.includes('spy'))).toEqual([])
  expect(letter?.subject).not.toMatch(/[\r\n]/)
})

describe('a body that comes in pieces, with nothing said of its size', () => {
  const inPieces = (pieces: readonly string[]) =>
    fetch(`${marmot.url}/api/entries`, {
      method: 'POST',
      headers: {
        cookie: ilse.cookie,
        'content-type': 'application/json',
        'idempotency-key': crypto.randomUUID(),
      },
      body: new ReadableStream({
        start: (stream) => {
          const bytes = new TextEncoder()
          for (const piece of pieces) stream.enqueue(bytes.encode(piece))
          stream.close()
        },
      }),
      duplex: 'half',
    } as RequestInit)
  const padded = (kb: number) => [
    JSON.stringify(entry({ title: 'In pieces' })).slice(0, -1),
    `,"padding":"${'x'.repeat(kb * 1024)}`,
    '"}',
  ]

  it('is put together again', async () => {
    const answer = await inPieces(padded(200))
    const { entryId } = (await answer.json()) as { entryId: string }
    const made = await ilse.get<{ title: string }>(`/api/entries/${entryId}`)
    expect(made.body.title).toBe('In pieces')
  })

  it('is refused where it grows too large, and nothing is made of its beginning', async () => {
    expect((await inPieces(padded(400))).status).toBe(413)
    expect((await inPieces(padded(1500))).status).toBe(413)
  })
})
