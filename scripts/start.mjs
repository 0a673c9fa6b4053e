// npm start: installs what is missing, makes the database, builds, makes the demo once, and runs Marmot. `npm run watch` runs
// it from its sources instead: the server is restarted, and the page renewed, when one of them changes.
import { spawn, spawnSync } from 'node:child_process'
import { createHash, randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { build } from './lib/build.mjs'
import { installPackages, root } from './lib/install.mjs'
import { reachableFolder, startCluster } from './lib/postgres.mjs'
import { startProgram, stopProgram } from './lib/processes.mjs'

const env = process.env
const port = Number(env.PORT ?? 4460)
const [smtpPort, mailPort, pagePort] = [port + 1, Number(env.MARMOT_MAIL_PORT ?? port + 2), port + 3]
const partnerPort = port + 4
const conferencePort = port + 5
const weatherPort = port + 6
const watching = process.argv.includes('--watch')
/** While one watches, the page's own server stands before Marmot's, at its port. */
const serverPort = watching ? port + 7 : port

const run = (args, extra = {}) => {
  const done = spawnSync(process.execPath, args, {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...env, ...extra },
  })
  if (done.status !== 0) process.exit(done.status ?? 1)
}

const newest = (folder) =>
  Math.max(
    0,
    ...readdirSync(folder, { withFileTypes: true })
      .filter((each) => each.name !== 'dist' && each.name !== 'node_modules')
      .map((each) =>
        each.isDirectory() ? newest(join(folder, each.name)) : statSync(join(folder, each.name)).mtimeMs,
      ),
  )

const buildOnce = () => {
  const sources = Math.max(...['web', 'server', 'core', 'contract'].map((each) => newest(join(root, each))))
  const built = ['web/dist/index.html', 'server/dist/main.js'].map((each) => join(root, each))
  if (watching && built.every(existsSync)) return
  if (built.every((each) => existsSync(each) && statSync(each).mtimeMs > sources)) return
  console.log('Building…')
  if (!build()) process.exit(1)
}

/** Fails, with what to do, before anything is started, when somebody else listens where Marmot should. */
const checkPorts = async () => {
  for (const each of new Set([
    port,
    smtpPort,
    mailPort,
    pagePort,
    partnerPort,
    conferencePort,
    weatherPort,
    serverPort,
  ])) {
    const free = await new Promise((done) => {
      const probe = createServer()
      probe.once('error', () => done(false))
      probe.listen(each, '127.0.0.1', () => probe.close(() => done(true)))
    })
    if (free) continue
    console.error(
      `Port ${each} is taken, perhaps by a Marmot that runs already. Marmot needs ${port} to ${port + 6}: choose others with PORT=…`,
    )
    process.exit(1)
  }
}

await checkPorts()
installPackages()
buildOnce()

/** A server that lasted this long is started again soon; one that did not, after a pause that grows. */
const LASTING_MS = 60_000
const [FIRST_PAUSE_MS, LAST_PAUSE_MS] = [1000, 30_000]

const stops = []
let stopping = false
const stopAll = async (code) => {
  if (stopping) return
  stopping = true
  for (const stop of stops.reverse()) await stop()
  process.exit(code)
}
process.on('SIGINT', () => stopAll(0))
process.on('SIGTERM', () => stopAll(0))
// `npm start` runs this as a child of npm: killed outright, npm can tell us nothing, but we are somebody else's child then.
const parent = process.ppid
if (env.npm_lifecycle_event === 'start')
  setInterval(() => process.ppid !== parent && stopAll(0), 1000).unref()

/** Runs the server from its sources, anew when one of them changes, and the page's own server before it. */
const watch = async (settings) => {
  const child = spawn(process.execPath, ['--watch', '--import', 'tsx', 'server/main.ts'], {
    cwd: root,
    env: { ...env, ...settings, MARMOT_WITH_PARENT: '1' },
    stdio: ['pipe', 'inherit', 'inherit'],
  })
  stops.push(() => stopProgram(child))
  const { createServer: createPages } = await import('vite')
  const pages = await createPages({
    configFile: join(root, 'web', 'vite.config.ts'),
    clearScreen: false,
    server: { port, strictPort: true, proxy: { '/api': `http://localhost:${serverPort}` } },
  })
  await pages.listen()
  stops.push(() => pages.close())
}

try {
  let databaseUrl = env.DATABASE_URL
  const wanted = resolve(env.MARMOT_DATA ?? join(root, '.data'))
  let data = wanted
  if (!databaseUrl) {
    const tag = createHash('sha256').update(wanted).digest('hex').slice(0, 10)
    data = reachableFolder(wanted, `/var/lib/marmot-${tag}`)
    const cluster = await startCluster(data)
    stops.push(() => cluster.stop())
    databaseUrl = cluster.url('postgres')
  }
  mkdirSync(data, { recursive: true })
  const shared = { DATABASE_URL: databaseUrl, MARMOT_PARTNER: `http://localhost:${partnerPort}` }
  // A fixed clock only makes sense with the demo of that day, so each gets a note of the instant it was made for.
  const madeFor = join(data, 'made-for')
  if (env.MARMOT_DEMO !== '0') {
    console.log('Looking after the demo…')
    run(['--import', 'tsx', 'demo/main.ts'], shared)
    if (!existsSync(madeFor)) writeFileSync(madeFor, env.MARMOT_NOW ?? 'the day it was made')
    else if (readFileSync(madeFor, 'utf8') !== (env.MARMOT_NOW ?? 'the day it was made'))
      console.log(
        `Note: the demo in ${data} was made for ${readFileSync(madeFor, 'utf8')}. For another day use another MARMOT_DATA.`,
      )
  }
  const quiet = { MARMOT_LOG: env.MARMOT_LOG ?? 'silent' }
  // An outside service brings its own key; the stand-in and the server agree on one for each start.
  const conferenceKey = env.MARMOT_CONFERENCE_KEY ?? randomBytes(24).toString('base64url')
  const standins = await startProgram('standins/main.ts', {
    MAIL_SMTP_PORT: String(smtpPort),
    MAIL_PAGE_PORT: String(pagePort),
    MARMOT_MAIL_PORT: String(mailPort),
    MAIL_FILE: join(data, 'letters.jsonl'),
    PARTNER_PORT: String(partnerPort),
    CONFERENCE_PORT: String(conferencePort),
    WEATHER_PORT: String(weatherPort),
    CONFERENCE_FILE: join(data, 'rooms.json'),
    MARMOT_CONFERENCE_KEY: conferenceKey,
  })
  stops.push(() => stopProgram(standins.child))
  const mailboxUrl = env.SMTP_URL ? undefined : `http://localhost:${pagePort}`
  const settings = {
    ...shared,
    ...quiet,
    PORT: String(serverPort),
    ...(watching ? { MARMOT_URL: env.MARMOT_URL ?? `http://localhost:${port}` } : {}),
    SMTP_URL: env.SMTP_URL ?? `smtp://127.0.0.1:${smtpPort}`,
    MARMOT_MAIL_PORT: String(mailPort),
    MARMOT_FEED_HOSTS: [env.MARMOT_FEED_HOSTS, `localhost:${partnerPort}`].filter(Boolean).join(),
    MARMOT_CONFERENCE_URL: env.MARMOT_CONFERENCE_URL ?? `http://localhost:${conferencePort}`,
    MARMOT_CONFERENCE_KEY: conferenceKey,
    MARMOT_WEATHER_URL: env.MARMOT_WEATHER_URL ?? `http://localhost:${weatherPort}`,
    ...(mailboxUrl ? { MARMOT_MAILBOX_URL: mailboxUrl } : {}),
  }
  let server = null
  stops.push(() => server && stopProgram(server.child))
  /** Starts the server, and again when it died: at first soon, then ever later while it does not last. */
  const keepServing = async (pause) => {
    const began = Date.now()
    server = await startProgram('server/dist/main.js', settings)
    server.child.on('exit', (code, signal) => {
      if (stopping) return
      const next = Date.now() - began > LASTING_MS ? FIRST_PAUSE_MS : Math.min(LAST_PAUSE_MS, pause * 2)
      console.error(`The server ended (${signal ?? code}). It is started again in ${next / 1000} s.`)
      const again = () => {
        if (!stopping)
          keepServing(next).catch((error) => {
            console.error(error instanceof Error ? error.message : error)
            setTimeout(again, LAST_PAUSE_MS)
          })
      }
      setTimeout(again, next)
    })
  }
  if (watching) await watch(settings)
  else await keepServing(FIRST_PAUSE_MS / 2)
  console.log(`\nMarmot is ready at http://localhost:${port}`)
  if (env.MARMOT_DEMO !== '0')
    console.log('Sign in as anybody on the sign-in page; begin as the coordinator.')
  if (!env.MARMOT_CONFERENCE_URL)
    console.log(`Who joins a meeting is played at http://localhost:${conferencePort}`)
  if (mailboxUrl) console.log(`Letters that Marmot sends arrive at ${mailboxUrl}`)
  console.log('Ctrl-C stops it.')
} catch (error) {
  console.error(error instanceof Error ? error.message : error)
  await stopAll(1)
}
