import type { Meeting } from '@marmot/contract/meetings'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startMarmot } from '../app.ts'
import {
  aMeeting,
  type Client,
  copyDemo,
  signInAs,
  startLetterBox,
  startTestMarmot,
  type TestMarmot,
  testSettings,
  until,
} from '../testing/marmot.ts'
import { openPool } from './database.ts'

let marmot: TestMarmot
let ilse: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
})
afterAll(() => marmot.stop())

/** Follows the live events of a person; what was heard so far is in `text`. */
const listen = async (url: string, cookie: string) => {
  const stop = new AbortController()
  const heard = { text: '', stop: () => stop.abort() }
  const response = await fetch(`${url}/api/events`, { headers: { cookie }, signal: stop.signal })
  const reader = response.body?.getReader()
  const decoder = new TextDecoder()
  const pump = async (): Promise<void> => {
    for (let part = await reader?.read(); part && !part.done; part = await reader?.read())
      heard.text += decoder.decode(part.value)
  }
  pump().catch(() => undefined)
  await until(
    () => heard.text,
    (text) => text.includes('ready'),
  )
  return heard
}

describe('when the database drops every connection', () => {
  it('browsers are told to ask again, and hear what happens after', async () => {
    const heard = await listen(marmot.url, ilse.cookie)
    const before = heard.text.length
    const admin = openPool(marmot.databaseUrl)
    await admin.query(
      'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
    )
    await admin.end()
    await until(
      () => heard.text.slice(before),
      (text) => text.includes('event: again'),
    )
    // Requests work again by themselves; one that met a dead connection may be repeated.
    const made = await until(
      () =>
        ilse.send<{ entryId: string }>('POST', '/api/entries', {
          title: 'After the storm',
          starts: '2026-12-10T10:00',
          minutes: 30,
          zone: 'Europe/Vienna',
        }),
      (answer) => answer.status === 200,
    )
    expect(made.body.entryId).toBeTruthy()
    await until(
      () => heard.text.slice(before),
      (text) => text.includes(ilse.person.id),
    )
    heard.stop()
  })
})

describe('when the database drops every connection again and again', () => {
  it('the job runner comes back once, and stays', async () => {
    const admin = openPool(marmot.databaseUrl, () => undefined, { most: 1 })
    for (let i = 0; i < 30; i++)
      await admin.query(
        `select pg_terminate_backend(pid), pg_sleep(0.03) from pg_stat_activity
          where datname = current_database() and pid <> pg_backend_pid()`,
      )
    /** The connections that hold the locks of living workers; they are others after each start of the runner. */
    const holders = async () =>
      (
        await admin.query<{ pid: number }>(
          `select distinct l.pid from pg_locks l join pg_stat_activity a on a.pid = l.pid
            where l.locktype = 'advisory' and a.datname = current_database()`,
        )
      ).rows.map((row) => row.pid)
    let [seen, times] = ['', 0]
    await until(
      async () => {
        const now = JSON.stringify(await holders())
        times = now === seen && now !== '[]' ? times + 1 : 0
        seen = now
        return times
      },
      (same) => same >= 40,
      30,
    )
    await admin.end()
  })
})

describe('two servers on one database', () => {
  it('send each letter once, and a change on one is heard on the other', async () => {
    const databaseUrl = await copyDemo()
    const mail = await startLetterBox()
    const settings = testSettings(databaseUrl, { smtpUrl: `smtp://127.0.0.1:${mail.smtpPort}` })
    const [one, other] = [await startMarmot(settings), await startMarmot(settings)]
    const [here, there] = [
      await signInAs(one.url, 'Ilse Brandacher'),
      await signInAs(other.url, 'Tashi Lhendup'),
    ]
    const heard = await listen(other.url, there.cookie)
    const guests = Array.from({ length: 20 }, (_, i) => ({
      address: `guest${i}@lodestar.example`,
      name: '',
      required: true,
    }))
    const sent = await here.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({ people: [{ id: there.person.id, required: true }], guests }),
    )
    await until(
      () => heard.text,
      (text) => text.includes(sent.body.entryId),
    )
    await until(
      () => mail.mailboxes.all().length,
      (count) => count >= 21,
    )
    await until(
      async () => (await there.get<Meeting>(`/api/meetings/${sent.body.entryId}`)).body,
      (meeting) => meeting.participants.every((each) => each.organizer || each.mail === 'sent'),
    )
    expect(mail.mailboxes.all().map((letter) => letter.copies)).toEqual(Array.from({ length: 21 }, () => 1))
    heard.stop()
    await Promise.all([one.stop(), other.stop(), mail.stop()])
  })
})

describe('when one of a meeting’s letters is refused', () => {
  it('the others are sent, each once however often it is tried again, and the organizer sees which was refused', async () => {
    const names = ['noor.haddad', 'nobody', 'piet.oosterhuis']
    const sent = await ilse.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({
        guests: names.map((name) => ({ address: `${name}@refused.example`, name, required: true })),
      }),
    )
    const attempts = () =>
      marmot.pool.query(
        `select 1 from graphile_worker.jobs
          where task_identifier = 'send-invitation' and attempts >= 2 and locked_at is null`,
      )
    await until(attempts, ({ rowCount }) => rowCount === 1, 45)
    const meeting = (await ilse.get<Meeting>(`/api/meetings/${sent.body.entryId}`)).body
    expect(
      names.map((name) => meeting.participants.find((each) => each.address.startsWith(name))?.mail),
    ).toEqual(['sent', 'failed', 'sent'])
    for (const name of ['noor.haddad', 'piet.oosterhuis'])
      expect(marmot.mail.mailboxes.of(`${name}@refused.example`)).toMatchObject([{ copies: 1 }])
  })
})

describe('when the mail server is away', () => {
  it('the meeting is made, the organizer sees that its letters wait, and they go out once it is back', async () => {
    const databaseUrl = await copyDemo()
    // A port that was free a moment ago: nobody answers there yet.
    const probe = await startLetterBox()
    const { smtpPort } = probe
    await probe.stop()
    const running = await startMarmot(testSettings(databaseUrl, { smtpUrl: `smtp://127.0.0.1:${smtpPort}` }))
    const organizer = await signInAs(running.url, 'Ilse Brandacher')
    const sent = await organizer.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({
        guests: [{ address: 'noor.haddad@lodestar.example', name: 'Noor Haddad', required: true }],
      }),
    )
    const noor = async () =>
      (await organizer.get<Meeting>(`/api/meetings/${sent.body.entryId}`)).body.participants.find(
        (each) => each.name === 'Noor Haddad',
      )
    const pool = openPool(databaseUrl)
    const tried = () => pool.query('select state from letter where error is not null')
    expect((await until(tried, (seen) => seen.rowCount === 1)).rows).toEqual([{ state: 'waiting' }])
    expect((await noor())?.mail).toBe('waiting')
    const off = await organizer.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({
        title: 'Off again',
        guests: [{ address: 'piet.oosterhuis@lodestar.example', name: 'Piet Oosterhuis', required: true }],
      }),
    )
    // While it is being tried it may have left, and would have to be called off by another letter.
    await until(tried, (seen) => seen.rowCount === 2)
    await organizer.send('POST', `/api/meetings/${off.body.entryId}/cancel`, {})
    const mail = await startLetterBox(smtpPort)
    await until(noor, (each) => each?.mail === 'sent', 45)
    expect(mail.mailboxes.of('noor.haddad@lodestar.example')).toMatchObject([{ copies: 1 }])
    await until(
      () => pool.query("select 1 from graphile_worker.jobs where task_identifier = 'send-invitation'"),
      (left) => left.rowCount === 0,
      45,
    )
    // Who was to be invited, and could not be told before it was off again, hears nothing.
    expect(mail.mailboxes.of('piet.oosterhuis@lodestar.example')).toEqual([])
    await pool.end()
    await running.stop()
    await mail.stop()
  })
})
