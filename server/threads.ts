import { type MessagePort, workerData } from 'node:worker_threads'
import { openPool } from './platform/database.ts'
import { inThread } from './platform/threads.ts'

/** What runs in threads of its own (`platform/threads.ts`); each of them reads the database through its own pool. */

let opened: ReturnType<typeof openPool> | null = null
const pool = () => {
  opened ??= openPool(String(workerData.databaseUrl), () => undefined, { most: 5 })
  return opened
}

/** The work by its name, as `Threads.run` asks for it: a search needs nothing of what reads calendars. */
const work = {
  readFeed: inThread(async () => (await import('./feeds/keeping.ts')).keepFeed, pool),
  lookAt: inThread(async () => (await import('./feeds/importing.ts')).lookAtImport, pool),
  takeIn: inThread(async () => (await import('./feeds/importing.ts')).carryOutImport, pool),
  publish: inThread(async () => (await import('./feeds/publishing.ts')).writePublished, pool),
  export: inThread(async () => (await import('./feeds/publishing.ts')).writeExport, pool),
  writeCalendar: inThread(async () => (await import('./letters/calendars.ts')).writeCalendar, pool),
  drawPicture: inThread(async () => (await import('./letters/drawing.ts')).drawPicture, pool),
  readOutside: inThread(async () => (await import('./invitations/reading.ts')).readForHomes, pool),
  readSentBack: inThread(async () => (await import('./invitations/reading.ts')).readSentBack, pool),
  settleAgendas: inThread(async () => (await import('./agenda/settling.ts')).settleAgendas, pool),
  readCards: inThread(async () => (await import('./contacts/cards.ts')).lookAtCards, pool),
  readHolidays: inThread(async () => (await import('./holidays/public.ts')).readHolidays, pool),
  readRegions: inThread(async () => (await import('./holidays/public.ts')).readRegions, pool),
  readPlaceList: inThread(async () => (await import('./resources/list-file.ts')).planInThread, pool),
  lookAtRun: inThread(async () => (await import('./reservations/looking.ts')).lookInThread, pool),
  listOfReservations: inThread(async () => (await import('./reservations/csv.ts')).csvInThread, pool),
  findRoom: inThread(async () => (await import('./exchanges/finding.ts')).findRoom, pool),
  search: inThread(async () => (await import('./openings/searching.ts')).searchBrief, pool),
}

/** Does a piece of work by its name; its input is what the function of that name takes. */
export const run = ({ name, input, port }: { name: keyof typeof work; input: never; port: MessagePort }) =>
  work[name]({ input, port })
