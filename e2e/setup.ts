import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startCluster } from '../scripts/lib/postgres.mjs'
import { startProgram, stopProgram } from '../scripts/lib/processes.mjs'
import { CONFERENCE, LETTERS, PARTNER, PORTS } from './ports.ts'

/** The journeys' own instant: a Monday morning in Innsbruck. */
const NOW = '2026-11-23T08:12:00Z'
const CONFERENCE_KEY = 'known to the two of them alone'

/** Starts the whole of Marmot as a person would have it: the database, the demo, the mail stand-in and the server. */
export const startDemo = async (): Promise<() => Promise<void>> => {
  const folder = mkdtempSync(join(tmpdir(), 'marmot-e2e-'))
  const cluster = await startCluster(folder, { fast: true })
  const env = {
    DATABASE_URL: cluster.url('postgres'),
    MARMOT_NOW: NOW,
    MARMOT_LOG: 'silent',
    MARMOT_PARTNER: PARTNER,
  }
  const demo = spawnSync(process.execPath, ['--import', 'tsx', 'demo/main.ts'], {
    env: { ...process.env, ...env },
    stdio: 'inherit',
  })
  if (demo.status !== 0) throw new Error('the demo could not be made')
  const mail = await startProgram('standins/main.ts', {
    MAIL_SMTP_PORT: String(PORTS.smtp),
    MAIL_PAGE_PORT: String(PORTS.letters),
    MARMOT_MAIL_PORT: String(PORTS.mailIn),
    PARTNER_PORT: String(PORTS.partner),
    CONFERENCE_PORT: String(PORTS.conference),
    WEATHER_PORT: String(PORTS.weather),
    MARMOT_CONFERENCE_KEY: CONFERENCE_KEY,
    MARMOT_NOW: NOW,
  })
  const server = await startProgram('server/dist/main.js', {
    ...env,
    PORT: String(PORTS.marmot),
    SMTP_URL: `smtp://127.0.0.1:${PORTS.smtp}`,
    MARMOT_MAIL_PORT: String(PORTS.mailIn),
    MARMOT_FEED_HOSTS: `localhost:${PORTS.partner}`,
    MARMOT_CONFERENCE_URL: CONFERENCE,
    MARMOT_CONFERENCE_KEY: CONFERENCE_KEY,
    MARMOT_WEATHER_URL: `http://localhost:${PORTS.weather}`,
    // Long enough to press something, however slow the machine is; whoever waits for letters lets it pass (`passMoment`).
    MARMOT_TAKE_BACK_SECONDS: '20',
    MARMOT_MAILBOX_URL: LETTERS,
  })
  process.env.MARMOT_JOURNEYS_DATABASE = env.DATABASE_URL
  return async () => {
    await stopProgram(server.child)
    await stopProgram(mail.child)
    cluster.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
