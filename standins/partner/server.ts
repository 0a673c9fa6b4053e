import { createHash } from 'node:crypto'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'

const DAY = 86_400_000
const HOUR = 3_600_000

const stamp = (at: number): string => `${new Date(at).toISOString().slice(0, 19).replace(/[-:]/g, '')}Z`

const calendar = (parts: readonly string[]): string =>
  [
    'BEGIN:VCALENDAR',
    'PRODID:-//Lodestar Instruments//Diary//EN',
    'VERSION:2.0',
    ...parts,
    'END:VCALENDAR',
    '',
  ].join('\r\n')

/** Busy times of the partner's engineers over eight weeks: mornings and some afternoons, never the same two days on. */
const freeBusy = (today: number): string => {
  const spans: string[] = []
  for (let day = -7; day < 56; day++) {
    const at = today + day * DAY
    if ([0, 6].includes(new Date(at).getUTCDay())) continue
    const start = at + (7 + (Math.abs(day) % 3)) * HOUR
    spans.push(`FREEBUSY;FBTYPE=BUSY:${stamp(start)}/PT1H30M`)
    if (day % 2 === 0)
      spans.push(`FREEBUSY;FBTYPE=BUSY-TENTATIVE:${stamp(at + 13 * HOUR)}/${stamp(at + 14 * HOUR)}`)
    if (day % 9 === 4)
      spans.push(`FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:${stamp(at + 6 * HOUR)}/${stamp(at + 17 * HOUR)}`)
  }
  return calendar([
    'BEGIN:VFREEBUSY',
    'UID:freebusy-noor.haddad@lodestar.example',
    `DTSTAMP:${stamp(today)}`,
    `DTSTART:${stamp(today - 7 * DAY)}`,
    `DTEND:${stamp(today + 56 * DAY)}`,
    'ORGANIZER;CN=Noor Haddad:mailto:noor.haddad@lodestar.example',
    ...spans,
    'END:VFREEBUSY',
  ])
}

/** The partner's open calendar: calibration runs that visitors may join, in a zone the file describes by itself. */
const openDays = (today: number): string => {
  const monday = today - ((new Date(today).getUTCDay() + 6) % 7) * DAY
  const local = (at: number) => new Date(at).toISOString().slice(0, 19).replace(/[-:]/g, '')
  return calendar([
    'BEGIN:VTIMEZONE',
    'TZID:Lodestar house time',
    'BEGIN:STANDARD',
    'DTSTART:19701025T030000',
    'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
    'TZOFFSETFROM:+0200',
    'TZOFFSETTO:+0100',
    'END:STANDARD',
    'BEGIN:DAYLIGHT',
    'DTSTART:19700329T020000',
    'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
    'TZOFFSETFROM:+0100',
    'TZOFFSETTO:+0200',
    'END:DAYLIGHT',
    'END:VTIMEZONE',
    'BEGIN:VEVENT',
    'UID:calibration@lodestar.example',
    `DTSTAMP:${stamp(today)}`,
    `DTSTART;TZID=Lodestar house time:${local(monday + DAY + 9 * HOUR)}`,
    'DURATION:PT2H',
    'RRULE:FREQ=WEEKLY;COUNT=20',
    'SUMMARY:Calibration run, open to visitors',
    'LOCATION:Hall 2',
    'END:VEVENT',
    'BEGIN:VEVENT',
    'UID:closed@lodestar.example',
    `DTSTAMP:${stamp(today)}`,
    `DTSTART;VALUE=DATE:${local(monday + 30 * DAY).slice(0, 8)}`,
    `DTEND;VALUE=DATE:${local(monday + 34 * DAY).slice(0, 8)}`,
    'SUMMARY:Works closed',
    'END:VEVENT',
  ])
}

/**
 * A simulated partner organisation that publishes free/busy times and an open calendar at addresses, with ETag. `now` is
 * the clock; a port of 0 means any free one.
 */
export const startPartnerStandIn = async (given: { port: number; now: () => number }) => {
  const server = createServer((request, response) => {
    const today = Math.floor(given.now() / DAY) * DAY
    const texts: Record<string, () => string> = {
      '/free-busy.ics': () => freeBusy(today),
      '/open-days.ics': () => openDays(today),
    }
    const text = texts[request.url ?? '']?.()
    if (text === undefined) {
      response.writeHead(404, { 'content-type': 'text/plain; charset=utf-8' })
      response.end('Lodestar Instruments publishes /free-busy.ics and /open-days.ics here.')
      return
    }
    const etag = `"${createHash('sha256').update(text).digest('hex').slice(0, 24)}"`
    const same = request.headers['if-none-match'] === etag
    response.writeHead(same ? 304 : 200, { 'content-type': 'text/calendar; charset=utf-8', etag })
    response.end(same ? undefined : text)
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(given.port, '127.0.0.1', () => resolve())
  })
  return {
    port: (server.address() as AddressInfo).port,
    stop: async (): Promise<void> => {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
    },
  }
}
