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
    await until(noor, (each) => each?.mail === 'failed')
    const mail = await startLetterBox(smtpPort)
    await until(noor, (each) => each?.mail === 'sent', 45)
    expect(mail.mailboxes.of('noor.haddad@lodestar.example')).toMatchObject([{ copies: 1 }])
    await running.stop()
    await mail.stop()
  })
})
