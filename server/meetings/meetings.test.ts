import type { PersonTime } from '@marmot/contract/availability'
import type { OccurrenceOnWire } from '@marmot/contract/entries'
import type { ListedInvitation, Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import type { ReservationOnWire } from '@marmot/contract/resources'
import nodeIcal from 'node-ical'
import { createTransport } from 'nodemailer'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { replyText, sendReply } from '../../standins/mail/reply.ts'
import {
  type Answer,
  aMeeting,
  type Client,
  problemOf,
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

const send = (more: Record<string, unknown> = {}, headers = {}) =>
  ilse.send<{ entryId: string; invited: number }>('POST', '/api/meetings', aMeeting(more), headers)

const invite = async (more: Record<string, unknown> = {}) => {
  const answer = await send({
    people: [
      { id: tashi.person.id, required: true },
      { id: await marmot.personId('Wanjiru Kamande'), required: false },
    ],
    guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    ...more,
  })
  if (answer.status !== 200) throw new Error(answer.text)
  return answer.body.entryId
}

const lettersTo = (address: string, uid: string) =>
  marmot.mail.mailboxes.of(address).filter((letter) => letter.calendar.includes(uid))
const letterTo = (address: string, uid: string) =>
  until(
    () => lettersTo(address, uid)[0],
    (letter) => letter !== undefined,
  )
const read = async (client: Client, entryId: string) =>
  (await client.get<Meeting>(`/api/meetings/${entryId}`)).body
const answersOf = async (entryId: string) =>
  Object.fromEntries((await read(ilse, entryId)).participants.map((one) => [one.name, one.answer]))

const laneOf = async (
  viewer: Client,
  personId: string,
  from = '2026-12-03T00:00:00Z',
  to = '2026-12-04T00:00:00Z',
) => {
  const answer = await viewer.timeOf<{ people: PersonTime[] }>([personId], `from=${from}&to=${to}`)
  return answer.body.people[0]?.spans ?? []
}

describe('sending a meeting', () => {
  it('makes the meeting, its places and its messages at once, and each is told in their own time', async () => {
    const serac = await marmot.placeId('Serac')
    const entryId = await invite({ places: [serac], starts: '2026-12-03T17:30', note: 'Bring the cores.' })
    const letter = await letterTo(tashi.person.address, entryId)
    expect(letter?.subject).toBe('Invitation: Firn core review, Thu 3 Dec 22:15')
    expect(letter?.text).toContain(
      'Thursday 3 December, 22:15 to 23:15, in 10 days (Kathmandu time, UTC+5:45)',
    )
    expect(letter?.html).toContain('Serac, Innsbruck')
    const event = Object.values(nodeIcal.sync.parseICS(letter?.calendar ?? '')).find(
      (each) => each?.type === 'VEVENT',
    )
    expect(event?.type === 'VEVENT' && event.start.toISOString()).toBe('2026-12-03T16:30:00.000Z')
    expect(letter?.raw).toMatch(/content-type: text\/calendar;[\s\S]*?method=REQUEST/i)
    const reservations = await ilse.get<{ reservations: ReservationOnWire[] }>(
      '/api/reservations?from=2026-12-03T16:00:00Z&to=2026-12-03T18:00:00Z',
    )
    expect(reservations.body.reservations).toContainEqual(
      expect.objectContaining({ resourceId: serac, title: 'Firn core review', by: 'Ilse Brandacher' }),
    )
    await until(
      () => read(ilse, entryId),
      (meeting) => meeting.participants.every((one) => one.organizer || one.mail === 'sent'),
    )
  })

  it('is done once, however often the same request comes', async () => {
    const body = { title: 'Once only', people: [{ id: tashi.person.id, required: true }] }
    const answers = await Promise.all([1, 2, 3].map(() => send(body, { 'idempotency-key': 'send-once' })))
    const ids = new Set(answers.map((answer) => answer.body.entryId))
    expect(ids.size).toBe(1)
    const [entryId = ''] = ids
    await letterTo(tashi.person.address, entryId)
    const mails = await marmot.pool.query('select 1 from letter where entry_id = $1', [entryId])
    expect(mails.rowCount).toBe(1)
  })

  it('invites a colleague as one, also when their address was typed as a guest’s', async () => {
    const entryId = await invite({
      people: [],
      guests: [{ address: 'TASHI.Lhendup@corrie.example', name: '', required: true }],
    })
    expect((await read(tashi, entryId)).myAnswer).toBe('needs-action')
  })

  const nobody = '00000000-0000-4000-8000-000000000000'
  it.each([
    ['no-length', { minutes: 0 }],
    ['ends-before-start', { minutes: -60 }],
    ['too-long', { minutes: 31 * 1440 + 1 }],
    ['unknown-zone', { zone: 'Mars/Olympus' }],
    ['no-such-person', { people: [{ id: nobody, required: true }] }],
    ['no-such-place', { places: [nobody] }],
    ['in-the-past', { starts: '2026-11-20T10:00' }],
    ['invalid', { guests: [{ address: 'noor at lodestar', name: '', required: true }] }],
    ['invalid', { title: '   ' }],
  ])('is refused as %s, and leaves nothing behind', async (code, more) => {
    const count = async () =>
      (
        await marmot.pool.query<{ n: number }>(
          'select (select count(*) from entry) + (select count(*) from letter) + (select count(*) from reservation) as n',
        )
      ).rows[0]?.n
    const before = await count()
    const answer = await send(more)
    expect(problemOf(answer)).toMatchObject({ status: 422, code })
    expect(problemOf(answer).fields?.length).toBeGreaterThan(0)
    expect(await count()).toBe(before)
  })

  it.each([
    ['Cold lab −20', 'not-trained'],
    ['Icefall', 'place-closed'],
  ])('does not take %s: %s', async (name, code) => {
    const answer = await send({ starts: '2026-11-25T10:00', places: [await marmot.placeId(name)] })
    expect(problemOf(answer)).toMatchObject({ status: 409, code })
  })

  it('takes several places or none of them', async () => {
    const [serac, col] = [await marmot.placeId('Serac'), await marmot.placeId('Col')]
    await invite({ title: 'Has Col', starts: '2026-12-17T18:00', places: [col] })
    const answer = await send({ title: 'Wants both', starts: '2026-12-17T18:30', places: [serac, col] })
    expect(problemOf(answer)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(problemOf(answer).detail).toMatch(
      /^Col is taken at 18:30: Ilse Brandacher has it from 18:00 to 19:00\. Your other choices are kept\. Free then: /,
    )
    // From Kathmandu it is another hour, and whose clock is meant has to be said.
    const there = await send({
      title: 'From elsewhere',
      starts: '2026-12-17T23:15',
      zone: 'Asia/Kathmandu',
      places: [col],
    })
    expect(problemOf(there).detail).toMatch(
      /^Col is taken at 18:30 in Innsbruck: Ilse Brandacher has it from 18:00 to 19:00\./,
    )
    const free = await send({ title: 'Serac is still free', starts: '2026-12-17T18:30', places: [serac] })
    expect(free.status).toBe(200)
  })
})

describe('what is offered in place of a taken room', () => {
  it('seats those who are on that site, and no more is asked of it', async () => {
    const serac = await marmot.placeId('Serac')
    const starts = '2026-12-18T19:00'
    await invite({ title: 'Has Serac', starts, places: [serac] })
    const free = async (more: Record<string, unknown>) => {
      const { more: facts } = problemOf(await send({ starts, places: [serac], ...more }))
      return z
        .array(z.object({ name: z.string() }))
        .parse(facts?.free)
        .map((place) => place.name)
    }
    // Tashi is in Kathmandu: Ilse alone needs a seat in Innsbruck.
    expect(await free({ people: [{ id: tashi.person.id, required: true }] })).toContain('Bergschrund')
    const guests = Array.from({ length: 9 }, (_, i) => ({
      address: `guest${i}@lodestar.example`,
      name: '',
      required: true,
    }))
    expect(await free({ guests })).toEqual(['Col', 'Firn', 'Névé Hall'])
  })
})

describe('what is offered in place of a piece of equipment', () => {
  it('is another one like it', async () => {
    const drones = await marmot.pool.query<{ id: string; name: string }>(
      "select id, name from resource where name like 'Thermal drone%' order by name",
    )
    const [first, second] = drones.rows
    const starts = '2026-12-18T19:00'
    await invite({ title: 'Has the drone', starts, places: [first?.id] })
    const answer = problemOf(await send({ starts, places: [first?.id] }))
    expect(answer).toMatchObject({ status: 409, code: 'place-taken' })
    expect(answer.detail).toContain(`Free then: ${second?.name}`)
  })
})

describe('the lanes', () => {
  it('show an unanswered meeting in the lower half, an accepted one whole, a declined one not at all', async () => {
    const entryId = await invite({ title: 'On the lane', starts: '2026-12-03T20:00' })
    const state = async () =>
      (await laneOf(ilse, tashi.person.id)).find((span) => span.title === 'On the lane')?.state
    expect(await state()).toBe('tentative')
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    expect(await state()).toBe('busy')
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, {
      answer: 'declined',
      message: 'On the ridge that day',
    })
    expect(await state()).toBeUndefined()
    const own = await tashi.get<{ occurrences: OccurrenceOnWire[] }>(
      '/api/entries?from=2026-12-03T00:00:00Z&to=2026-12-04T00:00:00Z',
    )
    // It left the lane, and can be found again.
    expect(own.body.occurrences.find((one) => one.title === 'On the lane')).toMatchObject({
      state: null,
      answer: 'declined',
      answered: null,
    })
    // The organizer's own block says how many have answered, where it has words: not in a year.
    const mine = async (to: string) =>
      (
        await ilse.get<{ occurrences: OccurrenceOnWire[] }>(
          `/api/entries?from=2026-12-03T00:00:00Z&to=${to}T00:00:00Z`,
        )
      ).body.occurrences.find((one) => one.title === 'On the lane')?.answered
    expect(await mine('2026-12-04')).toEqual({ said: 1, asked: 3 })
    expect(await mine('2027-12-04')).toBeNull()
  })
})

describe('answering', () => {
  it('reaches the organizer with its message, is told to nobody else, and once', async () => {
    const entryId = await invite({ title: 'Answered' })
    const give = () =>
      tashi.send('POST', `/api/meetings/${entryId}/answer`, {
        answer: 'tentative',
        message: 'If the helicopter flies',
      })
    await give()
    await give()
    const mine = (await read(ilse, entryId)).participants.find((one) => one.name === 'Tashi Lhendup')
    expect(mine).toMatchObject({ answer: 'tentative', message: 'If the helicopter flies' })
    const wanjiru = await marmot.as('Wanjiru Kamande')
    expect(
      (await read(wanjiru, entryId)).participants.find((one) => one.name === 'Tashi Lhendup')?.message,
    ).toBe('')
    const notices = (await ilse.get<{ notices: Notice[] }>('/api/now')).body.notices.filter(
      (notice) => notice.entryId === entryId,
    )
    expect(notices).toMatchObject([{ kind: 'answered', who: 'Tashi Lhendup', answer: 'tentative' }])
  })

  it('shows the organizer who has looked', async () => {
    const entryId = await invite({ title: 'Looked at' })
    const seen = async () =>
      (await read(ilse, entryId)).participants.find((one) => one.name === 'Tashi Lhendup')?.seenAt
    expect(await seen()).toBeNull()
    await read(tashi, entryId)
    expect(await seen()).not.toBeNull()
  })

  it('is kept in the list of what one was invited to: what one declined too, and nobody else’s', async () => {
    const invitations = async (who: Client) =>
      (await who.get<{ invitations: ListedInvitation[] }>('/api/invitations')).body.invitations
    const [open, refused] = [await invite({ title: 'Open' }), await invite({ title: 'Refused' })]
    await tashi.send('POST', `/api/meetings/${refused}/answer`, { answer: 'declined' })
    const of = (list: ListedInvitation[], entryId: string) => list.find((one) => one.entryId === entryId)
    const theirs = await invitations(tashi)
    expect(of(theirs, open)).toMatchObject({
      title: 'Open',
      organizer: 'Ilse Brandacher',
      answer: 'needs-action',
      repeats: false,
    })
    expect(of(theirs, refused)).toMatchObject({ answer: 'declined' })
    // Whoever organizes it was not invited to it; a stranger knows nothing of it.
    expect(of(await invitations(ilse), open)).toBeUndefined()
    expect(of(await invitations(await marmot.as('Matteo Ruprechter')), open)).toBeUndefined()
    // Soonest first, what is over last.
    const now = Date.parse('2026-11-23T08:00:00Z')
    const ends = theirs.map((one) => Date.parse(one.end))
    const [coming, over] = [ends.filter((end) => end > now), ends.filter((end) => end <= now)]
    expect(ends).toEqual([...coming, ...over])
    const starts = theirs.filter((one) => Date.parse(one.end) > now).map((one) => one.start)
    expect(starts).toEqual([...starts].sort())
  })

  it('is for those who were invited', async () => {
    const entryId = await invite({ title: 'Not for all' })
    const matteo = await marmot.as('Matteo Ruprechter')
    expect((await matteo.get(`/api/meetings/${entryId}`)).status).toBe(404)
    expect(
      (await matteo.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })).status,
    ).toBe(404)
    expect(
      problemOf(await ilse.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })),
    ).toMatchObject({ code: 'is-organizer' })
  })
})

describe('a guest', () => {
  const tokenIn = (text: string) => /\/i\/([\w-]+)/.exec(text)?.[1] ?? ''

  it('answers from the link in the letter, with no account', async () => {
    const entryId = await invite({ title: 'By link' })
    const token = tokenIn((await letterTo(GUEST, entryId))?.text ?? '')
    const page = await marmot.anyone<{ title: string; guest: string }>('GET', `/api/invitations/${token}`)
    expect(page.body).toMatchObject({ title: 'By link', guest: 'Noor Haddad', organizer: 'Ilse Brandacher' })
    await marmot.anyone('POST', `/api/invitations/${token}/answer`, { answer: 'accepted', message: 'Gladly' })
    expect(await answersOf(entryId)).toMatchObject({ 'Noor Haddad': 'accepted' })
    const kept = await marmot.pool.query<{ token_hash: Buffer }>('select token_hash from link')
    expect(kept.rows.some((row) => row.token_hash.toString('base64url') === token)).toBe(false)
  })

  it('is told that an altered or expired link no longer works, and nothing changes', async () => {
    const entryId = await invite({ title: 'Old link' })
    const token = tokenIn((await letterTo(GUEST, entryId))?.text ?? '')
    const altered = `${token.slice(0, -1)}${token.endsWith('A') ? 'B' : 'A'}`
    expect(
      problemOf(await marmot.anyone('POST', `/api/invitations/${altered}/answer`, { answer: 'accepted' })),
    ).toMatchObject({ status: 404, code: 'no-such-link' })
    await marmot.pool.query(
      "update link set expires_at = '2026-11-01' where subject_id in (select id from participant where entry_id = $1)",
      [entryId],
    )
    expect(problemOf(await marmot.anyone('GET', `/api/invitations/${token}`))).toMatchObject({
      status: 410,
      code: 'link-expired',
    })
    expect(
      problemOf(await marmot.anyone('POST', `/api/invitations/${token}/answer`, { answer: 'accepted' })),
    ).toMatchObject({ status: 410 })
    expect(await answersOf(entryId)).toMatchObject({ 'Noor Haddad': 'needs-action' })
  })

  it('answers by a REPLY from their mail program', async () => {
    const entryId = await invite({ title: 'By mail' })
    const letter = await letterTo(GUEST, entryId)
    if (!letter) throw new Error('no letter came')
    await sendReply(
      letter,
      { answer: 'tentative', comment: 'Probably' },
      { host: '127.0.0.1', port: marmot.mailPort },
    )
    const noor = (await read(ilse, entryId)).participants.find((one) => one.name === 'Noor Haddad')
    expect(noor).toMatchObject({ answer: 'tentative', message: 'Probably' })
  })
})

describe('a REPLY that cannot be kept', () => {
  const deliver = async (from: string, content: string) => {
    const transport = createTransport({
      host: '127.0.0.1',
      port: marmot.mailPort,
      secure: false,
      ignoreTLS: true,
    })
    try {
      await transport.sendMail({
        from,
        to: 'ilse.brandacher@corrie.example',
        text: 'x',
        icalEvent: { method: 'REPLY', content },
      })
      return 'taken'
    } catch (error) {
      return error instanceof Error ? error.message : 'unknown'
    } finally {
      transport.close()
    }
  }

  it.each([
    ['no-such-meeting', GUEST, GUEST, (uid: string) => uid.replace(/^./, 'z')],
    ['not-invited', 'eve@lodestar.example', 'eve@lodestar.example', (uid: string) => uid],
    ['not-from-them', 'eve@lodestar.example', GUEST, (uid: string) => uid],
  ])('goes back as %s', async (code, from, speaksFor, change) => {
    const entryId = await invite({ title: `Refused ${code}` })
    const letter = await letterTo(GUEST, entryId)
    const invitation = (letter?.calendar ?? '').replace(`UID:${entryId}`, `UID:${change(entryId)}`)
    expect(
      await deliver(from, replyText(invitation, speaksFor, { answer: 'accepted', comment: '' })),
    ).toMatch(new RegExp(`550 ${code}: [A-Z]`))
    expect(await answersOf(entryId)).toMatchObject({ 'Noor Haddad': 'needs-action' })
  })

  it('goes back when it is no calendar at all, or too large', async () => {
    expect(await deliver(GUEST, 'Dear Ilse, yes')).toMatch(/550 not-a-calendar/)
    expect(
      await deliver(GUEST, `BEGIN:VCALENDAR\r\nX-BIG:${'x'.repeat(1_200_000)}\r\nEND:VCALENDAR`),
    ).toMatch(/552/)
  })
})

describe('cancelling', () => {
  it('frees the place, tells everybody once, and takes it off the lanes', async () => {
    const serac = await marmot.placeId('Serac')
    const entryId = await invite({ title: 'Called off', starts: '2026-12-21T18:00', places: [serac] })
    await letterTo(GUEST, entryId)
    expect((await tashi.send('POST', `/api/meetings/${entryId}/cancel`)).status).toBe(404)
    const cancel = () => ilse.send<{ told: number }>('POST', `/api/meetings/${entryId}/cancel`)
    expect((await Promise.all([cancel(), cancel()])).map((answer) => answer.body.told)).toEqual([3, 3])
    const letters = await until(
      () => lettersTo(GUEST, entryId),
      (found) => found.some((letter) => letter.method === 'CANCEL'),
    )
    expect(letters.filter((letter) => letter.method === 'CANCEL')).toHaveLength(1)
    expect(
      await laneOf(ilse, tashi.person.id, '2026-12-21T00:00:00Z', '2026-12-22T00:00:00Z'),
    ).not.toContainEqual(expect.objectContaining({ title: 'Called off' }))
    expect((await send({ title: 'In its place', starts: '2026-12-21T18:00', places: [serac] })).status).toBe(
      200,
    )
    expect(
      problemOf(await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })),
    ).toMatchObject({ status: 409, code: 'cancelled' })
  })
})

describe('live events', () => {
  it('tell the organizer of an answer at once, and those who do not take part nothing of the meeting', async () => {
    const stop = new AbortController()
    const matteo = await marmot.as('Matteo Ruprechter')
    const heard = { ilse: '', matteo: '' }
    const listen = async (who: keyof typeof heard, cookie: string) => {
      const response = await fetch(`${marmot.url}/api/events`, { headers: { cookie }, signal: stop.signal })
      const reader = response.body?.getReader()
      const decoder = new TextDecoder()
      const pump = async (): Promise<void> => {
        for (let part = await reader?.read(); part && !part.done; part = await reader?.read())
          heard[who] += decoder.decode(part.value)
      }
      pump().catch(() => undefined)
    }
    await Promise.all([listen('ilse', ilse.cookie), listen('matteo', matteo.cookie)])
    await until(
      () => heard,
      (both) => both.ilse.includes('ready') && both.matteo.includes('ready'),
    )
    const entryId = await invite({ title: 'Heard live' })
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    await until(
      () => heard.ilse,
      (text) => text.includes(entryId),
    )
    // Everybody hears that Tashi's time changed; that it was this meeting, only those in it.
    await until(
      () => heard.matteo,
      (text) => text.includes(tashi.person.id),
    )
    expect(heard.matteo).not.toContain(entryId)
    expect(heard.ilse + heard.matteo).not.toContain('Heard live')
    stop.abort()
  })
})

const isRefused = (answer: Answer) => answer.status === 409

describe('64 clients racing for one room', () => {
  it('leave one winner, 63 who know who has it and what else is free, and no half-made meeting', async () => {
    const people = await Promise.all(
      ['Ilse Brandacher', 'Tashi Lhendup', 'Henrike Aasland', 'Declan Furey'].map((name) => marmot.as(name)),
    )
    const bergschrund = await marmot.placeId('Bergschrund')
    const guests = [{ address: GUEST, name: '', required: true }]
    const racers = Array.from({ length: 64 }, (_, i) => {
      const body = aMeeting({
        title: `Racer ${i}`,
        starts: '2026-12-22T18:00',
        minutes: 45,
        places: [bergschrund],
        guests,
      })
      return (
        people[i % people.length]?.send('POST', '/api/meetings', body) ??
        Promise.reject(new Error('nobody to race'))
      )
    })
    const answers = await Promise.all(racers)
    const won = answers.filter((answer) => answer.status === 200)
    expect(won).toHaveLength(1)
    const lost = answers.filter(isRefused).map(problemOf)
    expect(lost).toHaveLength(63)
    for (const problem of lost) {
      expect(problem.code).toBe('place-taken')
      expect(problem.detail).toMatch(
        /^Bergschrund is taken at 18:00: (Ilse Brandacher|Tashi Lhendup|Henrike Aasland|Declan Furey) has it from 18:00 to 18:45\./,
      )
      expect(problem.detail).toMatch(/Free then: \w+/)
    }
    const left = await marmot.pool.query<{
      entries: number
      participants: number
      mails: number
      reservations: number
    }>(
      `select (select count(*) from entry where title like 'Racer %') as entries,
              (select count(*) from participant p join entry e on e.id = p.entry_id where e.title like 'Racer %') as participants,
              (select count(*) from letter m join entry e on e.id = m.entry_id where e.title like 'Racer %') as mails,
              (select count(*) from reservation where resource_id = $1 and lower(span) = '2026-12-22T17:00Z') as reservations`,
      [bergschrund],
    )
    expect(left.rows[0]).toEqual({ entries: 1, participants: 2, mails: 1, reservations: 1 })
  })

  it('is guarded by the database itself, turnaround included', async () => {
    const lab = await marmot.placeId('Cold lab −20')
    const take = (from: string, to: string) =>
      marmot.pool.query(
        `insert into reservation (resource_id, person_id, occurrence_id, span)
         select $1, $2, id, tstzrange($3, $4) from occurrence limit 1`,
        [lab, ilse.person.id, `2027-01-10T${from}Z`, `2027-01-10T${to}Z`],
      )
    await take('08:00', '09:00')
    await expect(take('08:59', '10:00')).rejects.toThrow('reservation_no_double')
    await expect(take('09:15', '10:00')).rejects.toThrow('reservation_no_double')
    await take('09:30', '10:00')
  })
})

describe('a meeting that repeats', () => {
  it('is read at its next date, or at the one that is named', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    const list = await ilse.get<{ occurrences: OccurrenceOnWire[] }>(
      '/api/entries?from=2026-11-23T09:00:00Z&to=2026-12-20T00:00:00Z',
    )
    const dates = list.body.occurrences.filter((one) => one.title === 'Site offices')
    const path = `/api/meetings/${dates[0]?.entryId}`
    expect((await ilse.get(path)).body).toMatchObject({ start: dates[0]?.start })
    expect((await ilse.get(`${path}?recurrence=${dates[2]?.recurrence}`)).body).toMatchObject({
      start: dates[2]?.start,
    })
    expect((await ilse.get(`${path}?recurrence=2020-01-01T00:00`)).body).toMatchObject({
      start: dates[0]?.start,
    })
  })
})
