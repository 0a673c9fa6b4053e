import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startCluster } from '../scripts/lib/postgres.mjs'
import { startProgram, stopProgram } from '../scripts/lib/processes.mjs'

/** The journeys' own instant: a Monday morning in Innsbruck. */
const NOW = '2026-11-23T08:12:00Z'
const PORTS = ['4560', '4561', '4562', '4563', '4564', '4565', '4566'] as const
const [PORT, SMTP, MAIL_IN, LETTERS, PARTNER, CONFERENCE, WEATHER] = PORTS
const CONFERENCE_KEY = 'known to the two of them alone'

/** Starts the whole of Marmot as a person would have it: the database, the demo, the mail stand-in and the server. */
export const startDemo = async (): Promise<() => Promise<void>> => {
  const folder = mkdtempSync(join(tmpdir(), 'marmot-e2e-'))
  const cluster = await startCluster(folder, { fast: true })
  const env = {
    DATABASE_URL: cluster.url('postgres'),
    MARMOT_NOW: NOW,
    MARMOT_LOG: 'silent',
    MARMOT_PARTNER: `http://localhost:${PARTNER}`,
  }
  const demo = spawnSync(process.execPath, ['--import', 'tsx', 'demo/main.ts'], {
    env: { ...process.env, ...env },
    stdio: 'inherit',
  })
  if (demo.status !== 0) throw new Error('the demo could not be made')
  const mail = await startProgram('standins/main.ts', {
    MAIL_SMTP_PORT: SMTP,
    MAIL_PAGE_PORT: LETTERS,
    MARMOT_MAIL_PORT: MAIL_IN,
    PARTNER_PORT: PARTNER,
    CONFERENCE_PORT: CONFERENCE,
    WEATHER_PORT: WEATHER,
    MARMOT_CONFERENCE_KEY: CONFERENCE_KEY,
    MARMOT_NOW: NOW,
  })
  const server = await startProgram('server/dist/main.js', {
    ...env,
    PORT,
    SMTP_URL: `smtp://127.0.0.1:${SMTP}`,
    MARMOT_MAIL_PORT: MAIL_IN,
    MARMOT_FEED_HOSTS: `localhost:${PARTNER}`,
    MARMOT_CONFERENCE_URL: `http://localhost:${CONFERENCE}`,
    MARMOT_CONFERENCE_KEY: CONFERENCE_KEY,
    MARMOT_WEATHER_URL: `http://localhost:${WEATHER}`,
    // Long enough to press something, however slow the machine is; whoever waits for letters lets it pass (`passMoment`).
    MARMOT_TAKE_BACK_SECONDS: '20',
    MARMOT_MAILBOX_URL: `http://localhost:${LETTERS}`,
  })
  process.env.MARMOT_JOURNEYS_DATABASE = env.DATABASE_URL
  return async () => {
    await stopProgram(server.child)
    await stopProgram(mail.child)
    cluster.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
