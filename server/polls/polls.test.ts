import { randomBytes } from 'node:crypto'
import type { Notice } from '@marmot/contract/notices'
import type { OrganizedPoll } from '@marmot/contract/organized-polls'
import type { PollLine } from '@marmot/contract/poll-lines'
import type { AskedPoll } from '@marmot/contract/polls'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { KeptMail } from '../../standins/mail/mailboxes.ts'
import { type Client, problemOf, startTestMarmot, type TestMarmot, until } from '../testing/marmot.ts'
import { tellDaily, tellOver } from './telling.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const SETTINGS = {
  closes: '2026-12-10T16:00:00Z',
  needed: null,
  results: 'all',
  names: true,
  oneMark: false,
  proposals: true,
  notices: 'each',
  holds: true,
  door: null,
}
const ROSA = { address: 'rosa@lodestar.example', name: 'Rosa Quispe', required: true }
/** Hours of one day that nobody of the demo has anything on, in Innsbruck. */
let day = 3
const on = (hour: number) =>
  `2027-05-${String(day).padStart(2, '0')}T${String(hour - 2).padStart(2, '0')}:00:00.000Z`
const secret = () => randomBytes(32).toString('base64url')

const bodyOf = (more: Record<string, unknown> = {}) => ({
  ...SETTINGS,
  title: 'Core storage',
  minutes: 60,
  zone: 'Europe/Vienna',
  people: [{ id: matteo.person.id, required: true }],
  guests: [ROSA],
  times: [10, 11, 14].map((hour) => ({ start: on(hour), places: [] as string[] })),
  ...more,
})
const ask = (more: Record<string, unknown> = {}, who = ilse) =>
  who.send<{ pollId: string; asked: number }>('POST', '/api/polls', bodyOf(more))
const asked = async (more: Record<string, unknown> = {}) => {
  const answer = await ask(more)
  if (answer.status !== 200) throw new Error(answer.text)
  return answer.body.pollId
}
const read = async (who: Client, pollId: string) =>
  (await who.get<{ organized: OrganizedPoll | null; asked: AskedPoll | null }>(`/api/polls/${pollId}`)).body
const organized = async (pollId: string): Promise<OrganizedPoll> => {
  const { organized: poll } = await read(ilse, pollId)
  if (!poll) throw new Error('not organized')
  return poll
}
const lettersTo = (address: string, title = 'Core storage'): KeptMail[] =>
  marmot.mail.mailboxes
    .of(address)
    .filter((mail) => mail.subject.includes(title))
    .reverse()
/** The interface’s address for a guest, by the newest link they got. */
const linkIn = async (address: string, title: string) => {
  const letters = await until(
    () => lettersTo(address, title),
    (some) => some.length > 0,
  )
  const token = /\/q\/([\w-]+)/.exec(letters.at(-1)?.text ?? '')?.[1] ?? ''
  return `/api/poll-links/${token}`
}
const guest = (path: string) => ({
  read: async () => (await marmot.anyone<AskedPoll>('GET', path)).body,
  put: (marks: unknown, comment = '') => marmot.anyone('PUT', `${path}/marks`, { marks, comment }),
  propose: (start: string) => marmot.anyone<{ timeId: string }>('POST', `${path}/times`, { start }),
})
const saying = (poll: { times: readonly { id: string }[] }, ...marks: (string | null)[]) =>
  marks.flatMap((mark, i) => (mark ? [{ timeId: poll.times[i]?.id, mark }] : []))
const decide = (poll: OrganizedPoll, which: number, more: Record<string, unknown> = {}) =>
  ilse.send<{ entryId: string; changeId: string }>('POST', `/api/polls/${poll.pollId}/decide`, {
    timeId: poll.times[which]?.id,
    voters: poll.voters.map((one) => one.id),
    places: poll.times[which]?.places.map((place) => place.id),
    ...more,
  })
const now = async (who: Client) => (await who.get<{ polls: PollLine[]; notices: Notice[] }>('/api/now')).body
const lately = async (who: Client) =>
  (await now(who)).notices.map((one) => `${one.who} ${one.kind} ${one.title} ${one.message}`.trim())
const held = async () =>
  (
    await marmot.pool.query<{ n: number }>(
      "select count(*) as n from entry where lapses_at is not null and title like 'Held: %'",
    )
  ).rows[0]?.n

describe('a poll', () => {
  it('is asked, marked, seen live, and decided: the meeting has its room, letters went once, other holds are gone', async () => {
    const serac = await marmot.placeId('Serac')
    const times = [10, 11, 14].map((hour) => ({ start: on(hour), places: [serac] }))
    const pollId = await asked({ times })
    expect(await held()).toBe(3)
    const path = await linkIn(ROSA.address, 'Core storage')
    await until(
      () => now(matteo),
      (seen) => seen.polls.some((one) => one.pollId === pollId),
    )
    expect(await lately(matteo)).toContain('Ilse Brandacher poll-asked Core storage ask')

    const rosa = guest(path)
    const first = await rosa.read()
    expect(first).toMatchObject({
      title: 'Core storage',
      organizer: 'Ilse Brandacher',
      me: { name: 'Rosa Quispe', marks: [], suggested: [], answered: false },
      others: [],
      state: 'open',
    })
    expect((await rosa.put(saying(first, 'yes', 'if-need-be', 'no'), 'Any room')).status).toBe(200)
    expect((await rosa.put(saying(first, 'no', 'if-need-be', 'yes'), 'Any room')).status).toBe(200)
    // Whoever has an account sees what their own time says.
    const mine = (await read(matteo, pollId)).asked
    expect(mine?.me?.suggested.map((one) => one.mark)).toEqual(['yes', 'yes', 'yes'])
    expect(mine?.others).toEqual([
      {
        name: 'Rosa Quispe',
        marks: expect.arrayContaining(saying(first, 'no', 'if-need-be', 'yes')),
        comment: 'Any room',
      },
    ])
    const said = await matteo.send('PUT', `/api/polls/${pollId}/marks`, {
      marks: saying(first, 'yes', 'no', 'yes'),
    })
    expect(said.status).toBe(200)
    expect((await now(matteo)).polls.map((one) => one.pollId)).not.toContain(pollId)
    expect((await now(ilse)).polls.find((one) => one.pollId === pollId)).toMatchObject({
      mine: true,
      asked: 2,
      marked: 2,
      times: 3,
    })

    const poll = await organized(pollId)
    expect(poll.times.map((time) => [time.held, time.clash, time.places[0]?.free])).toEqual([
      [true, '', true],
      [true, '', true],
      [true, '', true],
    ])
    const sent = await decide(poll, 2)
    expect(sent.status).toBe(200)
    await marmot.quiet()
    expect(await held()).toBe(0)
    expect(await marmot.statesOf(sent.body.entryId)).toEqual(['taken'])
    expect(lettersTo(ROSA.address).map((one) => one.subject.split(',')[0])).toEqual([
      'Which times suit you? Core storage',
      'Invitation: Core storage',
    ])
    expect(await organized(pollId)).toMatchObject({
      state: 'decided',
      chosen: { timeId: poll.times[2]?.id, entryId: sent.body.entryId, stands: true },
    })
    expect(await rosa.read()).toMatchObject({ state: 'decided', chosen: { invited: true, entryId: null } })
    expect(problemOf(await rosa.put(saying(first, 'yes'))).code).toBe('poll-closed')
    expect(problemOf(await decide(poll, 0)).code).toBe('poll-closed')
  })

  it('tells those who are not expected, once, and asks again where the meeting is taken back', async () => {
    day = 4
    const pollId = await asked({ title: 'Drill rota' })
    const path = await linkIn(ROSA.address, 'Drill rota')
    const poll = await organized(pollId)
    await guest(path).put(saying(poll, 'no', 'yes', 'no'))
    const [ofMatteo] = poll.voters.filter((one) => one.personId)
    const sent = await decide(poll, 0, { voters: [ofMatteo?.id] })
    const letters = await until(
      () => lettersTo(ROSA.address, 'Drill rota'),
      (some) => some.length === 2,
    )
    expect(letters[1]?.subject).toMatch(/^The time is chosen, without you: Drill rota, Tue 4 May/)
    expect(letters[1]?.text).not.toContain('/q/')
    expect(await guest(path).read()).toMatchObject({ chosen: { invited: false } })
    expect(problemOf(await ilse.send('POST', `/api/polls/${pollId}/reopen`, {})).code).toBe('meeting-stands')
    await ilse.send('POST', `/api/meetings/${sent.body.entryId}/cancel`, {})
    expect((await ilse.send('POST', `/api/polls/${pollId}/reopen`, {})).status).toBe(200)
    const again = await until(
      () => lettersTo(ROSA.address, 'Drill rota'),
      (some) => some.length === 3,
    )
    expect(again[2]?.subject).toBe('Asked again, which times suit you? Drill rota')
    // What was said counts still, and the times are held once more.
    expect((await guest(path).read()).me?.marks).toHaveLength(3)
    expect((await organized(pollId)).times.every((time) => time.held)).toBe(true)
  })

  it('is nobody’s where it is taken back within the moment', async () => {
    day = 5
    const quiet = await startTestMarmot({ takeBackMs: 3_600_000 })
    try {
      const who = await quiet.as('Ilse Brandacher')
      const { body } = await who.send<{ pollId: string }>('POST', '/api/polls', bodyOf({ title: 'Not yet' }))
      expect(
        (await (await quiet.as('Matteo Ruprechter')).get<{ polls: unknown[] }>('/api/now')).body.polls,
      ).toEqual([])
      await who.send('POST', `/api/polls/${body.pollId}/withdraw`, {})
      await quiet.pass()
      const letters = await quiet.pool.query('select 1 from poll_letter')
      expect(letters.rowCount).toBe(0)
      const holds = await quiet.pool.query("select 1 from entry where title = 'Held: Not yet'")
      expect(holds.rowCount).toBe(0)
    } finally {
      await quiet.stop()
    }
  })

  it('is all or nothing: where a place cannot be had at one of the times, nobody is asked', async () => {
    day = 6
    const serac = await marmot.placeId('Serac')
    await marmot.reserve(tashi, 'Serac', '2027-05-06T11:00', { minutes: 60 })
    const before = await held()
    const refused = await ask({
      title: 'In Serac',
      times: [10, 11].map((hour) => ({ start: on(hour), places: [serac] })),
    })
    expect(problemOf(refused)).toMatchObject({
      status: 409,
      detail: expect.stringMatching(/^Thu 6 May: Serac is taken/),
    })
    expect(await held()).toBe(before)
    expect((await now(ilse)).polls.map((one) => one.title)).not.toContain('In Serac')
  })

  it('takes times of their own from those who are asked, one mark alone where that is wished, each told to whoever asks', async () => {
    day = 7
    await asked({ title: 'One alone', oneMark: true, holds: false })
    const rosa = guest(await linkIn(ROSA.address, 'One alone'))
    const poll = await rosa.read()
    expect(problemOf(await rosa.put(saying(poll, 'yes', 'yes'))).code).toBe('one-only')
    await rosa.put(saying(poll, 'yes', 'no', 'no'))
    expect((await rosa.propose(on(16))).status).toBe(200)
    const after = await rosa.read()
    const marked = new Map(after.me?.marks.map((one) => [one.timeId, one.mark]))
    expect(after.times.map((time) => [time.proposedBy, marked.get(time.id) ?? null])).toEqual([
      [null, null],
      [null, 'no'],
      [null, 'no'],
      ['Rosa Quispe', 'yes'],
    ])
    expect(problemOf(await rosa.propose(on(16))).code).toBe('same-time')
    expect(problemOf(await rosa.propose('2026-01-05T10:00:00Z')).code).toBe('in-the-past')
    expect(await lately(ilse)).toEqual(
      expect.arrayContaining([
        expect.stringMatching(/^Rosa Quispe poll-proposed One alone Fri 7 May 16:00$/),
        'Rosa Quispe poll-marked One alone',
      ]),
    )
  })

  it('shows what others marked, and who they are, only where its organizer lets them', async () => {
    day = 10
    const views = async (more: Record<string, unknown>) => {
      const title = `Seen ${JSON.stringify(more)}`.replace(/\W+/g, ' ').trim()
      const pollId = await asked({ ...more, title, holds: false })
      const poll = await organized(pollId)
      await matteo.send('PUT', `/api/polls/${pollId}/marks`, {
        marks: saying(poll, 'yes'),
        comment: 'After the saw',
      })
      const seen = await guest(await linkIn(ROSA.address, title)).read()
      return {
        yes: seen.times[0]?.yes,
        names: seen.others.map((one) => one.name),
        text: JSON.stringify(seen),
      }
    }
    expect(await views({})).toMatchObject({ yes: 1, names: ['Matteo Ruprechter'] })
    const nameless = await views({ names: false })
    expect(nameless).toMatchObject({ yes: 1, names: [] })
    const hidden = await views({ results: 'organizer' })
    expect(hidden).toMatchObject({ yes: 0, names: [] })
    for (const { text } of [nameless, hidden]) expect(text).not.toMatch(/Matteo|After the saw/)
  })

  it('is anyone’s who has the link for all; nobody learns by it who is known here', async () => {
    day = 11
    const door = secret()
    const pollId = await asked({ title: 'Open day', door, people: [], guests: [], holds: false })
    const path = `/api/poll-links/${door}`
    const poll = await guest(path).read()
    expect(poll).toMatchObject({ me: null, state: 'open' })
    const comer = (own: string, more: Record<string, unknown> = {}) => ({
      name: 'Priya',
      address: 'priya@lodestar.example',
      marks: saying(poll, 'yes', 'no'),
      own,
      ...more,
    })
    const join = (body: unknown) => marmot.anyone('POST', `${path}/voters`, body)
    const own = secret()
    const joined = await join(comer(own))
    // An address of ours, one that is there already, and a robot are answered the same.
    const ours = await join(comer(secret(), { name: 'Nobody', address: matteo.person.address }))
    const twice = await join(comer(secret(), { name: 'Priya again' }))
    const robot = await join(comer(secret(), { name: 'Robot', website: 'https://x.example' }))
    expect(new Set([joined, ours, twice, robot].map((one) => `${one.status} ${one.text}`))).toEqual(
      new Set(['200 {}']),
    )
    const { voters } = await organized(pollId)
    expect(voters.map((one) => `${one.name} ${one.personId} ${one.proved}`).sort()).toEqual([
      'Nobody null false',
      'Priya again null false',
      'Priya null false',
    ])
    const mine = guest(`/api/poll-links/${own}`)
    expect((await mine.read()).me).toMatchObject({ name: 'Priya', answered: true })
    expect((await mine.put(saying(poll, 'no'))).status).toBe(200)
    // Another link for all ends the first; what came by it stays.
    const next = secret()
    await ilse.send('POST', `/api/polls/${pollId}/link`, { door: next })
    expect(problemOf(await marmot.anyone('GET', path)).code).toBe('no-such-link')
    expect((await guest(`/api/poll-links/${next}`).read()).title).toBe('Open day')
    expect((await mine.read()).me?.name).toBe('Priya')
    // Two who gave one address get one invitation.
    const sent = await decide(await organized(pollId), 0)
    const participants = await marmot.pool.query(
      'select 1 from participant where entry_id = $1 and not organizer',
      [sent.body.entryId],
    )
    expect(participants.rowCount).toBe(2)
  })

  it('gives a guest a new link, and the old one leads nowhere; whoever is let off has none', async () => {
    day = 12
    const pollId = await asked({ title: 'New link', holds: false })
    const old = await linkIn(ROSA.address, 'New link')
    const poll = await organized(pollId)
    const rosa = poll.voters.find((one) => one.address === ROSA.address)
    await ilse.send('POST', `/api/polls/${pollId}/link`, { voterId: rosa?.id })
    expect(problemOf(await marmot.anyone('GET', old)).code).toBe('no-such-link')
    await until(
      () => lettersTo(ROSA.address, 'New link'),
      (some) => some.length === 2,
    )
    const fresh = await linkIn(ROSA.address, 'New link')
    expect((await guest(fresh).read()).title).toBe('New link')
    await ilse.send('PUT', `/api/polls/${pollId}`, { version: poll.version, guests: [] })
    expect(problemOf(await marmot.anyone('PUT', `${fresh}/marks`, { marks: [] })).code).toBe('no-such-link')
    const letters = await until(
      () => lettersTo(ROSA.address, 'New link'),
      (some) => some.length === 3,
    )
    expect(letters[2]?.subject).toBe('Not asked any more: New link')
  })

  it('can be changed: more times are told to all, fewer are let go, a later end holds longer', async () => {
    day = 13
    const pollId = await asked({ title: 'Changed' })
    await linkIn(ROSA.address, 'Changed')
    const poll = await organized(pollId)
    const change = (body: Record<string, unknown>) =>
      ilse.send('PUT', `/api/polls/${pollId}`, { version: poll.version, ...body })
    const drop = [poll.times[0]?.id]
    const add = [{ start: on(17), places: [] }]
    expect((await change({ drop, add, closes: '2026-12-12T16:00:00Z' })).status).toBe(200)
    const after = await organized(pollId)
    expect(after.times.map((time) => time.start)).toEqual([on(11), on(14), on(17)])
    expect(after).toMatchObject({ closes: '2026-12-12T16:00:00.000Z', version: poll.version + 1 })
    expect(after.times.every((time) => time.held)).toBe(true)
    expect(problemOf(await change({ needed: 2 })).code).toBe('stale')
    const letters = await until(
      () => lettersTo(ROSA.address, 'Changed'),
      (some) => some.length === 2,
    )
    expect(letters[1]?.subject).toBe('More times to choose from: Changed')
    const two = after.times.slice(0, 2).map((time) => time.id)
    expect(
      problemOf(await ilse.send('PUT', `/api/polls/${pollId}`, { version: after.version, drop: two })).code,
    ).toBe('too-few-times')
  })

  it('reminds those who have said nothing, nobody twice within a day, and says when the time is over, once', async () => {
    day = 14
    const pollId = await asked({ title: 'Reminded', notices: 'daily', holds: false })
    const rosa = guest(await linkIn(ROSA.address, 'Reminded'))
    await rosa.put(saying(await rosa.read(), 'yes'))
    const nudge = () => ilse.send(`POST`, `/api/polls/${pollId}/nudge`, {})
    expect((await nudge()).body).toEqual({ nudged: ['Matteo Ruprechter'], lately: [] })
    expect((await nudge()).body).toEqual({ nudged: [], lately: ['Matteo Ruprechter'] })
    const house = (at: string) => ({ pool: marmot.pool, clock: () => Date.parse(at) })
    await tellDaily(house('2026-11-24T01:00:00Z'))
    await tellDaily(house('2026-11-25T01:00:00Z'))
    await tellOver(house('2026-12-10T16:01:00Z'))
    await tellOver(house('2026-12-10T16:02:00Z'))
    const told = (await lately(ilse)).filter((one) => one.includes('Reminded'))
    expect(told).toEqual([
      'poll-over Reminded 1 of 2 have answered',
      'poll-daily Reminded 1 of 2 have answered',
    ])
  })

  it('counts for its organizer what the time of others says, as far as they share it', async () => {
    day = 18
    await marmot.sendMeeting(matteo, { title: 'Saw', starts: '2027-05-18T11:00' })
    const pollId = await asked({
      title: 'Suggested',
      holds: false,
      people: [matteo, tashi].map((one) => ({ id: one.person.id, required: true })),
    })
    const marksOf = async (who: Client) =>
      (await organized(pollId)).voters
        .find((one) => one.personId === who.person.id)
        ?.suggested.map((one) => one.mark)
    expect(await marksOf(matteo)).toEqual(['yes', 'no', 'yes'])
    // In Kathmandu it is evening.
    expect((await organized(pollId)).times[2]?.stretch).toBeGreaterThan(0)
    const grant = { to: 'organisation', id: null, does: 'look', seesPrivate: false, until: null }
    await tashi.send('PUT', '/api/sharing', { ...grant, sees: 'nothing' })
    expect(await marksOf(tashi)).toEqual([])
    await tashi.send('PUT', '/api/sharing', { ...grant, sees: 'busy' })
    // Nobody else sees any of it.
    const seen = JSON.stringify(await guest(await linkIn(ROSA.address, 'Suggested')).read())
    expect(seen).not.toContain(matteo.person.id)
    expect((await read(tashi, pollId)).organized).toBeNull()
    expect((await (await marmot.as('Aroha Pene')).get(`/api/polls/${pollId}`)).status).toBe(404)
  })

  it.each([
    ['no times', { times: [] }, 'invalid'],
    ['one time', { times: [{ start: '2027-05-19T08:00:00Z', places: [] }] }, 'invalid'],
    [
      '500 times',
      {
        times: Array.from({ length: 500 }, (_, i) => ({
          start: new Date(Date.parse('2027-05-19T08:00:00Z') + i * 60_000).toISOString(),
          places: [],
        })),
      },
      'invalid',
    ],
    [
      'a time twice',
      { times: [8, 8].map(() => ({ start: '2027-05-19T08:00:00Z', places: [] })) },
      'same-time',
    ],
    [
      'a time that is over',
      { times: ['2026-01-05T10:00:00Z', '2027-05-19T08:00:00Z'].map((start) => ({ start, places: [] })) },
      'in-the-past',
    ],
    ['nobody', { people: [], guests: [] }, 'nobody-asked'],
    ['an end that is over', { closes: '2026-01-05T10:00:00Z' }, 'closes-in-the-past'],
    ['an end after the last time', { closes: '2027-06-20T10:00:00Z' }, 'closes-too-late'],
    ['somebody else’s name', { of: '00000000-0000-4000-8000-000000000000' }, 'not-found'],
    ['a zone that does not exist', { zone: 'Europe/Nowhere' }, 'invalid'],
    ['a secret that is none', { door: 'x' }, 'invalid'],
    ['no length', { minutes: 0 }, 'invalid'],
  ])('is refused with %s', async (_, more, code) => {
    day = 19
    const answer = await ask({ title: 'Refused', holds: false, ...more })
    expect([answer.status < 500, problemOf(answer).code]).toEqual([true, code])
    expect((await now(ilse)).polls.map((one) => one.title)).not.toContain('Refused')
  })

  it('keeps what was marked when somebody marks what is not asked, or says too much', async () => {
    day = 20
    await asked({ title: 'Said too much', holds: false })
    const rosa = guest(await linkIn(ROSA.address, 'Said too much'))
    const poll = await rosa.read()
    await rosa.put(saying(poll, 'yes'))
    const stranger = { timeId: '00000000-0000-4000-8000-000000000000', mark: 'yes' }
    expect(problemOf(await rosa.put([stranger])).code).toBe('not-asked')
    expect(problemOf(await rosa.put([{ ...saying(poll, 'yes')[0], mark: 'perhaps' }])).code).toBe('invalid')
    expect((await rosa.put([], 'x'.repeat(1_000_000))).status).toBe(413)
    expect((await rosa.read()).me?.marks).toEqual(saying(poll, 'yes'))
  })

  it('takes marks from many at once, and decides in between: each mark counts or is refused, none is half', async () => {
    day = 21
    const door = secret()
    const pollId = await asked({ title: 'All at once', door, people: [], guests: [], holds: false })
    const poll = await organized(pollId)
    const own = Array.from({ length: 12 }, secret)
    await Promise.all(
      own.map((token, i) =>
        marmot.anyone('POST', `/api/poll-links/${door}/voters`, {
          name: `Voter ${i}`,
          address: `voter.${i}@lodestar.example`,
          marks: saying(poll, 'no', 'no', 'no'),
          own: token,
        }),
      ),
    )
    const voters = (await organized(pollId)).voters
    expect(voters).toHaveLength(12)
    const marking = own.flatMap((token) =>
      ['yes', 'if-need-be'].map((mark) =>
        guest(`/api/poll-links/${token}`).put(saying(poll, mark, mark, mark)),
      ),
    )
    const [sent, ...answers] = await Promise.all([decide({ ...poll, voters }, 1), ...marking])
    expect(sent.status).toBe(200)
    expect(answers.map((one) => one.status).filter((status) => status !== 200 && status !== 409)).toEqual([])
    for (const { marks } of (await organized(pollId)).voters) {
      expect(marks).toHaveLength(3)
      expect(new Set(marks.map((one) => one.mark)).size).toBe(1)
    }
  })
})
