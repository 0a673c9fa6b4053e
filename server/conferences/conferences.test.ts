import { createHmac, randomUUID } from 'node:crypto'
import { createRequire } from 'node:module'
import type { Record } from '@marmot/contract/conferences'
import type { Meeting } from '@marmot/contract/meetings'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type ConferenceStandIn, startConferenceStandIn } from '../../standins/conference/server.ts'
import { closeRooms, giveRooms } from '../meetings/index.ts'
import {
  type Client,
  GUEST,
  problemOf,
  startTestMarmot,
  TEST_START,
  type TestMarmot,
  testSettings,
  until,
  withGuest,
} from '../testing/marmot.ts'

const KEY = 'a key that only these two know'
const SOON = '2026-11-23T09:15'

let service: ConferenceStandIn
let marmot: TestMarmot
let ilse: Client
let tashi: Client
let aroha: Client
let matteo: Client
let catalina: Client
beforeAll(async () => {
  service = await startConferenceStandIn({ port: 0, key: KEY, file: null })
  marmot = await startTestMarmot({ conference: { url: `http://localhost:${service.port}`, key: KEY } })
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  aroha = await marmot.as('Aroha Pene')
  matteo = await marmot.as('Matteo Ruprechter')
  catalina = await marmot.as('Catalina Reyes')
})
afterAll(async () => {
  await marmot.stop()
  await service.stop()
})

const aMeetingOf = (more: { [name: string]: unknown } = {}) =>
  marmot.sendMeeting(ilse, {
    conference: true,
    ...withGuest(tashi),
    ...more,
  })
const meetingOf = async (entryId: string, who = ilse) =>
  (await who.get<Meeting>(`/api/meetings/${entryId}`)).body
const recordOf = async (entryId: string, who = ilse) =>
  (await who.get<Record>(`/api/meetings/${entryId}/record`)).body
const roomOf = async (entryId: string) => {
  const rows = await marmot.pool.query<{ room: string }>(
    "select conference ->> 'room' as room from entry where id = $1",
    [entryId],
  )
  const room = service.rooms.byId(rows.rows[0]?.room ?? '')
  if (!room) throw new Error('there is no room')
  return room
}

/** Goes through the door of a room as a browser does, and gives how to leave again. */
const comeIn = async (link: string) => {
  const url = new URL(link)
  const ticket = url.searchParams.get('ticket') ?? ''
  const door = await fetch(link)
  const join = await fetch(`${url.origin}${url.pathname}/join`, {
    method: 'POST',
    body: new URLSearchParams({ ticket }),
    redirect: 'manual',
  })
  const seat = new URL(join.headers.get('location') ?? '', url.origin).searchParams.get('seat') ?? ''
  return {
    door: await door.text(),
    leave: () =>
      fetch(`${url.origin}${url.pathname}/leave`, { method: 'POST', body: new URLSearchParams({ seat }) }),
  }
}
const join = async (who: Client, entryId: string) => {
  const joined = await who.send<{ link: string }>('POST', `/api/meetings/${entryId}/join`, {})
  if (joined.status !== 200) throw new Error(joined.text)
  return comeIn(joined.body.link)
}
const recordComesTo = (entryId: string, holds: (record: Record) => boolean) =>
  until(() => recordOf(entryId), holds, 20)

/** Reports a stay as the service does. */
const report = (body: { [name: string]: unknown }, key = KEY) => {
  const text = JSON.stringify(body)
  return fetch(`${marmot.url}/api/conferences/seats`, {
    method: 'POST',
    headers: { 'x-signature': createHmac('sha256', key).update(text).digest('base64url') },
    body: text,
  })
}

describe('a meeting that one can join from afar', () => {
  it('has a link, a number and a code by itself: on the screen, in the letter and in its calendar part', async () => {
    const entryId = await aMeetingOf({ note: 'Bring the maps' })
    const { conference } = await meetingOf(entryId, tashi)
    expect(conference).toMatchObject({ link: expect.stringMatching(/^http/), telephone: '+43 512 555 0100' })
    const [letter] = marmot.mail.mailboxes.of(GUEST)
    expect(letter?.text).toContain(`Join:     ${conference?.link}`)
    expect(letter?.text).toMatch(/By telephone \+43 512 555 0100, code \d{3} \d{3} \d{3}/)
    const calendar = letter?.calendar.replace(/\r\n[ \t]/g, '') ?? ''
    expect(calendar).toContain(`CONFERENCE;FEATURE=VIDEO;LABEL=Join;VALUE=URI:${conference?.link}`)
    // Read by another library.
    const ical = createRequire(import.meta.url)('node-ical')
    const event = Object.values<{ type: string; conference?: unknown }>(
      ical.sync.parseICS(letter?.calendar ?? ''),
    ).find((one) => one.type === 'VEVENT')
    expect(JSON.stringify(event?.conference)).toContain(conference?.link)
    expect(JSON.stringify(event?.conference)).toContain(`tel:+435125550100,,${conference?.code}`)
  })

  it('can be joined from ten minutes before, by those who take part, under their own names', async () => {
    const later = await aMeetingOf()
    const early = await tashi.send('POST', `/api/meetings/${later}/join`, {})
    expect([early.status, problemOf(early).detail]).toEqual([
      409,
      'One can join ten minutes before it begins.',
    ])
    const entryId = await aMeetingOf({ starts: SOON })
    expect((await matteo.send('POST', `/api/meetings/${entryId}/join`, {})).status).toBe(404)
    expect((await matteo.get(`/api/meetings/${entryId}/record`)).status).toBe(404)
    const inside = await join(tashi, entryId)
    expect(inside.door).toContain('Tashi Lhendup')
    const guest = await marmot.anyone<{ link: string }>('POST', `${marmot.linkOf(GUEST, entryId)}/join`, {})
    await comeIn(guest.body.link)
    const record = await recordComesTo(entryId, (now) => now.attended.length === 2)
    expect(record.attended.map((one) => [one.name, one.until])).toEqual([
      ['Tashi Lhendup', null],
      ['Rosa Quispe', null],
    ])
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    const late = await tashi.send('POST', `/api/meetings/${entryId}/join`, {})
    expect([late.status, problemOf(late).detail]).toEqual([409, 'This meeting was cancelled.'])
    // A ticket that somebody has made up, or of another room, is none.
    const forged = `${(await roomOf(later)).slug}`
    const other = new URL(guest.body.link)
    const door = await fetch(`${other.origin}/r/${forged}${other.search}`)
    expect(await door.text()).not.toContain('Rosa Quispe')
  })

  it('has a record that is right to the second, whoever comes twice, whatever the clocks say', async () => {
    const entryId = await aMeetingOf({ starts: SOON })
    const { room } = await roomOf(entryId)
    const mine = (await meetingOf(entryId)).participants.find((one) => one.name === 'Tashi Lhendup')?.id
    // The service's clock is years behind ours.
    const now = Date.parse('2020-05-01T12:00:00Z')
    const at = (seconds: number) => new Date(now + seconds * 1000).toISOString()
    const [first, second, third] = [randomUUID(), randomUUID(), randomUUID()]
    const stays = [
      { seat: first, participant: mine, name: 'x', via: 'link', joined: at(-300), left: null },
      { seat: first, participant: mine, name: 'x', via: 'link', joined: at(-300), left: at(-200) },
      // Heard of late: what was over stays over.
      { seat: first, participant: mine, name: 'x', via: 'link', joined: at(-300), left: null },
      { seat: second, participant: mine, name: 'x', via: 'link', joined: at(-250), left: at(-180) },
      { seat: third, participant: mine, name: 'x', via: 'link', joined: at(-100), left: at(-63) },
      {
        seat: randomUUID(),
        participant: null,
        name: '+43 664 555 01',
        via: 'telephone',
        joined: at(-90),
        left: at(-30),
      },
    ]
    for (const stay of stays) expect((await report({ ...stay, room, now: at(0) })).status).toBe(200)
    const { attended } = await recordOf(entryId)
    expect(attended.map(({ name, seconds }) => [name, seconds])).toEqual([
      ['Tashi Lhendup', 120 + 37],
      ['+43 664 555 01', 60],
    ])
    const [tashis] = attended
    // Reports that come a moment apart are held against our clock a moment apart.
    const lasted = Date.parse(tashis?.until ?? '') - Date.parse(tashis?.from ?? '')
    expect(Math.abs(lasted - 237_000)).toBeLessThan(1000)
    expect(Math.abs(Date.parse(tashis?.from ?? '') + 300_000 - TEST_START)).toBeLessThan(60_000)
  })

  it('takes no report that is not signed, of no room, or for somebody of another meeting', async () => {
    const entryId = await aMeetingOf({ starts: SOON })
    const other = await aMeetingOf({ starts: SOON })
    const { room } = await roomOf(entryId)
    const theirs = (await meetingOf(other)).participants[1]?.id
    const now = new Date().toISOString()
    const stay = {
      seat: randomUUID(),
      room,
      participant: theirs,
      name: 'Mallory',
      via: 'link',
      joined: now,
      left: null,
      now,
    }
    expect((await report(stay, 'another key altogether')).status).toBe(403)
    expect((await report({ ...stay, room: randomUUID() })).status).toBe(404)
    expect((await report({ ...stay, joined: 'never' })).status).toBe(422)
    expect((await recordOf(entryId)).attended).toEqual([])
    expect((await report(stay)).status).toBe(200)
    // Whoever it was, it was nobody of this meeting: they stand there by the name that they gave.
    expect((await recordOf(entryId)).attended.map((one) => one.name)).toEqual(['Mallory'])
  })

  it('gets its link once the service answers, by one letter that asks nobody again', async () => {
    const nobody = { url: 'http://127.0.0.1:1', key: KEY }
    const away = await startTestMarmot({ conference: nobody })
    try {
      const me = await away.as('Ilse Brandacher')
      const entryId = await away.sendMeeting(me, {
        conference: true,
        guests: [{ address: GUEST, name: 'Rosa Quispe', required: true }],
      })
      expect((await me.get<Meeting>(`/api/meetings/${entryId}`)).body.conference).toMatchObject({ link: '' })
      expect(away.letters(GUEST, entryId)).toMatchObject([{ kind: 'Invitation' }])
      expect(away.letters(GUEST, entryId)[0]?.text).not.toContain('Join:')
      const house = (conference: { url: string; key: string }) => ({
        pool: away.pool,
        clock: () => TEST_START,
        settings: testSettings(away.databaseUrl, { conference }),
        url: () => away.url,
      })
      await giveRooms(house(nobody))
      // It answers from now on, and is asked for nothing that it gave.
      for (let i = 0; i < 2; i++)
        await giveRooms(house({ ...nobody, url: `http://localhost:${service.port}` }))
      await away.quiet()
      expect(away.letters(GUEST, entryId)).toHaveLength(2)
      const update = away.letters(GUEST, entryId)[1]
      expect(update).toMatchObject({ kind: 'Changed', sequence: '0' })
      expect(update?.text).toContain('Join:')
      expect(update?.text).toContain('Your answer stands')
    } finally {
      await away.stop()
    }
  })

  it('loses its link when it is taken off, and its code leads nowhere when the meeting is over', async () => {
    const entryId = await aMeetingOf()
    const room = await roomOf(entryId)
    const changed = await ilse.send('POST', `/api/meetings/${entryId}/change`, {
      version: 1,
      conference: false,
    })
    expect(changed.status).toBe(200)
    await marmot.quiet()
    expect((await meetingOf(entryId)).conference).toBeNull()
    expect(marmot.letters(GUEST, entryId).at(-1)).toMatchObject({ kind: 'Changed', sequence: '0' })
    expect(marmot.letters(GUEST, entryId).at(-1)?.text).not.toContain('Join:')
    // And gets one again.
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 2, conference: true })
    expect((await meetingOf(entryId)).conference?.link).toMatch(/^http/)
    service.rooms.close(room)
    const page = await fetch(`http://localhost:${service.port}/r/${room.slug}`)
    expect([page.status, await page.text()]).toEqual([404, expect.stringContaining('over')])
    const dialled = await fetch(`http://localhost:${service.port}/dial-in`, {
      method: 'POST',
      body: new URLSearchParams({ code: room.code, number: '+43 1' }),
    })
    expect(await dialled.text()).toContain('Nobody meets under this code')
  })
})

describe('a room in which nobody meets any more', () => {
  it('is closed a week after, and its meeting has no link then; others stay, and nobody is told', async () => {
    const [over, lost, coming] = [await aMeetingOf(), await aMeetingOf(), await aMeetingOf()]
    const rooms = [await roomOf(over), await roomOf(coming)]
    await marmot.pool.query(
      "update occurrence set span = tstzrange('2026-11-10T09:00Z', '2026-11-10T10:00Z') where entry_id = any($1)",
      [[over, lost]],
    )
    await marmot.pool.query(
      "update entry set conference = conference || jsonb_build_object('room', gen_random_uuid()) where id = $1",
      [lost],
    )
    const before = marmot.letters(GUEST, over).length
    await closeRooms({
      pool: marmot.pool,
      clock: () => TEST_START,
      settings: testSettings(marmot.databaseUrl, {
        conference: { url: `http://localhost:${service.port}`, key: KEY },
      }),
    })
    await marmot.quiet()
    expect(rooms.map((one) => one.over)).toEqual([true, false])
    const kept = await marmot.pool.query<{ id: string }>(
      'select id from entry where id = any($1) and conference is not null',
      [[over, lost, coming]],
    )
    expect(kept.rows.map((row) => row.id)).toEqual([coming])
    expect(marmot.letters(GUEST, over)).toHaveLength(before)
  })
})

describe('meeting right away', () => {
  const calls = async (who: Client) =>
    (await who.get<{ calls: { id: string; entryId: string; by: string }[] }>('/api/calls')).body.calls

  it('calls those who are chosen, has them in within seconds, one by address, one by telephone', async () => {
    const headers = { 'idempotency-key': randomUUID() }
    const body = { title: '', people: [tashi.person.id, aroha.person.id], guests: [] }
    const made = await ilse.send<{ entryId: string }>('POST', '/api/meetings/right-away', body, headers)
    expect(made.status).toBe(200)
    const { entryId } = made.body
    expect(
      (await ilse.send<{ entryId: string }>('POST', '/api/meetings/right-away', body, headers)).body.entryId,
    ).toBe(entryId)
    for (const who of [tashi, aroha])
      expect(await calls(who)).toMatchObject([{ entryId, by: 'Ilse Brandacher' }])
    expect(await calls(ilse)).toEqual([])
    expect((await recordOf(entryId)).called.sort()).toEqual(['Aroha Pene', 'Tashi Lhendup'])
    const [me, she] = [await join(ilse, entryId), await join(tashi, entryId)]
    await recordComesTo(entryId, (now) => now.attended.length === 2)
    expect(await calls(tashi)).toEqual([])
    const [call] = await calls(aroha)
    expect((await tashi.send('DELETE', `/api/calls/${call?.id}`)).status).toBe(404)
    expect((await aroha.send('DELETE', `/api/calls/${call?.id}`)).status).toBe(200)
    expect((await recordOf(entryId)).called).toEqual([])

    const callIn = (to: object, who = ilse) => who.send('POST', `/api/meetings/${entryId}/call`, { to })
    expect((await callIn({ address: GUEST, name: 'Rosa Quispe' })).status).toBe(200)
    await marmot.quiet()
    const letter = marmot.letters(GUEST, entryId).at(-1)
    const link = /Join: +(\S+)/.exec(letter?.text ?? '')?.[1] ?? ''
    const door = new URL(link)
    await fetch(`${door.origin}${door.pathname}/join`, {
      method: 'POST',
      body: new URLSearchParams({ name: 'Rosa Quispe' }),
    })
    expect((await callIn({ number: '+43 664 555 0199' }, tashi)).status).toBe(200)
    expect((await recordOf(entryId)).called).toEqual(['+43 664 555 0199'])
    expect((await callIn({ number: 'nobody' })).status).toBe(422)
    expect((await callIn({ number: '+43 664 555 0199' }, matteo)).status).toBe(404)
    const room = await roomOf(entryId)
    await fetch(`${door.origin}/r/${room.slug}/answer`, {
      method: 'POST',
      body: new URLSearchParams({ number: '+43 664 555 0199' }),
    })
    // Colleagues who were not asked take part from now on, and it rings for them; both called in the same second.
    const both = await Promise.all([matteo, catalina].map((who) => callIn({ person: who.person.id })))
    expect(both.map((one) => one.status)).toEqual([200, 200])
    expect(await calls(catalina)).toMatchObject([{ entryId }])
    expect(await calls(matteo)).toMatchObject([{ entryId }])
    await join(matteo, entryId)
    const full = await recordComesTo(entryId, (now) => now.attended.length === 5)
    expect(full.attended.map((one) => one.name)).toEqual([
      'Ilse Brandacher',
      'Tashi Lhendup',
      'Rosa Quispe',
      '+43 664 555 0199',
      'Matteo Ruprechter',
    ])
    await me.leave()
    await she.leave()
    const left = await recordComesTo(entryId, (now) => now.attended.filter((one) => one.until).length === 2)
    for (const [i, stay] of room.seats.slice(0, 2).entries())
      expect(
        Math.abs((left.attended[i]?.seconds ?? 0) * 1000 - ((stay.left ?? 0) - stay.joined)),
      ).toBeLessThanOrEqual(1000)
  })

  it('rings for a minute and no longer, and for nobody who does not take part any more', async () => {
    const made = await ilse.send<{ entryId: string }>('POST', '/api/meetings/right-away', {
      people: [tashi.person.id],
      guests: [],
    })
    const { entryId } = made.body
    expect(await calls(tashi)).toHaveLength(1)
    // Called once more while it rings, it rings once.
    await ilse.send('POST', `/api/meetings/${entryId}/call`, { to: { person: tashi.person.id } })
    expect(await calls(tashi)).toHaveLength(1)
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, people: [], guests: [] })
    expect(await calls(tashi)).toEqual([])
    const again = await ilse.send('POST', `/api/meetings/${entryId}/call`, {
      to: { person: tashi.person.id },
    })
    expect([again.status, again.text]).toEqual([200, '{}'])
    expect(await calls(tashi)).toHaveLength(1)
    await marmot.pool.query("update call set at = at - interval '61 seconds'")
    expect(await calls(tashi)).toEqual([])
    // Whoever calls and calls is stopped.
    await marmot.pool.query(
      `insert into call (occurrence_id, person_id, actor_id, at)
       select c.occurrence_id, c.person_id, c.actor_id, c.at from call c, generate_series(1, 100) where c.actor_id = $1`,
      [ilse.person.id],
    )
    const more = await ilse.send('POST', `/api/meetings/${entryId}/call`, { to: { person: tashi.person.id } })
    expect([more.status, problemOf(more).code]).toEqual([429, 'too-many-calls'])
  })
})
