import { randomUUID } from 'node:crypto'
import { DAY } from '@marmot/core/time'
import { z } from 'zod'
import { startMailStandIn } from '../standins/mail/server.ts'
import { type Large, openLarge } from './large.ts'
import { met } from './measuring.ts'

const CLIENTS = 8
const MEETINGS = 120
/** Sent first, and not counted: code that has just been read is slow. */
const WARMING = 10
const GUESTS = 2
/** What 8 clients got on two cores before it was looked at where the time goes: 41 a second; three times that. */
const BUDGET = 123

const sendOne = async (large: Large, place: string, who: number, n: number): Promise<boolean> => {
  // Ten half hours a day, on working days: places are closed at weekends.
  const [week, weekday] = [Math.floor(n / 50), Math.floor(n / 10) % 5]
  const day = new Date(Date.UTC(2027, 5, 7) + (7 * week + weekday) * DAY).toISOString().slice(0, 10)
  const answer = await large.send('POST', '/api/meetings', {
    title: `Sent for its speed ${who}-${n}`,
    starts: `${day}T${String(8 + (n % 10)).padStart(2, '0')}:00`,
    minutes: 30,
    zone: 'Europe/Vienna',
    people: [],
    guests: Array.from({ length: GUESTS }, (_, i) => ({
      address: `guest-${who}-${n}-${i}-${randomUUID().slice(0, 8)}@lodestar.example`,
      name: 'Guest',
      required: true,
    })),
    places: [place],
  })
  if (!answer.ok) throw new Error(`A meeting could not be sent: ${(await answer.text()).slice(0, 200)}`)
  await answer.arrayBuffer()
  return true
}

/** Meetings with a place sent by several clients at once, with their letters going out beside it; a second. */
export const measureSending = async (): Promise<boolean> => {
  const letters = await startMailStandIn({
    smtpPort: 0,
    pagePort: 0,
    file: null,
    marmotMail: () => ({ host: '127.0.0.1', port: 1 }),
  })
  const large = await openLarge({ env: { SMTP_URL: `smtp://127.0.0.1:${letters.smtpPort}` } })
  if (!large) return false
  try {
    const rooms = await large.pool.query<{ id: string }>(
      // Those of the large organisation, in a time that is beyond all that it has.
      `select id from resource where kind = 'room' and turnaround_minutes = 0 and name like 'Nunatak %' order by id limit $1`,
      [CLIENTS],
    )
    const places = z
      .array(z.object({ id: z.string() }))
      .length(CLIENTS)
      .parse(rooms.rows)
    const sendAll = (from: number, to: number) =>
      Promise.all(
        places.map(async ({ id }, who) => {
          for (let n = from; n < to; n++) await sendOne(large, id, who, n)
        }),
      )
    // Jobs of meetings that are gone would keep the sender busy with nothing.
    await large.pool.query('select graphile_worker.complete_jobs(array(select id from graphile_worker.jobs))')
    await sendAll(0, WARMING)
    const start = performance.now()
    await sendAll(WARMING, WARMING + MEETINGS)
    const perSecond = (CLIENTS * MEETINGS) / ((performance.now() - start) / 1000)
    const fits = perSecond >= BUDGET
    console.log(
      `sending meetings        ${perSecond.toFixed(0)} a second with a place and ${GUESTS} guests, letters going out beside it; at least ${BUDGET}: ${met(fits)}   (${CLIENTS} clients, ${CLIENTS * MEETINGS} meetings)`,
    )
    return fits
  } finally {
    await large.pool.query(
      `delete from reservation r using occurrence o, entry e
        where o.id = r.occurrence_id and e.id = o.entry_id and e.title like 'Sent for its speed%'`,
    )
    await large.pool.query("delete from entry where title like 'Sent for its speed%'")
    // Whoever was invited stands among the contacts since, and would be looked for in all that is measured after.
    await large.pool.query(
      `delete from contact where id in (
         select contact_id from contact_address where address like 'guest-%@lodestar.example')`,
    )
    await large.pool.query('analyze contact, contact_address')
    await large.stop()
    await letters.stop()
  }
}
