import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { fileURLToPath } from 'node:url'
import { events, health, openApi } from '@marmot/contract/live'
import { routes as allRoutes, describe } from '@marmot/contract/openapi'
import Koa from 'koa'
import { pino } from 'pino'
import { layerRoutes } from './availability/layers.ts'
import { availabilityRoutes } from './availability/routes.ts'
import { attachmentRoutes } from './entries/attachments.ts'
import { categoryRoutes } from './entries/categories.ts'
import { moveHorizon, tidyChanges } from './entries/index.ts'
import { entriesRoutes } from './entries/routes.ts'
import { importRoutes } from './feeds/imports.ts'
import { feedTasks, planFeeds, tidyImports } from './feeds/index.ts'
import { publishedRoutes } from './feeds/published.ts'
import { readingRoutes } from './feeds/reading.ts'
import { invitationTasks, openInbox, openTransport } from './invitations/index.ts'
import { invitationsRoutes } from './invitations/routes.ts'
import { meetingsRoutes } from './meetings/routes.ts'
import { remind, reminderTasks, tidyReminders } from './notices/index.ts'
import { reminderRoutes } from './notices/reminders.ts'
import { noticesRoutes } from './notices/routes.ts'
import { letHoldsGo } from './openings/index.ts'
import { openingsRoutes } from './openings/routes.ts'
import { applyZoneChanges, askerFinder, tidyPeople } from './people/index.ts'
import { peopleRoutes } from './people/routes.ts'
import { startClock } from './platform/clock.ts'
import { openPool } from './platform/database.ts'
import { ownOriginOnly, problemsAsAnswers, safeHeaders } from './platform/guard.ts'
import { startJobs } from './platform/jobs.ts'
import { openLive, tellTime } from './platform/live.ts'
import { migrate } from './platform/migrate.ts'
import { servePages } from './platform/pages.ts'
import { createRoutes, tidyRepeats } from './platform/router.ts'
import type { Settings } from './platform/settings.ts'
import { reservationsRoutes } from './reservations/routes.ts'
import { resourcesRoutes } from './resources/routes.ts'
import { sharingRoutes } from './sharing/routes.ts'

const WEB = fileURLToPath(new URL('../web/dist', import.meta.url))

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

/** Starts one server on the settings' database: pages, interface, live events, jobs and the way in for mail. */
export const startMarmot = async (settings: Settings): Promise<Running> => {
  const log = pino({ level: settings.log })
  await migrate(settings.databaseUrl)
  const pool = openPool(settings.databaseUrl, (error) =>
    log.warn({ error }, 'a database connection was lost'),
  )
  const clock = startClock(settings.now)
  const live = openLive(settings.databaseUrl, log)

  // Known once the port is; nobody asks before.
  let url = ''
  const deps = { pool, clock }
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
  noticesRoutes(routes)
  reminderRoutes(routes)
  const description = describe()
  routes.mount(openApi, async () => description)
  routes.mount(health, async () => ({ ok: (await pool.query('select 1')).rowCount === 1 }))
  routes.mount(events, async ({ context, asker }) => {
    live.stream(context, asker.id)
    return {}
  })
  const forgotten = allRoutes.filter((route) => !routes.mounted.has(route))
  if (forgotten.length) throw new Error(`No handler for ${forgotten.map((route) => route.path).join(', ')}`)

  const app = new Koa()
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
  const { port } = server.address() as AddressInfo
  url = settings.url ?? `http://localhost:${port}`

  const inbox = openInbox(pool, clock, log)
  inbox.listen(settings.mailPort, '127.0.0.1')
  await listening(inbox.server)
  inbox.on('error', (error) => log.warn({ error }, 'the way in for mail'))
  const mailPort = (inbox.server.address() as AddressInfo).port

  await live.connect()
  const transport = openTransport(settings.smtpUrl)
  const reading = { pool, clock, allowed: settings.feedHosts }
  const tasks = {
    ...invitationTasks({ pool, clock, transport, url }),
    ...feedTasks(reading),
    ...reminderTasks({ pool, clock, transport, url }),
    minutely: async () => {
      await letHoldsGo(deps)
      await remind(pool, clock())
      await planFeeds(reading)
      const moved = await applyZoneChanges(pool, clock())
      if (moved.length) await tellTime(pool, moved)
    },
    nightly: async () => {
      await tidyImports(pool, clock())
      await tidyReminders(pool, clock())
      await tidyPeople(pool, clock())
      await tidyRepeats(pool, clock())
      await moveHorizon(pool, clock())
      await tidyChanges(pool, clock())
    },
  }
  const jobs = await startJobs(settings.databaseUrl, pool, tasks, log)

  const stop = async () => {
    await live.close()
    server.closeAllConnections()
    await new Promise((resolve) => server.close(resolve))
    await new Promise<void>((resolve) => inbox.close(() => resolve()))
    await jobs.stop()
    transport.close()
    await pool.end()
  }
  return { port, mailPort, url, stop }
}
