import type { Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import type { ReservationOnWire } from '@marmot/contract/resources'
import { createTransport } from 'nodemailer'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  aMeeting,
  type Client,
  problemOf,
  somebodyWaits,
  startTestMarmot,
  type TestMarmot,
  until,
} from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const GUEST = 'noor.haddad@lodestar.example'
const [FIRST, SECOND, THIRD] = ['2026-12-03T18:00', '2026-12-10T18:00', '2026-12-17T18:00']

/** A series on three Thursdays with Tashi, a guest and a room. */
const series = async (title: string, more: Record<string, unknown> = {}) => {
  const answer = await ilse.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      title,
      starts: FIRST,
      people: [{ id: tashi.person.id, required: true }],
      guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
      ...more,
    }),
  )
  if (answer.status !== 200) throw new Error(answer.text)
  return answer.body.entryId
}

const at = async (client: Client, entryId: string, recurrence: string) =>
  (await client.get<Meeting>(`/api/meetings/${entryId}?recurrence=${recurrence}`)).body
const answersAt = async (entryId: string, recurrence: string) =>
  Object.fromEntries((await at(ilse, entryId, recurrence)).participants.map((one) => [one.name, one.answer]))
const answer = (client: Client, entryId: string, body: Record<string, unknown>) =>
  client.send('POST', `/api/meetings/${entryId}/answer`, body)
const noticesOf = async (client: Client, entryId: string) =>
  (await client.get<{ notices: Notice[] }>('/api/now')).body.notices.filter((one) => one.entryId === entryId)
const letters = (address: string, entryId: string, method: string) =>
  marmot.mail.mailboxes
    .of(address)
    .filter((one) => one.calendar.includes(entryId) && one.calendar.includes(`METHOD:${method}`))

/** Waits until the guest has the invitation: whoever was told nothing is not told that it is off either. */
const isTold = (entryId: string) =>
  until(
    () => letters(GUEST, entryId, 'REQUEST').length,
    (many) => many > 0,
  )

describe('answering a series', () => {
  it('for one date counts for that date, and says so', async () => {
    const entryId = await series('One date')
    await answer(tashi, entryId, { answer: 'accepted' })
    await answer(tashi, entryId, { answer: 'declined', message: 'On the ridge', recurrence: SECOND })
    expect(await answersAt(entryId, FIRST)).toMatchObject({ 'Tashi Lhendup': 'accepted' })
    expect(await answersAt(entryId, SECOND)).toMatchObject({ 'Tashi Lhendup': 'declined' })
    expect(await answersAt(entryId, THIRD)).toMatchObject({ 'Tashi Lhendup': 'accepted' })
    const seen = (await at(ilse, entryId, SECOND)).participants.find((one) => one.name === 'Tashi Lhendup')
    expect(seen?.message).toBe('On the ridge')
    expect(await noticesOf(ilse, entryId)).toMatchObject([
      { answer: 'declined', recurrence: SECOND, message: 'On the ridge' },
      { answer: 'accepted', recurrence: null },
    ])
    expect(await at(tashi, entryId, SECOND)).toMatchObject({
      myAnswer: 'declined',
      recurrence: SECOND,
      series: ['Every week on Thursday, 3 times'],
    })
    // For all dates means for this one too.
    await answer(tashi, entryId, { answer: 'tentative' })
    expect(await answersAt(entryId, SECOND)).toMatchObject({ 'Tashi Lhendup': 'tentative' })
  })

  it('is refused for a date that is none, and asked for again until all are answered', async () => {
    const entryId = await series('No such date')
    const wrong = await answer(tashi, entryId, { answer: 'accepted', recurrence: '2026-12-04T18:00' })
    expect(problemOf(wrong)).toMatchObject({ status: 409, code: 'no-such-date' })
    const toAnswer = async () =>
      (await tashi.get<{ toAnswer: Meeting[] }>('/api/now')).body.toAnswer.map((meeting) => meeting.entryId)
    await answer(tashi, entryId, { answer: 'accepted', recurrence: FIRST })
    expect(await toAnswer()).toContain(entryId)
    for (const recurrence of [SECOND, THIRD]) await answer(tashi, entryId, { answer: 'accepted', recurrence })
    expect(await toAnswer()).not.toContain(entryId)
  })

  it('by mail is for the date that the REPLY names, once, and never older over newer', async () => {
    const entryId = await series('By mail')
    const reply = (answerGiven: string, recurrence: string, stamp: string, comment = 'Grüße', head = '') =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        head,
        'BEGIN:VEVENT',
        `UID:${entryId}`,
        'SEQUENCE:0',
        `DTSTAMP:${stamp}`,
        recurrence,
        `COMMENT:${comment}`,
        'ATTENDEE;PARTSTAT=ACCEPTED:mailto:somebody@lodestar.example',
        `ATTENDEE;PARTSTAT=${answerGiven}:mailto:${GUEST}`,
        'END:VEVENT',
        'END:VCALENDAR',
      ]
        .filter(Boolean)
        .join('\r\n')
    const second = 'RECURRENCE-ID;TZID=Europe/Vienna:20261210T180000'
    expect(await deliver(reply('DECLINED', second, '20261124T100000Z'))).toBe('taken')
    expect(await answersAt(entryId, SECOND)).toMatchObject({ 'Noor Haddad': 'declined' })
    expect(await answersAt(entryId, FIRST)).toMatchObject({ 'Noor Haddad': 'needs-action' })
    const noor = (await at(ilse, entryId, SECOND)).participants.find((one) => one.name === 'Noor Haddad')
    expect(noor?.message).toBe('Grüße')
    expect(await deliver(reply('ACCEPTED', second, '20261124T090000Z'))).toMatch(/older-answer/)
    expect(await answersAt(entryId, SECOND)).toMatchObject({ 'Noor Haddad': 'declined' })
    expect(await deliver(reply('ACCEPTED', '', '20261124T110000Z'))).toBe('taken')
    expect(await answersAt(entryId, SECOND)).toMatchObject({ 'Noor Haddad': 'accepted' })
    const stray = 'RECURRENCE-ID:20270110T180000Z'
    expect(await deliver(reply('DECLINED', stray, '20261124T120000Z'))).toMatch(/no-such-date/)
    expect(
      await deliver(reply('DELEGATED', '', '20261124T130000Z', 'For me\\n, Sven', 'METHOD:REPLY'), 'none'),
    ).toBe('taken')
    expect(await answersAt(entryId, FIRST)).toMatchObject({ 'Noor Haddad': 'delegated' })
  })

  it('from a guest’s link is for one date or all, and lasts until the last date is over', async () => {
    const entryId = await series('By link')
    const letter = await until(
      () => letters(GUEST, entryId, 'REQUEST')[0],
      (one) => one !== undefined,
    )
    expect(letter?.text).toContain('Every week on Thursday, 3 times')
    const token = /\/i\/([\w-]+)/.exec(letter?.text ?? '')?.[1] ?? ''
    const page = await marmot.anyone<{ series: string[]; dates: { recurrence: string; answer: string }[] }>(
      'GET',
      `/api/invitations/${token}`,
    )
    expect(page.body.dates.map((date) => date.recurrence)).toEqual([FIRST, SECOND, THIRD])
    expect(page.body.series).toEqual(['Every week on Thursday, 3 times'])
    await marmot.anyone('POST', `/api/invitations/${token}/answer`, { answer: 'declined', recurrence: THIRD })
    expect(await answersAt(entryId, THIRD)).toMatchObject({ 'Noor Haddad': 'declined' })
    expect(await answersAt(entryId, FIRST)).toMatchObject({ 'Noor Haddad': 'needs-action' })
    const kept = await marmot.pool.query<{ expires_at: Date }>(
      'select l.expires_at from link l join participant p on p.id = l.subject_id where p.entry_id = $1',
      [entryId],
    )
    // A week after the end of the last date, and not of the first.
    expect(kept.rows[0]?.expires_at.toISOString()).toBe('2026-12-24T18:00:00.000Z')
  })

  it('from a link that has run out is asked for anew, by the one who was invited and not too often', async () => {
    const entryId = await series('Run out')
    const linkIn = (text = '') => /\/i\/([\w-]+)/.exec(text)?.[1] ?? ''
    const first = await until(
      () => letters(GUEST, entryId, 'REQUEST')[0],
      (one) => one !== undefined,
    )
    const token = linkIn(first?.text)
    await marmot.pool.query("update link set expires_at = '2026-11-01'")
    expect((await marmot.anyone('POST', `/api/invitations/${token}/renew`)).status).toBe(200)
    const again = await until(
      () => letters(GUEST, entryId, 'REQUEST'),
      (all) => all.length === 2,
    )
    const fresh = linkIn(again.map((one) => one.text).find((text) => linkIn(text) !== token))
    expect((await marmot.anyone('GET', `/api/invitations/${fresh}`)).status).toBe(200)
    await marmot.pool.query(
      `insert into link (token_hash, purpose, subject_id, expires_at, made_at)
       select gen_random_uuid()::text::bytea, 'answer', p.id, now(), '2026-11-23T08:12:00Z' from participant p, generate_series(1, 3)
        where p.entry_id = $1 and p.guest_address = $2`,
      [entryId, GUEST],
    )
    const often = await marmot.anyone('POST', `/api/invitations/${token}/renew`)
    expect(problemOf(often)).toMatchObject({ status: 429, code: 'too-many-links' })
  })

  it('again and again by one link is stopped', async () => {
    const entryId = await series('Too often')
    const letter = await until(
      () => letters(GUEST, entryId, 'REQUEST')[0],
      (one) => one !== undefined,
    )
    const token = /\/i\/([\w-]+)/.exec(letter?.text ?? '')?.[1] ?? ''
    const statuses: number[] = []
    for (let i = 0; i < 24; i++) {
      const given = { answer: i % 2 ? 'accepted' : 'declined' }
      statuses.push((await marmot.anyone('POST', `/api/invitations/${token}/answer`, given)).status)
    }
    expect(statuses.filter((status) => status === 200)).toHaveLength(20)
    expect(statuses.at(-1)).toBe(429)
  })
})

describe('two series at once that take the same places in other orders', () => {
  it('end in one meeting and one refusal, and never wait for one another for ever', async () => {
    const [serac, col] = [await marmot.placeId('Serac'), await marmot.placeId('Col')]
    const inOrder = (first: string, second: string, day: number) => {
      const on = (date: number) => `2027-02-${String(date).padStart(2, '0')}T18:30`
      return ilse.send<{ entryId: string }>(
        'POST',
        '/api/meetings',
        aMeeting({
          title: 'In another order',
          starts: on(day),
          places: [first],
          series: {
            rule: 'FREQ=WEEKLY;COUNT=2',
            changes: [{ recurrence: on(day + 7), starts: on(day + 7), places: [second] }],
          },
        }),
      )
    }
    const both: boolean[] = []
    // The 1st is a Monday; the rooms are closed at the week's end.
    for (const day of [1, 2, 3, 4, 5, 15, 16, 17, 18, 19]) {
      const answers = await Promise.all([
        inOrder(serac, col, day),
        inOrder(col, serac, day),
        inOrder(serac, col, day),
      ])
      const statuses = answers.map((answer) => answer.status)
      // Two want other rooms on each date and can both be had; the third wants what another has.
      expect(statuses.every((status) => status === 200 || status === 409)).toBe(true)
      both.push(statuses.filter((status) => status === 200).length === 2)
      for (const { status, body } of answers)
        if (status === 200) await ilse.send('POST', `/api/meetings/${body.entryId}/cancel`, {})
    }
    expect(both).toContain(true)
  })
})

describe('a series with many dates that differ', () => {
  it('is told to each of many guests with all of them', async () => {
    const guests = Array.from({ length: 8 }, (_, i) => ({
      address: `walker-${i}@lodestar.example`,
      name: `Walker ${i}`,
      required: true,
    }))
    const days = Array.from({ length: 25 }, (_, i) =>
      new Date(Date.UTC(2026, 11, 3 + 7 * i)).toISOString().slice(0, 10),
    )
    const entryId = await series('Moraine, ever earlier', {
      guests,
      series: {
        rule: 'FREQ=WEEKLY;COUNT=26',
        changes: days.map((day) => ({ recurrence: `${day}T18:00`, starts: `${day}T17:00`, places: [] })),
      },
    })
    for (const { address } of guests) {
      const [letter] = await until(
        () => letters(address, entryId, 'REQUEST'),
        (found) => found.length > 0,
      )
      expect(letter?.calendar.match(/RECURRENCE-ID/g)).toHaveLength(25)
    }
  })
})

describe('a series with a date moved onto another', () => {
  it('is told that it needs the place twice at once, and what else is free', async () => {
    const serac = await marmot.placeId('Serac')
    const answer = await ilse.send<{ code: string; detail: string }>(
      'POST',
      '/api/meetings',
      aMeeting({
        title: 'Twice at once',
        starts: '2027-03-02T18:30',
        places: [serac],
        series: {
          rule: 'FREQ=WEEKLY;COUNT=3',
          changes: [{ recurrence: '2027-03-16T18:30', starts: '2027-03-09T19:00', places: [serac] }],
        },
      }),
    )
    expect(answer).toMatchObject({ status: 409, body: { code: 'place-taken' } })
    expect(answer.body.detail).toMatch(
      /^On Tue 16 Mar: Serac is needed for another date of this series then\..*Free then: /,
    )
  })
})

describe('cancelling', () => {
  it('one date frees its place, tells of that date, and leaves the others', async () => {
    const serac = await marmot.placeId('Serac')
    const entryId = await series('Called off once', { places: [serac] })
    await isTold(entryId)
    const cancelled = await ilse.send('POST', `/api/meetings/${entryId}/cancel`, { recurrence: SECOND })
    expect(cancelled.body).toMatchObject({ told: 2 })
    const taken = await ilse.get<{ reservations: ReservationOnWire[] }>(
      '/api/reservations?from=2026-12-01T00:00:00Z&to=2026-12-31T00:00:00Z',
    )
    const days = taken.body.reservations
      .filter((one) => one.title === 'Called off once')
      .map((one) => one.start.slice(0, 10))
    expect(days).toEqual(['2026-12-03', '2026-12-17'])
    const letter = await until(
      () => letters(GUEST, entryId, 'CANCEL')[0],
      (one) => one !== undefined,
    )
    expect(letter?.subject).toContain('Cancelled, this date only')
    expect(letter?.calendar).toContain('RECURRENCE-ID;TZID=Europe/Vienna:20261210T180000')
    expect(letter?.text).toContain('Thursday 10 December')
    expect(await noticesOf(tashi, entryId)).toMatchObject([
      { kind: 'cancelled', recurrence: SECOND },
      { kind: 'invited' },
    ])
    const meeting = await at(tashi, entryId, FIRST)
    expect(meeting.cancelled).toBe(false)
    expect(meeting.series.at(-1)).toBe('not on Thu 10 Dec')
    // Answers to the invitation of before still count.
    expect((await answer(tashi, entryId, { answer: 'accepted' })).status).toBe(200)
    const twice = await ilse.send('POST', `/api/meetings/${entryId}/cancel`, { recurrence: SECOND })
    expect(twice.status).toBe(200)
    expect(letters(GUEST, entryId, 'CANCEL')).toHaveLength(1)
    const none = await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {
      recurrence: '2026-12-11T18:00',
    })
    expect(none.status).toBe(404)
  })

  it('all dates says so', async () => {
    const entryId = await series('Called off whole')
    await isTold(entryId)
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    const letter = await until(
      () => letters(GUEST, entryId, 'CANCEL')[0],
      (one) => one !== undefined,
    )
    expect(letter?.text).toContain('on all its dates')
    expect(await noticesOf(tashi, entryId)).toMatchObject([{ kind: 'cancelled', recurrence: null }, {}])
  })

  it('one date in the second in which all of it is cancelled tells of it once, not twice', async () => {
    const entryId = await series('Called off by two')
    // Nothing of it is on its way, so that nobody else waits for it.
    await isTold(entryId)
    const whole = await marmot.pool.connect()
    await whole.query('begin')
    await whole.query('update entry set cancelled_at = now(), version = version + 1 where id = $1', [entryId])
    const date = ilse.send('POST', `/api/meetings/${entryId}/cancel`, { recurrence: SECOND })
    // It has read a meeting that stands, and waits for the other to be done.
    await somebodyWaits(marmot.pool)
    await whole.query('commit')
    whole.release()
    expect((await date).status).toBe(200)
    const told = await marmot.pool.query(`select 1 from letter where entry_id = $1 and method = 'CANCEL'`, [
      entryId,
    ])
    expect(told.rowCount).toBe(0)
  })
})

/** A mail with a calendar part as other programs send it: Latin-1, of the other type, its METHOD in the header alone. */
const deliver = async (calendar: string, method = 'REPLY') => {
  const transport = createTransport({
    host: '127.0.0.1',
    port: marmot.mailPort,
    secure: false,
    ignoreTLS: true,
  })
  const header = method === 'none' ? '' : `; method=${method}`
  const raw = [
    `From: ${GUEST}`,
    'To: ilse.brandacher@corrie.example',
    'Subject: Re',
    'MIME-Version: 1.0',
    'Content-Type: multipart/mixed; boundary=b',
    '',
    '--b',
    'Content-Type: text/plain',
    '',
    'Yes',
    '--b',
    `Content-Type: application/ics; charset=iso-8859-1${header}; name=answer.ics`,
    'Content-Transfer-Encoding: 8bit',
    '',
    calendar,
    '--b--',
    '',
  ].join('\r\n')
  try {
    await transport.sendMail({
      envelope: { from: GUEST, to: ['ilse.brandacher@corrie.example'] },
      raw: Buffer.from(raw, 'latin1'),
    })
    return 'taken'
  } catch (error) {
    return error instanceof Error ? error.message : 'unknown'
  } finally {
    transport.close()
  }
}
