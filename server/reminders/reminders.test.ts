import type { Reminder } from '@marmot/contract/reminders'
import { MINUTE } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPool } from '../platform/database.ts'
import { type Client, startTestMarmot, TEST_START, type TestMarmot, until } from '../testing/marmot.ts'
import { remind } from './index.ts'

let marmot: TestMarmot
let ilse: Client
/** A second server on the same database, as far as reminders go. */
let other: ReturnType<typeof openPool>
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  other = openPool(marmot.databaseUrl)
})
afterAll(async () => {
  await other.end()
  await marmot.stop()
})

/** 09:12 in Innsbruck, so many minutes later. */
const at = (minutes: number) => TEST_START + minutes * MINUTE
const clock = (minutes: number) => new Date(at(minutes) + 60 * MINUTE).toISOString().slice(0, 16)

const make = async (title: string, minutesAhead: number, more: Record<string, unknown> = {}) =>
  (
    await ilse.send<{ entryId: string; version: number; recurrence: string }>('POST', '/api/entries', {
      title,
      starts: clock(minutesAhead),
      minutes: 30,
      zone: 'Europe/Vienna',
      ...more,
    })
  ).body

const due = async (title: string) =>
  (await ilse.get<{ reminders: Reminder[] }>('/api/reminders')).body.reminders.filter(
    (one) => one.title === title,
  )
const remindAll = async (minutes: number) => {
  await remind(marmot.pool, at(minutes))
}
const written = async (title: string) =>
  (
    await marmot.pool.query(
      `select r.id from reminder r join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
        where e.title = $1 and r.told_at is not null`,
      [title],
    )
  ).rowCount

describe('reminders', () => {
  it('come each once, as the entry says or as usual, with two servers asking at the same moment', async () => {
    await remindAll(0)
    await make('Beacons', 20, { reminders: [5, 15] })
    await make('As usual', 20)
    await make('None wanted', 20, { reminders: [] })
    await Promise.all([1, 2, 3, 4, 5, 6].map((i) => remind(i % 2 ? marmot.pool : other, at(6))))
    expect(await due('Beacons')).toHaveLength(1)
    expect(await due('As usual')).toEqual([])
    await Promise.all([1, 2, 3, 4].map((i) => remind(i % 2 ? marmot.pool : other, at(11))))
    expect(await due('As usual')).toHaveLength(1)
    await remindAll(16)
    expect(await due('Beacons')).toHaveLength(2)
    expect(await written('Beacons')).toBe(2)
    expect(await due('None wanted')).toEqual([])
  })

  it('are put away, and come again when they are snoozed', async () => {
    await make('Snow pit', 40, { reminders: [10] })
    await remindAll(31)
    const [first] = await due('Snow pit')
    await ilse.send('POST', `/api/reminders/${first?.id}/snooze`, { minutes: 40 })
    expect(await due('Snow pit')).toEqual([])
    // The server’s own clock stands at the beginning: forty minutes from there.
    await remindAll(34)
    expect(await due('Snow pit')).toEqual([])
    await remindAll(45)
    expect(await due('Snow pit')).toHaveLength(1)
    await ilse.send('POST', `/api/reminders/${first?.id}/dismiss`)
    await remindAll(50)
    expect(await due('Snow pit')).toEqual([])
    const tashi = await marmot.as('Tashi Lhendup')
    expect((await tashi.send('POST', `/api/reminders/${first?.id}/snooze`, { minutes: 5 })).status).toBe(404)
  })

  it('do not come for what was deleted or declined meanwhile, and come anew for what moved', async () => {
    const gone = await make('Gone', 80, { reminders: [10] })
    const moved = await make('Moved', 80, { reminders: [10] })
    const path = (one: typeof gone) => `/api/entries/${one.entryId}`
    await ilse.send('DELETE', `${path(gone)}?recurrence=${gone.recurrence}&version=1`)
    await ilse.send('PUT', path(moved), {
      title: 'Moved',
      starts: clock(100),
      minutes: 30,
      zone: 'Europe/Vienna',
      reminders: [10],
      recurrence: moved.recurrence,
      version: 1,
    })
    const henrike = await marmot.as('Henrike Aasland')
    const meeting = await henrike.send<{ entryId: string }>('POST', '/api/meetings', {
      title: 'Declined',
      starts: clock(80),
      minutes: 30,
      zone: 'Europe/Vienna',
      people: [{ id: ilse.person.id, required: true }],
      guests: [],
      places: [],
    })
    await ilse.send('POST', `/api/meetings/${meeting.body.entryId}/answer`, { answer: 'declined' })
    await remindAll(71)
    expect([...(await due('Gone')), ...(await due('Moved')), ...(await due('Declined'))]).toEqual([])
    await remindAll(91)
    expect(await due('Moved')).toHaveLength(1)
  })

  it('of a server that was away for an hour come for what is still ahead, not for what is over', async () => {
    await make('Over by then', 130, { reminders: [10] })
    await make('Still ahead', 185, { reminders: [60] })
    await remindAll(180)
    expect(await written('Over by then')).toBe(0)
    expect(await due('Still ahead')).toHaveLength(1)
  })

  it('go out by mail, too, to those who want that, once', async () => {
    const preferences = (await ilse.get<Record<string, unknown>>('/api/preferences')).body
    await ilse.send('PUT', '/api/preferences', { ...preferences, remindsByMail: true })
    await make('By mail', 230, { reminders: [30], place: 'Firn' })
    await Promise.all([remind(marmot.pool, at(201)), remind(other, at(201))])
    const letters = await until(
      () =>
        marmot.mail.mailboxes
          .of('ilse.brandacher@corrie.example')
          .filter((letter) => letter.subject.includes('By mail')),
      (found) => found.length > 0,
    )
    expect(letters).toHaveLength(1)
  })
})
