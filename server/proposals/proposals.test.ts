import type { Request } from '@marmot/contract/asked'
import type { Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import type { Proposal } from '@marmot/contract/proposals'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sendReply } from '../../standins/mail/reply.ts'
import { type Client, problemOf, startTestMarmot, type TestMarmot, until } from '../testing/marmot.ts'

const GUEST = 'noor.haddad@lodestar.example'
const TASHI = 'tashi.lhendup@corrie.example'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let serac: string
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  serac = await marmot.placeId('Serac')
})
afterAll(() => marmot.stop())

const send = async (title: string, more: Record<string, unknown> = {}) => {
  return marmot.sendMeeting(ilse, {
    title,
    starts: '2026-12-08T18:00',
    people: [{ id: tashi.person.id, required: true }],
    guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    ...more,
  })
}

const NINE = '2026-12-09T08:00:00.000Z'
const propose = (who: Client, entryId: string, more: Record<string, unknown> = {}) =>
  who.send<{ proposalId: string }>('POST', `/api/meetings/${entryId}/proposals`, {
    start: NINE,
    minutes: 45,
    message: 'The ropeway runs then',
    ...more,
  })
const open = async (who: Client, entryId: string) =>
  (await who.get<{ proposals: Proposal[] }>(`/api/meetings/${entryId}/proposals`)).body.proposals
const read = async (entryId: string, date = '') =>
  (await ilse.get<Meeting>(`/api/meetings/${entryId}${date && `?recurrence=${date}`}`)).body
const take = async (proposalId: string, version: number, who = ilse) => {
  const taken = await who.send<{ version: number; changeId: string; told: number }>(
    'POST',
    `/api/proposals/${proposalId}/take`,
    { version },
  )
  await marmot.quiet()
  return taken
}
const answers = async (entryId: string, date = '') =>
  Object.fromEntries((await read(entryId, date)).participants.map((one) => [one.name, one.answer]))
const notices = async (who: Client, entryId: string) =>
  (await who.get<{ notices: Notice[] }>('/api/now')).body.notices.filter((one) => one.entryId === entryId)

/** Writes back from a guest's mail program, to the invitation that they had. */
const byMail = (entryId: string, start: string, minutes: number) => {
  const letter = marmot.mail.mailboxes.of(GUEST).findLast((one) => one.calendar.includes(entryId))
  if (!letter) throw new Error('no invitation')
  const back = { start: new Date(start), minutes, comment: 'Rather in the morning' }
  return sendReply(letter, back, { host: '127.0.0.1', port: marmot.mailPort })
}

describe('another time that is proposed', () => {
  it('by a guest’s mail program is taken with one press, and everybody is told once', async () => {
    const entryId = await send('Moraine by mail', { places: [serac] })
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    await byMail(entryId, NINE, 45)
    const [one] = await open(ilse, entryId)
    expect(one).toMatchObject({
      name: 'Noor Haddad',
      start: NINE,
      end: '2026-12-09T08:45:00.000Z',
      message: 'Rather in the morning',
    })
    expect(await notices(ilse, entryId)).toMatchObject([
      { kind: 'proposed', who: 'Noor Haddad', message: 'Wed 9 Dec 09:00' },
      { kind: 'answered' },
    ])
    const taken = await take(one?.id ?? '', 1)
    expect([taken.status, taken.body.told]).toEqual([200, 2])
    expect(await read(entryId)).toMatchObject({ start: NINE, places: [{ id: serac }] })
    expect(await answers(entryId)).toMatchObject({
      'Noor Haddad': 'accepted',
      'Tashi Lhendup': 'needs-action',
    })
    for (const address of [GUEST, TASHI])
      expect(marmot.letters(address, entryId).map((each) => [each.kind, each.sequence])).toEqual([
        ['Invitation', '0'],
        ['Changed', '1'],
      ])
    expect(marmot.letters(GUEST, entryId)[1]?.text).toContain('Your answer stands.')
    expect(marmot.letters(TASHI, entryId)[1]?.text).toContain('Please answer again.')
    expect(await open(ilse, entryId)).toEqual([])
  })

  it('is open again when the move is taken back, and closed when the meeting moves otherwise', async () => {
    const entryId = await send('Moraine open again')
    const { proposalId } = (await propose(tashi, entryId)).body
    const taken = await take(proposalId, 1)
    await ilse.send('POST', `/api/changes/${taken.body.changeId}/undo`)
    expect((await open(ilse, entryId)).map((one) => one.id)).toEqual([proposalId])
    expect(await answers(entryId)).toMatchObject({ 'Tashi Lhendup': 'needs-action' })
    const { version } = await read(entryId)
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version, starts: '2026-12-08T19:00' })
    expect(await open(ilse, entryId)).toEqual([])
    const late = await take(proposalId, version + 1)
    expect([late.status, problemOf(late).code]).toEqual([409, 'proposal-closed'])
  })

  it('is declined by a letter and a notice, and the answer stands', async () => {
    const entryId = await send('Moraine declined')
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'tentative' })
    const { proposalId } = (await propose(tashi, entryId)).body
    await byMail(entryId, '2026-12-10T09:00:00.000Z', 60)
    const refused = await ilse.send('POST', `/api/proposals/${proposalId}/refuse`, {
      message: 'The saw is lent',
    })
    expect(refused.status).toBe(200)
    await marmot.quiet()
    const letter = marmot.letters(TASHI, entryId).at(-1)
    expect(letter).toMatchObject({ kind: 'The time stays', method: 'DECLINECOUNTER', sequence: '0' })
    expect(letter?.text).toContain('The saw is lent')
    expect(letter?.text).toContain('Wednesday 9 December, 13:45 to 14:30')
    expect(await notices(tashi, entryId)).toMatchObject([
      { kind: 'kept', who: 'Ilse Brandacher', message: 'The saw is lent' },
      { kind: 'invited' },
    ])
    expect(await answers(entryId)).toMatchObject({ 'Tashi Lhendup': 'tentative' })
    expect((await open(ilse, entryId)).map((one) => one.name)).toEqual(['Noor Haddad'])
    // What was told still adds up: the next change is told once.
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, title: 'Moraine, named anew' })
    await marmot.quiet()
    expect(marmot.letters(TASHI, entryId).map((one) => one.kind)).toEqual([
      'Invitation',
      'The time stays',
      'Changed',
    ])
  })

  it('of one date of a series moves that date alone', async () => {
    const entryId = await send('Moraine dated', {
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
    })
    const second = '2026-12-15T18:00'
    const start = '2026-12-16T08:00:00.000Z'
    const { proposalId } = (await propose(tashi, entryId, { recurrence: second, start })).body
    expect((await take(proposalId, 1)).status).toBe(200)
    expect(await read(entryId, second)).toMatchObject({ start })
    expect(await read(entryId, '2026-12-22T18:00')).toMatchObject({ start: '2026-12-22T17:00:00.000Z' })
    expect(await answers(entryId, second)).toMatchObject({ 'Tashi Lhendup': 'accepted' })
    await expect(byMail(entryId, start, 60)).rejects.toThrow('which-date')
  })

  it('is replaced by the next of the same person, and can be withdrawn', async () => {
    const entryId = await send('Moraine twice')
    await propose(tashi, entryId)
    const again = await propose(tashi, entryId, { start: '2026-12-09T09:00:00.000Z' })
    expect(await open(tashi, entryId)).toMatchObject([
      { id: again.body.proposalId, personId: tashi.person.id },
    ])
    const matteo = await marmot.as('Matteo Ruprechter')
    expect((await matteo.send('DELETE', `/api/proposals/${again.body.proposalId}`)).status).toBe(404)
    expect((await tashi.send('DELETE', `/api/proposals/${again.body.proposalId}`)).status).toBe(200)
    expect(await open(ilse, entryId)).toEqual([])
  })

  it('comes from a guest’s page, who sees nobody else’s', async () => {
    const entryId = await send('Moraine by link')
    const token = /\/i\/(\S+)/.exec(marmot.letters(GUEST, entryId)[0]?.text ?? '')?.[1] ?? ''
    const path = `/api/invitations/${token}/proposals`
    const made = await marmot.anyone('POST', path, { start: NINE, minutes: 30 })
    expect(made.status).toBe(200)
    expect(await open(ilse, entryId)).toMatchObject([{ name: 'Noor Haddad', start: NINE }])
    expect(await open(tashi, entryId)).toEqual([])
  })

  it('loses no place: where one is taken then, nothing changes and it stays open', async () => {
    const entryId = await send('Moraine in the way', { places: [serac], starts: '2026-12-08T20:00' })
    await send('Moraine there first', { places: [serac], starts: '2026-12-09T20:00' })
    const { proposalId } = (await propose(tashi, entryId, { start: '2026-12-09T19:15:00.000Z' })).body
    const refused = await take(proposalId, 1)
    expect([refused.status, problemOf(refused).code]).toEqual([409, 'place-taken'])
    expect(await read(entryId)).toMatchObject({ version: 1, places: [{ id: serac }] })
    expect(await open(ilse, entryId)).toHaveLength(1)
  })
})

describe('another time that the steward of a place proposes', () => {
  const LAB_LETTER = 'Thin-section lab, Innsbruck'
  let matteo: Client
  let lab: string
  beforeAll(async () => {
    matteo = await marmot.as('Matteo Ruprechter')
    lab = await marmot.placeId('Thin-section lab')
  })
  const ask = (starts: string, more: Record<string, unknown> = {}) =>
    marmot.reserve(ilse, 'Thin-section lab', starts, { title: 'Ammonite sections', ...more })
  const instead = (who: Client, entryId: string, start: string, more: Record<string, unknown> = {}) =>
    who.send<{ proposalId: string }>('POST', `/api/requests/${entryId}/${lab}/proposals`, {
      start,
      minutes: 60,
      message: 'The saw is set up then',
      ...more,
    })
  const ofNow = async (who: Client) =>
    (
      await who.get<{ proposals: { proposal: Proposal }[]; requests: Request[]; notices: Notice[] }>(
        '/api/now',
      )
    ).body
  const offered = async (entryId: string) =>
    (await ofNow(ilse)).proposals.filter((one) => one.proposal.entryId === entryId).map((one) => one.proposal)
  const requested = async (entryId: string) =>
    (await ofNow(matteo)).requests.find((one) => one.entryId === entryId)
  it('is taken with one press, and granted by it; taken back, it is asked for as before', async () => {
    const entryId = await ask('2027-02-02T10:00')
    const { proposalId } = (await instead(matteo, entryId, '2027-02-03T13:00:00.000Z')).body
    expect(await offered(entryId)).toMatchObject([
      { id: proposalId, name: 'Matteo Ruprechter', place: { id: lab }, message: 'The saw is set up then' },
    ])
    expect(await notices(ilse, entryId)).toMatchObject([
      { kind: 'proposed', who: 'Matteo Ruprechter', message: 'Wed 3 Feb 14:00 in Thin-section lab' },
    ])
    expect(await requested(entryId)).toMatchObject({ proposed: [{ proposalId }] })
    expect(await marmot.statesOf(entryId)).toEqual(['requested'])
    const taken = await take(proposalId, 1)
    expect(taken.status).toBe(200)
    expect(await marmot.statesOf(entryId)).toEqual(['taken'])
    expect(await read(entryId)).toMatchObject({ start: '2027-02-03T13:00:00.000Z' })
    expect(await offered(entryId)).toEqual([])
    expect(await notices(matteo, entryId)).toMatchObject([
      { kind: 'time-taken', who: 'Ilse Brandacher', message: 'Thin-section lab' },
      { kind: 'asked' },
    ])
    expect(marmot.letters(ilse.person.address, entryId).map((one) => one.where)).toEqual([
      `${LAB_LETTER} (asked for, not granted yet)`,
      LAB_LETTER,
    ])
    await ilse.send('POST', `/api/changes/${taken.body.changeId}/undo`)
    expect(await marmot.statesOf(entryId)).toEqual(['requested'])
    expect((await offered(entryId)).map((one) => one.id)).toEqual([proposalId])
  })

  it('of one date moves and grants that date alone; the others are still asked for', async () => {
    const entryId = await ask('2027-02-09T10:00', { series: { rule: 'FREQ=WEEKLY;COUNT=2', changes: [] } })
    const recurrence = '2027-02-16T10:00'
    const { proposalId } = (await instead(matteo, entryId, '2027-02-17T13:00:00.000Z', { recurrence })).body
    expect((await take(proposalId, 1)).status).toBe(200)
    expect(await marmot.statesOf(entryId)).toEqual(['requested', 'taken'])
    expect(await requested(entryId)).toMatchObject({
      dates: [{ recurrence: '2027-02-09T10:00' }],
      proposed: [],
    })
  })

  it('is declined, and the place is still asked for; withdrawn, or decided about, it is gone', async () => {
    const entryId = await ask('2027-02-23T10:00')
    const first = (await instead(matteo, entryId, '2027-02-24T13:00:00.000Z')).body.proposalId
    const message = 'Only then'
    expect((await ilse.send('POST', `/api/proposals/${first}/refuse`, { message })).status).toBe(200)
    expect(await notices(matteo, entryId)).toMatchObject([
      { kind: 'time-kept', who: 'Ilse Brandacher', message: 'Thin-section lab: Only then' },
      { kind: 'asked' },
    ])
    expect(await marmot.statesOf(entryId)).toEqual(['requested'])
    const second = (await instead(matteo, entryId, '2027-02-24T14:00:00.000Z')).body.proposalId
    expect((await matteo.send('DELETE', `/api/proposals/${second}`)).status).toBe(200)
    expect(await offered(entryId)).toEqual([])
    const third = (await instead(matteo, entryId, '2027-02-24T15:00:00.000Z')).body.proposalId
    await matteo.send('POST', `/api/requests/${entryId}/${lab}`, { grant: true })
    expect(await offered(entryId)).toEqual([])
    expect(problemOf(await take(third, 1)).code).toBe('proposal-closed')
  })

  it('is nobody else’s to propose, nor a time at which the place cannot be had', async () => {
    const entryId = await ask('2027-03-02T10:00')
    await marmot.reserve(matteo, 'Thin-section lab', '2027-03-03T14:00')
    for (const who of [ilse, tashi])
      expect((await instead(who, entryId, '2027-03-03T15:00:00.000Z')).status).toBe(404)
    const taken = await instead(matteo, entryId, '2027-03-03T13:30:00.000Z')
    expect([taken.status, problemOf(taken).code]).toEqual([409, 'place-taken'])
    const same = await instead(matteo, entryId, '2027-03-02T09:00:00.000Z')
    expect([same.status, problemOf(same).code]).toEqual([422, 'same-time'])
    expect(await offered(entryId)).toEqual([])
  })
})

describe('what is no proposal', () => {
  it.each([
    ['the same time', { start: '2026-12-08T17:00:00.000Z', minutes: 60 }, 422, 'same-time'],
    ['the past', { start: '2026-11-20T17:00:00.000Z' }, 422, 'in-the-past'],
    ['no length', { minutes: 0 }, 422, 'no-length'],
    ['no time', { start: 'soon' }, 422, 'invalid'],
    ['a date that is none', { recurrence: '2026-12-08T18:01' }, 409, 'no-such-date'],
  ])('%s', async (_, more, status, code) => {
    const entryId = await send('Moraine not so', {
      series: { rule: 'FREQ=WEEKLY;COUNT=2', changes: [] },
    })
    const refused = await propose(tashi, entryId, more)
    expect([refused.status, problemOf(refused).code]).toEqual([status, code])
  })

  it('what somebody who was not invited, or who organizes it, says; nor one to what is cancelled', async () => {
    const entryId = await send('Moraine closed')
    const matteo = await marmot.as('Matteo Ruprechter')
    expect((await propose(matteo, entryId)).status).toBe(404)
    expect((await matteo.get(`/api/meetings/${entryId}/proposals`)).status).toBe(404)
    expect((await propose(ilse, entryId)).status).toBe(409)
    const { proposalId } = (await propose(tashi, entryId)).body
    expect((await take(proposalId, 1, matteo)).status).toBe(404)
    expect((await take(proposalId, 99)).status).toBe(409)
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    expect(problemOf(await propose(tashi, entryId)).code).toBe('cancelled')
    await expect(byMail(entryId, NINE, 45)).rejects.toThrow('cancelled')
  })
})

describe('an invitation that is passed on', () => {
  const matteoId = () => marmot.personId('Matteo Ruprechter')
  const pass = (who: Client, entryId: string, to: unknown, more: Record<string, unknown> = {}) =>
    who.send('POST', `/api/meetings/${entryId}/delegate`, { to, ...more })

  it('has both in the list, invites the one and tells the organizer of the other', async () => {
    const entryId = await send('Moraine passed on')
    const passed = await pass(tashi, entryId, { person: await matteoId() }, { message: 'He has the keys' })
    expect(passed.status).toBe(200)
    await marmot.quiet()
    const meeting = await read(entryId)
    expect(meeting.participants.map((one) => [one.name, one.answer, one.delegatedFrom])).toEqual(
      expect.arrayContaining([
        ['Tashi Lhendup', 'delegated', null],
        ['Matteo Ruprechter', 'needs-action', 'Tashi Lhendup'],
      ]),
    )
    const letter = marmot.mail.mailboxes.of('matteo.ruprechter@corrie.example')[0]
    const lines = letter?.calendar.replace(/\r\n[ \t]/g, '') ?? ''
    expect(lines).toMatch(/ATTENDEE[^\r]*DELEGATED-FROM="mailto:tashi\.lhendup@corrie\.example"/)
    expect(lines).toMatch(/ATTENDEE[^\r]*DELEGATED-TO="mailto:matteo\.ruprechter@corrie\.example"/)
    expect(await notices(ilse, entryId)).toMatchObject([
      { answer: 'delegated', message: 'Passed on to Matteo Ruprechter. He has the keys' },
    ])
    expect(marmot.letters(GUEST, entryId)).toHaveLength(1)
  })

  it('by mail goes to an address, which answers for itself', async () => {
    const entryId = await send('Moraine by mail to another')
    const [letter] = marmot.mail.mailboxes.of(GUEST).filter((one) => one.calendar.includes(entryId))
    const to = 'sven.berg@lodestar.example'
    if (letter)
      await sendReply(letter, { delegate: to, comment: '' }, { host: '127.0.0.1', port: marmot.mailPort })
    await until(
      () => marmot.letters(to, entryId),
      (letters) => letters.length === 1,
    )
    expect(await answers(entryId)).toMatchObject({ 'Noor Haddad': 'delegated', [to]: 'needs-action' })
  })

  it('of one date is passed on for that date alone', async () => {
    const entryId = await send('Moraine one date on', {
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
    })
    const recurrence = '2026-12-15T18:00'
    await pass(tashi, entryId, { person: await matteoId() }, { recurrence })
    await marmot.quiet()
    expect(await answers(entryId, recurrence)).toMatchObject({
      'Tashi Lhendup': 'delegated',
      'Matteo Ruprechter': 'needs-action',
    })
    expect(await answers(entryId, '2026-12-22T18:00')).not.toHaveProperty('Matteo Ruprechter')
  })

  it.each([
    ['to oneself', async () => ({ person: tashi.person.id }), 'to-oneself'],
    ['to the organizer', async () => ({ person: ilse.person.id }), 'takes-part-already'],
    ['to who takes part', async () => ({ address: GUEST }), 'takes-part-already'],
  ])('is refused %s', async (_, to, code) => {
    const refused = await pass(tashi, await send('Moraine refused'), await to())
    expect([refused.status, problemOf(refused).code]).toEqual([409, code])
  })

  it('does not go round in a circle, nor to two', async () => {
    const entryId = await send('Moraine round')
    const matteo = await marmot.as('Matteo Ruprechter')
    await pass(tashi, entryId, { person: matteo.person.id })
    const back = await pass(matteo, entryId, { person: tashi.person.id })
    expect(problemOf(back).code).toBe('takes-part-already')
    const twice = await pass(tashi, entryId, { address: 'sven.berg@lodestar.example' })
    expect(problemOf(twice).code).toBe('passed-on-already')
  })
})

describe('an answer that is kept to oneself', () => {
  it('counts on one’s own lane, and the organizer learns nothing, not even by letter', async () => {
    const entryId = await send('Moraine quietly', {
      people: [tashi.person.id, await marmot.personId('Matteo Ruprechter')].map((id) => ({
        id,
        required: true,
      })),
    })
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'declined', quiet: true })
    expect(await answers(entryId)).toMatchObject({ 'Tashi Lhendup': 'needs-action' })
    expect(await notices(ilse, entryId)).toEqual([])
    const mine = (await tashi.get<Meeting>(`/api/meetings/${entryId}`)).body
    expect(mine).toMatchObject({ myAnswer: 'declined', answeredQuietly: true })
    // Nor from how many have answered, which stands on the organizer's own block.
    const lane = await ilse.get<{ occurrences: { entryId: string; answered: unknown }[] }>(
      `/api/entries?from=${mine.start}&to=${mine.end}`,
    )
    expect(lane.body.occurrences.find((one) => one.entryId === entryId)?.answered).toMatchObject({ said: 0 })
    const matteo = await marmot.as('Matteo Ruprechter')
    const seen = (await matteo.get<Meeting>(`/api/meetings/${entryId}`)).body
    expect(seen.participants.find((one) => one.personId === tashi.person.id)?.answer).toBe('needs-action')
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, title: 'Moraine named' })
    await marmot.quiet()
    const last = marmot.mail.mailboxes.of(GUEST)[0]?.calendar.replace(/\r\n[ \t]/g, '') ?? ''
    expect(last).toMatch(/PARTSTAT=NEEDS-ACTION[^\r]*tashi\.lhendup/)
    expect((await ilse.get('/api/export')).text).not.toMatch(/PARTSTAT=DECLINED[^\r]*tashi/)
  })

  it('is remembered as a choice, and told when the choice is another', async () => {
    const entryId = await send('Moraine told after all')
    const session = async () => (await tashi.get<{ answersQuietly: boolean }>('/api/session')).body
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted', quiet: true })
    expect((await session()).answersQuietly).toBe(true)
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted', quiet: false })
    expect((await session()).answersQuietly).toBe(false)
    expect(await answers(entryId)).toMatchObject({ 'Tashi Lhendup': 'accepted' })
    expect(await notices(ilse, entryId)).toMatchObject([{ answer: 'accepted' }])
  })
})

describe('a meeting that asks for no answer', () => {
  it('says so in the letter, waits for nobody, and asks when that is changed', async () => {
    const entryId = await send('Moraine unasked', { rsvp: false })
    const [letter] = marmot.letters(TASHI, entryId)
    expect(letter?.text).toContain('No answer is needed.')
    const { toAnswer } = (await tashi.get<{ toAnswer: Meeting[] }>('/api/now')).body
    expect(toAnswer.map((one) => one.entryId)).not.toContain(entryId)
    const nudged = await ilse.send<{ nudged: string[] }>('POST', `/api/meetings/${entryId}/nudge`, {})
    expect(nudged.body.nudged).toEqual([])
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, rsvp: true })
    await marmot.quiet()
    expect(marmot.letters(TASHI, entryId).map((one) => one.kind)).toEqual(['Invitation', 'Changed'])
    const raw = marmot.mail.mailboxes.of(TASHI)[0]?.calendar.replace(/\r\n[ \t]/g, '')
    expect(raw).toMatch(/RSVP=TRUE/)
  })
})
