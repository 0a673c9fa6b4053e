import type { Hit } from '@marmot/contract/closures'
import type { Meeting } from '@marmot/contract/meetings'
import type { Resource } from '@marmot/contract/resources'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let matteo: Client
let henrike: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
  henrike = await marmot.as('Henrike Aasland')
})
afterAll(() => marmot.stop())

const reserve = (who: Client, place: string, starts: string, more: Record<string, unknown> = {}) =>
  marmot.reserve(who, place, starts, { title: 'Quoin', ...more })
/** Two days after the demo's last. */
const DAY = { starts: '2027-04-12T00:00', minutes: 1440, zone: 'Europe/Vienna', allDay: true }
const at = (clock: string) => `2027-04-12T${clock}`
const closures = async (place: string) => `/api/resources/${await marmot.placeId(place)}/closures`
const look = async (who: Client, place: string, more: Record<string, unknown> = {}) =>
  who.send<{ hits: Hit[] }>('POST', `${await closures(place)}/look`, { ...DAY, ...more })
const close = async (who: Client, place: string, moves: unknown[], more: Record<string, unknown> = {}) =>
  who.send<{ closureId: string; moved: number; given: number }>('POST', await closures(place), {
    ...DAY,
    reason: 'in repair: new floor',
    moves,
    ...more,
  })
const whereOf = async (who: Client, entryId: string) => {
  const { body } = await who.get<Meeting>(`/api/meetings/${entryId}`)
  return body.cancelled ? 'cancelled' : body.place
}
const lettersOf = (who: Client, entryId: string) =>
  marmot.letters(who.person.address, entryId).map((one) => one.subject.split(':')[0])

describe('a place that is closed', () => {
  it('lists first what it hits; three are moved to their like, one is given up; each is told once', async () => {
    const entries = [
      [tashi, await reserve(tashi, 'Serac', at('09:00'), { purpose: 'Sorting' })],
      [matteo, await reserve(matteo, 'Serac', at('11:00'), { headCount: 7 })],
      [
        henrike,
        await reserve(henrike, 'Serac', at('13:00'), { people: [{ id: tashi.person.id, required: true }] }),
      ],
      [tashi, await reserve(tashi, 'Serac', at('15:00'))],
    ] as const
    const bystander = await reserve(matteo, 'Serac', '2027-04-13T09:00')
    await marmot.quiet()
    const { hits } = (await look(ilse, 'Serac')).body
    expect(hits.map((one) => [one.by, one.purpose, one.meeting, one.headCount])).toEqual([
      ['Tashi Lhendup', 'Sorting', false, null],
      ['Matteo Ruprechter', '', false, 7],
      ['Henrike Aasland', '', true, null],
      ['Tashi Lhendup', '', false, null],
    ])
    expect(JSON.stringify(hits)).not.toContain('Quoin')
    // Those with two screens and a camera first; then such as lack something, which is said.
    expect(hits[0]?.likes.slice(0, 2).map((one) => [one.name, one.lacks])).toEqual([
      ['Col', []],
      ['Firn', []],
    ])
    expect(hits[1]?.likes.every((one) => one.seats >= 7)).toBe(true)
    expect(hits[0]?.likes.find((one) => one.name === 'Moraine')?.lacks).toEqual(['screens'])

    const moves = hits.map((one, i) => ({
      reservationId: one.reservationId,
      to: i < 3 ? one.likes[0]?.id : null,
    }))
    const done = await close(ilse, 'Serac', moves)
    expect(done.body).toMatchObject({ moved: 3, given: 1 })
    const places = await Promise.all(entries.map(([who, entryId]) => whereOf(who, entryId)))
    expect(places).toEqual(['Col, Innsbruck', 'Col, Innsbruck', 'Col, Innsbruck', 'cancelled'])
    expect(await whereOf(matteo, bystander)).toBe('Serac, Innsbruck')
    await marmot.quiet()
    expect(entries.map(([who, entryId]) => lettersOf(who, entryId))).toEqual([
      ['Reserved', 'Changed'],
      ['Reserved', 'Changed'],
      // The organizer of a meeting is told by a notice, those invited by a letter.
      [],
      ['Reserved', 'Cancelled'],
    ])
    expect(lettersOf(tashi, entries[2][1])).toEqual(['Invitation', 'Changed'])
    const [, , , [, given]] = entries
    const why = marmot.letters(tashi.person.address, given).at(-1)?.text
    expect(why).toContain('in repair: new floor')
    expect(why).toContain('Ilse Brandacher has cancelled your reservation')
    const notices = await henrike.get<{ notices: { kind: string; message: string }[] }>('/api/now')
    expect(notices.body.notices).toContainEqual(
      expect.objectContaining({
        kind: 'moved',
        message: expect.stringContaining('Col instead of Serac, Monday 12 April 2027'),
      }),
    )

    const refused = await tashi.send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: at('16:00'), places: [await marmot.placeId('Serac')] }),
    )
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-closed' })
    expect(problemOf(refused).detail).toContain('Serac is closed then: in repair: new floor.')

    const opened = await ilse.send('DELETE', `${await closures('Serac')}/${done.body.closureId}`)
    expect(opened.status).toBe(200)
    const again = await tashi.send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: at('16:00'), places: [await marmot.placeId('Serac')] }),
    )
    expect(again.status).toBe(200)
  })

  it('hits nothing that was not seen, and does nothing where another place is gone meanwhile', async () => {
    const entryId = await reserve(tashi, 'Moraine', at('09:00'))
    const { hits } = (await look(ilse, 'Moraine')).body
    await reserve(matteo, 'Moraine', at('11:00'))
    const late = await close(
      ilse,
      'Moraine',
      hits.map((one) => ({ reservationId: one.reservationId, to: null })),
    )
    expect(problemOf(late)).toMatchObject({ status: 409, code: 'more-hit' })
    expect(problemOf(late).detail).toContain('Matteo Ruprechter')

    const now = (await look(ilse, 'Moraine')).body.hits
    const [best] = now[0]?.likes ?? []
    await reserve(henrike, best?.name ?? '', at('09:30'))
    const gone = await close(
      ilse,
      'Moraine',
      now.map((one) => ({ reservationId: one.reservationId, to: best?.id })),
    )
    expect(problemOf(gone)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(await whereOf(tashi, entryId)).toBe('Moraine, Innsbruck')
    const resources = await ilse.get<{ resources: Resource[] }>('/api/resources')
    expect(resources.body.resources.find((one) => one.name === 'Moraine')?.closed).toMatchObject([
      { closureId: null },
    ])
  })

  it('moves nothing to itself, and calls off the one date of a series that is nothing but its place', async () => {
    const entryId = await reserve(tashi, 'Col', '2027-04-12T18:30', {
      series: { rule: 'FREQ=DAILY;COUNT=3', changes: [] },
    })
    const [hit] = (await look(ilse, 'Col')).body.hits
    const itself = [{ reservationId: hit?.reservationId, to: await marmot.placeId('Col') }]
    const others = (await look(ilse, 'Col')).body.hits.slice(1)
    const rest = others.map((one) => ({ reservationId: one.reservationId, to: null }))
    expect((await close(ilse, 'Col', [...itself, ...rest])).status).toBe(404)
    const mine = (await look(ilse, 'Col')).body.hits
    const all = mine.map((one) => ({ reservationId: one.reservationId, to: null }))
    expect((await close(ilse, 'Col', all)).status).toBe(200)
    const dates = await marmot.pool.query<{ day: string }>(
      `select to_char(recurrence, 'DD') as day from occurrence where entry_id = $1 and gone_at is null order by 1`,
      [entryId],
    )
    expect(dates.rows.map((row) => row.day)).toEqual(['13', '14'])
  })

  it('ends in no mistake while what it hits is changed in the same moment', async () => {
    for (const date of [15, 16, 19, 20, 21, 22]) {
      const day = `2027-04-${date}`
      const hall = await reserve(matteo, 'Firn', `${day}T18:30`)
      const span = { starts: `${day}T00:00` }
      const { hits } = (await look(ilse, 'Firn', span)).body
      const moves = hits.map((one) => ({ reservationId: one.reservationId, to: null }))
      const answers = await Promise.all([
        close(ilse, 'Firn', moves, span),
        matteo.send('POST', `/api/meetings/${hall}/change`, { version: 1, starts: `${day}T19:30` }),
        matteo.send('POST', `/api/meetings/${hall}/change`, { version: 1, minutes: 30 }),
      ])
      for (const answer of answers) expect([200, 404, 409], answer.text).toContain(answer.status)
    }
  })

  it('repeats by a rule, and once however often it is pressed', async () => {
    const series = {
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
      starts: at('07:00'),
      minutes: 120,
      allDay: false,
    }
    const bergschrund = await closures('Bergschrund')
    const body = { ...DAY, ...series, reason: 'cleaning', moves: [] }
    const answers = await Promise.all(
      [1, 2, 3].map(() =>
        ilse.send<{ closureId: string }>('POST', bergschrund, body, { 'idempotency-key': 'close-once' }),
      ),
    )
    expect(new Set(answers.map((one) => one.body.closureId)).size).toBe(1)
    const resources = await ilse.get<{ resources: Resource[] }>('/api/resources')
    const { closed = [] } = resources.body.resources.find((one) => one.name === 'Bergschrund') ?? {}
    const own = closed.filter((one) => one.closureId !== null)
    expect(own.map((one) => one.start.slice(0, 10))).toEqual(['2027-04-12', '2027-04-19', '2027-04-26'])
  })

  it('is closed by whoever looks after it alone, and refused in words', async () => {
    for (const answer of [await look(tashi, 'Col'), await close(tashi, 'Col', [])])
      expect(answer.status).toBe(404)
    expect((await close(ilse, 'Cold lab −20', [])).status).toBe(404)
    expect(problemOf(await close(ilse, 'Col', [], { reason: '' })).status).toBe(422)
    expect(problemOf(await close(ilse, 'Col', [], { minutes: -30, allDay: false })).code).toBe(
      'ends-before-start',
    )
    expect(problemOf(await close(ilse, 'Col', [], { starts: '2026-01-01T00:00' })).code).toBe('in-the-past')
    expect(
      problemOf(await close(ilse, 'Col', [], { series: { rule: 'FREQ=DAILY', changes: [] } })).code,
    ).toBe('series-too-long')
  })
})
