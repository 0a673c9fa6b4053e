import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { events, health, openApi } from '@marmot/contract/live'
import { describe } from '@marmot/contract/openapi'
import Koa from 'koa'
import { type Logger, pino } from 'pino'
import { domains as allDomains } from './domains.ts'
import { openInbox } from './invitations/index.ts'
import { openTransport } from './letters/index.ts'
import { lastingLinks } from './links/index.ts'
import { askerFinder, lastingSessions } from './people/index.ts'
import { startClock } from './platform/clock.ts'
import { answers, openPool } from './platform/database.ts'
import { ownOriginOnly, problemsAsAnswers, safeHeaders } from './platform/guard.ts'
import type { Chores, Domain, House } from './platform/house.ts'
import { addJob, startJobs } from './platform/jobs.ts'
import { openLive } from './platform/live.ts'
import { migrate } from './platform/migrate.ts'
import { servePages, WEB } from './platform/pages.ts'
import { createRoutes, tidyRepeats } from './platform/router.ts'
import type { Settings } from './platform/settings.ts'
import { openSockets } from './platform/sockets.ts'
import { openThreads } from './platform/threads.ts'

const listening = (server: { on(event: 'listening' | 'error', done: (error?: Error) => void): unknown }) =>
  new Promise<void>((resolve, reject) => {
    server.on('listening', () => resolve())
    server.on('error', (error) => reject(error))
  })

/** A running Marmot: where it listens, and how it is stopped. */
export interface Running {
  readonly port: number
  readonly mailPort: number
  readonly url: string
  /** Does at once what is done each minute. */
  readonly round: () => Promise<void>
  readonly stop: () => Promise<void>
}

/** What was opened, to be released in the other order: also when a start fails midway. */
const openReleases = () => {
  const releases: (() => unknown)[] = []
  return {
    add: (release: () => unknown) => releases.push(release),
    all: async (): Promise<void> => {
      for (const release of releases.splice(0).reverse()) await release()
    },
  }
}

/** Does the chores of all domains, one after the other; one that fails is logged and stops none of the others. */
const eachAlone =
  (log: Logger, house: House, chores: readonly (Chores | undefined)[]) => async (): Promise<void> => {
    for (const [name, chore] of chores.flatMap((some) => Object.entries(some ?? {})))
      await chore(house).catch((error) => log.error({ error, name }, 'a task failed'))
  }

/** Things of which each may be there once: throws when two domains bring the same. */
const onceEach = (what: string, names: readonly string[]): void => {
  const twice = names.find((name, i) => names.indexOf(name) !== i)
  if (twice) throw new Error(`Two domains bring the ${what} ${twice}.`)
}

/** Starts one server on the settings' database: pages, interface, live events, jobs and the way in for mail. */
export const startMarmot = async (
  settings: Settings,
  domains: readonly Domain[] = allDomains,
): Promise<Running> => {
  const releases = openReleases()
  try {
    return await start(settings, domains, releases)
  } catch (error) {
    await releases.all()
    throw error
  }
}

const start = async (
  settings: Settings,
  domains: readonly Domain[],
  releases: ReturnType<typeof openReleases>,
): Promise<Running> => {
  const log = pino({ level: settings.log })
  await migrate(settings.databaseUrl)
  const pool = openPool(settings.databaseUrl, (error) =>
    log.warn({ error }, 'a database connection was lost'),
  )
  releases.add(() => pool.end())
  const clock = startClock(settings.now)
  const threads = openThreads(settings.databaseUrl)
  releases.add(() => threads.stop())
  const transport = openTransport(settings.smtpUrl)
  releases.add(() => transport.close())
  // Known once the port is; nobody asks before.
  let url = ''
  const house: House = {
    pool,
    clock,
    threads,
    settings,
    transport,
    url: () => url,
    stream: (context, listener) => live.stream(context, listener),
    mailFrom: () => settings.mailFrom ?? `marmot@${new URL(url).hostname}`,
  }
  const kinds = domains.flatMap((domain) => domain.events ?? [])
  onceEach(
    'live event',
    kinds.map((kind) => kind.event.shape.kind.value),
  )
  onceEach(
    'notice',
    domains.flatMap((domain) => domain.notices ?? []),
  )
  // Sessions and guests' links are both hashes of tokens, and none is in both.
  const lasting = async (tokens: readonly string[]) => {
    const [sessions, links] = await Promise.all([
      lastingSessions(pool, tokens, clock()),
      lastingLinks(pool, tokens, clock()),
    ])
    return new Set([...sessions, ...links])
  }
  const live = openLive(settings.databaseUrl, log, {
    kinds: kinds.map(({ event, pass }) => ({ event, pass: pass?.(house) })),
    hears: domains.flatMap((domain) => domain.hears?.(house) ?? []),
    ended: (session) => sockets.ended(session),
    lasting,
  })
  releases.add(() => live.close())

  const routes = createRoutes(house, askerFinder(house))
  for (const domain of domains) domain.routes?.(routes, house)
  routes.mount(openApi, async () => description)
  routes.mount(health, async () => ({ ok: await answers(pool) }))
  routes.mount(events, async ({ context, asker }) => {
    live.stream(context, { personId: asker.id, session: asker.session })
    return {}
  })
  const description = describe(routes.mounted)

  const app = new Koa({ proxy: settings.proxy, maxIpsCount: 1 })
  // Browsers that go away in the middle of a stream are no trouble of ours.
  app.on('error', (error) => log.debug({ error }, 'a connection ended early'))
  app.use(problemsAsAnswers(log))
  app.use(safeHeaders)
  app.use(ownOriginOnly)
  app.use(await servePages(WEB))
  app.use(async (context, next) => {
    context.set('cache-control', 'no-store')
    await next()
  })
  app.use(routes.router.routes())
  const server: Server = app.listen(settings.port)
  await listening(server)
  releases.add(async () => {
    for (const domain of domains) await domain.stop?.(house)
  })
  releases.add(async () => {
    server.closeAllConnections()
    await new Promise((resolve) => server.close(resolve))
  })
  const sockets = openSockets({ server, app, routes, log }, lasting)
  releases.add(sockets.close)
  const { port } = server.address() as AddressInfo
  url = settings.url ?? `http://localhost:${port}`

  const inbox = openInbox({ pool, clock, threads, momentMs: settings.takeBackMs }, log)
  inbox.on('error', (error) => log.warn({ error }, 'the way in for mail'))
  inbox.listen(settings.mailPort, '127.0.0.1')
  await listening(inbox.server)
  releases.add(() => new Promise<void>((resolve) => inbox.close(() => resolve())))
  const mailPort = (inbox.server.address() as AddressInfo).port

  await live.connect()
  const tasks = domains.map((domain) => domain.tasks?.(house) ?? {})
  onceEach('task', ['minutely', 'nightly', ...tasks.flatMap((some) => Object.keys(some))])
  const minutely = domains.map((domain) => domain.minutely)
  const nightly = [{ repeats: () => tidyRepeats(pool, clock()) }, ...domains.map((domain) => domain.nightly)]
  const taskList = {
    ...Object.assign({}, ...tasks),
    minutely: eachAlone(log, house, minutely),
    nightly: eachAlone(log, house, nightly),
  }
  const jobs = await startJobs(settings.databaseUrl, pool, taskList, log)
  releases.add(() => jobs.stop())
  /** What is done each minute, at once: whoever starts the house need not wait for the minute. */
  const round = () => addJob(pool, 'minutely', {}, 'minutely')
  return { port, mailPort, url, round, stop: releases.all }
}
