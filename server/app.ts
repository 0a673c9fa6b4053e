import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { events, health, openApi } from '@marmot/contract/live'
import { routes as allRoutes, describe } from '@marmot/contract/openapi'
import Koa from 'koa'
import { type Logger, pino } from 'pino'
import { layerRoutes } from './availability/layers.ts'
import { availabilityRoutes } from './availability/routes.ts'
import { attachmentRoutes } from './entries/attachment-routes.ts'
import { categoryRoutes } from './entries/category-routes.ts'
import { moveHorizon, tidyAttachments, tidyChanges, tidyDates } from './entries/index.ts'
import { entriesRoutes } from './entries/routes.ts'
import { importRoutes } from './feeds/imports.ts'
import { feedTasks, planFeeds, tidyImports } from './feeds/index.ts'
import { publishedRoutes } from './feeds/published.ts'
import { readingRoutes } from './feeds/reading.ts'
import { openInbox } from './invitations/index.ts'
import { invitationsRoutes } from './invitations/routes.ts'
import { letterTasks, openTransport } from './letters/index.ts'
import { tidyLinks } from './links/index.ts'
import { meetingsRoutes } from './meetings/routes.ts'
import { nowRoutes } from './now/routes.ts'
import { letHoldsGo } from './openings/index.ts'
import { openingsRoutes } from './openings/routes.ts'
import { applyZoneChanges, askerFinder, lastingSessions, tidyPeople } from './people/index.ts'
import { peopleRoutes } from './people/routes.ts'
import { startClock } from './platform/clock.ts'
import { answers, openPool } from './platform/database.ts'
import { ownOriginOnly, problemsAsAnswers, safeHeaders } from './platform/guard.ts'
import { startJobs } from './platform/jobs.ts'
import { openLive, tellTime } from './platform/live.ts'
import { migrate } from './platform/migrate.ts'
import { servePages, WEB } from './platform/pages.ts'
import { createRoutes, tidyRepeats } from './platform/router.ts'
import type { Settings } from './platform/settings.ts'
import { openThreads } from './platform/threads.ts'
import { remind, reminderTasks, tidyReminders } from './reminders/index.ts'
import { remindersRoutes } from './reminders/routes.ts'
import { reservationsRoutes } from './reservations/routes.ts'
import { resourcesRoutes } from './resources/routes.ts'
import { hearersOf } from './sharing/index.ts'
import { sharingRoutes } from './sharing/routes.ts'

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

/** Does each piece of work, one after the other; one that fails is logged and stops none of the others. */
const eachAlone =
  (log: Logger, work: Readonly<Record<string, () => Promise<unknown>>>) => async (): Promise<void> => {
    for (const [name, piece] of Object.entries(work))
      await piece().catch((error) => log.error({ error, name }, 'a task failed'))
  }

/** Starts one server on the settings' database: pages, interface, live events, jobs and the way in for mail. */
export const startMarmot = async (settings: Settings): Promise<Running> => {
  const releases = openReleases()
  try {
    return await start(settings, releases)
  } catch (error) {
    await releases.all()
    throw error
  }
}

const start = async (settings: Settings, releases: ReturnType<typeof openReleases>): Promise<Running> => {
  const log = pino({ level: settings.log })
  await migrate(settings.databaseUrl)
  const pool = openPool(settings.databaseUrl, (error) =>
    log.warn({ error }, 'a database connection was lost'),
  )
  releases.add(() => pool.end())
  const clock = startClock(settings.now)
  const live = openLive(settings.databaseUrl, log, {
    mayHear: (people, listeners) => hearersOf(pool, people, listeners, clock()),
    lasting: (sessions) => lastingSessions(pool, sessions, clock()),
  })
  releases.add(() => live.close())

  // Known once the port is; nobody asks before.
  let url = ''
  const threads = openThreads(settings.databaseUrl)
  releases.add(() => threads.stop())
  const deps = { pool, clock, threads }
  const routes = createRoutes(deps, askerFinder(deps))
  peopleRoutes(routes, settings)
  availabilityRoutes(routes)
  layerRoutes(routes)
  entriesRoutes(routes)
  attachmentRoutes(routes)
  categoryRoutes(routes)
  sharingRoutes(routes)
  importRoutes(routes)
  publishedRoutes(routes, () => url)
  readingRoutes(routes, settings.feedHosts)
  resourcesRoutes(routes)
  reservationsRoutes(routes)
  openingsRoutes(routes)
  meetingsRoutes(routes)
  invitationsRoutes(routes)
  nowRoutes(routes)
  remindersRoutes(routes)
  const description = describe()
  routes.mount(openApi, async () => description)
  routes.mount(health, async () => ({ ok: await answers(pool) }))
  routes.mount(events, async ({ context, asker }) => {
    live.stream(context, { personId: asker.id, session: asker.session })
    return {}
  })
  const forgotten = allRoutes.filter((route) => !routes.mounted.has(route))
  if (forgotten.length) throw new Error(`No handler for ${forgotten.map((route) => route.path).join(', ')}`)
  // What is served is described: the privacy matrix asks every route of the description.
  const secret = [...routes.mounted].filter((route) => !allRoutes.includes(route))
  if (secret.length) throw new Error(`Not described: ${secret.map((route) => route.path).join(', ')}`)

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
    server.closeAllConnections()
    await new Promise((resolve) => server.close(resolve))
  })
  const { port } = server.address() as AddressInfo
  url = settings.url ?? `http://localhost:${port}`

  const inbox = openInbox(pool, clock, log)
  inbox.on('error', (error) => log.warn({ error }, 'the way in for mail'))
  inbox.listen(settings.mailPort, '127.0.0.1')
  await listening(inbox.server)
  releases.add(() => new Promise<void>((resolve) => inbox.close(() => resolve())))
  const mailPort = (inbox.server.address() as AddressInfo).port

  await live.connect()
  const transport = openTransport(settings.smtpUrl)
  releases.add(() => transport.close())
  const mailFrom = settings.mailFrom ?? `marmot@${new URL(url).hostname}`
  const reading = { pool, clock, threads, allowed: settings.feedHosts }
  const tasks = {
    ...letterTasks({ pool, clock, transport, url, from: mailFrom }),
    ...feedTasks(reading),
    ...reminderTasks({ pool, clock, transport, url, from: mailFrom }),
    minutely: eachAlone(log, {
      holds: () => letHoldsGo(deps),
      reminders: () => remind(pool, clock()),
      feeds: () => planFeeds(reading),
      journeys: async () => {
        const moved = await applyZoneChanges(pool, clock())
        if (moved.length) await tellTime(pool, moved)
      },
    }),
    nightly: eachAlone(log, {
      imports: () => tidyImports(pool, clock()),
      reminders: () => tidyReminders(pool, clock()),
      people: () => tidyPeople(pool, clock()),
      repeats: () => tidyRepeats(pool, clock()),
      horizon: () => moveHorizon(pool, clock()),
      changes: () => tidyChanges(pool, clock()),
      dates: () => tidyDates(pool),
      attachments: () => tidyAttachments(pool, clock()),
      links: () => tidyLinks(pool, clock()),
    }),
  }
  const jobs = await startJobs(settings.databaseUrl, pool, tasks, log)
  releases.add(() => jobs.stop())
  return { port, mailPort, url, stop: releases.all }
}
