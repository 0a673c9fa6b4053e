import { type ChildProcess, spawn } from 'node:child_process'
import { afterEach, describe, expect, it } from 'vitest'
import { TEST_NOW } from '../testing/cluster.ts'
import { aMeeting, copyDemo, signInAs, startLetterBox, until } from '../testing/marmot.ts'
import { openPool } from './database.ts'

const children: ChildProcess[] = []
afterEach(() => {
  for (const child of children) child.kill('SIGKILL')
})

/** A server in a process of its own, and the port it listens on. */
const startServer = async (databaseUrl: string, smtpPort: number, moment: number) => {
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/main.ts'], {
    env: {
      ...process.env,
      DATABASE_URL: databaseUrl,
      PORT: '0',
      MARMOT_MAIL_PORT: '0',
      SMTP_URL: `smtp://127.0.0.1:${smtpPort}`,
      MARMOT_NOW: TEST_NOW,
      MARMOT_TAKE_BACK_SECONDS: String(moment),
      MARMOT_LOG: 'silent',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  children.push(child)
  let said = ''
  child.stdout?.on('data', (part) => {
    said += part
  })
  await until(
    () => said,
    (text) => text.includes('listening '),
    60,
  )
  return { child, url: `http://127.0.0.1:${/listening (\d+)/.exec(said)?.[1]}` }
}

const killed = (child: ChildProcess) =>
  new Promise<void>((resolve) => {
    if (child.signalCode !== null || child.exitCode !== null) return resolve()
    child.on('exit', () => resolve())
    child.kill('SIGKILL')
  })

describe('a server killed right after a meeting was saved', () => {
  // At once, the kill finds messages at every stage; within the moment to take it back, none was written yet.
  it.each([0, 2])(
    'has each invitation arrive exactly once after it is started again, told %d s after',
    async (moment) => {
      const databaseUrl = await copyDemo()
      const mail = await startLetterBox()
      const pool = openPool(databaseUrl)
      try {
        const first = await startServer(databaseUrl, mail.smtpPort, moment)
        const ilse = await signInAs(first.url, 'Ilse Brandacher')
        const guests = Array.from({ length: 12 }, (_, i) => ({
          address: `guest${i}@lodestar.example`,
          name: `Guest ${i}`,
          required: true,
        }))
        // Three meetings, so that some messages are sent, some being sent, and some still waiting.
        for (let i = 0; i < 3; i++)
          expect(
            (await ilse.send('POST', '/api/meetings', aMeeting({ title: `Meeting ${i}`, guests }))).status,
          ).toBe(200)
        await killed(first.child)

        await startServer(databaseUrl, mail.smtpPort, moment)
        await until(
          async () =>
            (
              await pool.query<{ sent: number }>(
                "select count(*) filter (where state = 'sent') as sent from letter where guest_address like 'guest%'",
              )
            ).rows[0]?.sent,
          (sent) => sent === 36,
          50,
        )
        const letters = mail.mailboxes.all().filter((letter) => letter.to.startsWith('guest'))
        expect(letters).toHaveLength(36)
        expect(new Set(letters.map((letter) => `${letter.to} ${letter.subject}`)).size).toBe(36)
        await until(
          async () => (await pool.query('select 1 from graphile_worker.jobs')).rowCount,
          (left) => left === 0,
          30,
        )
        expect(mail.mailboxes.all().filter((letter) => letter.to.startsWith('guest'))).toHaveLength(36)
      } finally {
        for (const child of children) await killed(child)
        await mail.stop()
        await pool.end()
      }
    },
    150_000,
  )
})
