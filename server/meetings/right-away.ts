import { randomUUID } from 'node:crypto'
import { callIn, meetRightAway } from '@marmot/contract/conferences'
import { changeMeeting, sendMeeting } from '@marmot/contract/meetings'
import { instantOf, MINUTE, toWall, wallText, zoneTable } from '@marmot/core/time'
import { callTo, closeRoom, conferenceFor, dialTo, mustBeOn, serviceOf } from '../conferences/index.ts'
import {
  datesToMake,
  lockEntry,
  type Present,
  presentAt,
  presentIn,
  readKept,
  roomsOver,
  roomsWanted,
  updateEntry,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { peopleByIds } from '../people/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { tellMeeting } from '../platform/live.ts'
import { once, type Routes } from '../platform/router.ts'
import { change } from './change.ts'
import { send } from './send.ts'

/** What a meeting is called that nobody has named, and how long it is meant to be. */
const UNNAMED = 'Meeting right away'
const MINUTES = 30

/** The start of a meeting that begins now, by the clock on the wall where it can be said so that it means this hour. */
const startsNow = (now: number, zone: string): { starts: string; zone: string } => {
  const start = Math.floor(now / MINUTE) * MINUTE
  const table = zoneTable(zone)
  const wall = toWall(table, start)
  // In the hour that comes twice the first is meant: the second can be said in UTC alone.
  return instantOf(table, wall) === start
    ? { starts: wallText(wall), zone }
    : { starts: wallText(toWall(zoneTable('UTC'), start)), zone: 'UTC' }
}

/** Everybody at a date, with somebody more, as a change has it. */
const withMore = (
  { meeting }: Present,
  more: { readonly person?: string; readonly guest?: { readonly address: string; readonly name: string } },
) => {
  const others = presentIn(meeting).filter((one) => !one.organizer)
  return {
    people: [
      ...others.flatMap(({ personId, required }) => (personId ? [{ id: personId, required }] : [])),
      ...(more.person ? [{ id: more.person, required: false }] : []),
    ],
    guests: [
      ...others.flatMap((one) =>
        one.personId ? [] : [{ address: one.address, name: one.guestName, required: one.required }],
      ),
      ...(more.guest ? [{ ...more.guest, required: false }] : []),
    ],
  }
}

export const rightAwayRoutes = ({ mount, deps }: Routes, house: House): void => {
  const { pool, clock } = deps

  mount(meetRightAway, async ({ body, asker, context }) => {
    serviceOf(house)
    const now = clock()
    const title = body.title || UNNAMED
    const [me] = await peopleByIds(pool, [asker.id])
    const people = body.people.filter((id) => id !== asker.id)
    const meeting = sendMeeting.body.parse({
      title,
      ...startsNow(now, me?.zone ?? 'UTC'),
      minutes: MINUTES,
      people: people.map((id) => ({ id, required: true })),
      guests: body.guests.map((one) => ({ ...one, required: true })),
      places: [],
      rsvp: false,
    })
    const dates = datesToMake(meeting, now)
    const conference = await conferenceFor(house, randomUUID(), title)
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const { entryId } = await send(sql, meeting, dates, {
          askerId: asker.id,
          now,
          momentMs: 0,
          conference,
        })
        const { occurrenceId } = await presentAt(sql, { entryId }, { personId: asker.id }, now)
        await callTo(sql, { entryId, occurrenceId }, people, asker.id, now)
        return { entryId }
      }),
    )
  })

  /** Asks somebody to a meeting that goes on, who was not: by who may change it. */
  const ask = async (
    sql: Sql,
    present: Present,
    askerId: string,
    more: Parameters<typeof withMore>[1],
  ): Promise<void> => {
    const { entryId, version, repeats, recurrence } = present.meeting
    await change(sql, {
      entryId,
      askerId,
      given: changeMeeting.body.parse({
        version,
        ...(repeats ? { scope: 'this', recurrence } : {}),
        ...withMore(present, more),
      }),
      now: clock(),
      // They are to come now.
      momentMs: 0,
    })
  }

  mount(callIn, ({ params, body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const now = clock()
        // Two who call somebody in at once do so one after the other.
        await lockEntry(sql, params.entryId)
        const present = await presentAt(
          sql,
          { ...params, recurrence: body.recurrence },
          { personId: asker.id },
          now,
        )
        const { to } = body
        const conference = await mustBeOn(sql, present, now)
        const here = presentIn(present.meeting)
        const date = { entryId: params.entryId, occurrenceId: present.occurrenceId }
        if ('number' in to)
          await dialTo(house, sql, { ...date, room: conference.room }, to.number, asker.id, now)
        else if ('person' in to) {
          if (!here.some((one) => one.personId === to.person))
            await ask(sql, present, asker.id, { person: to.person })
          await callTo(sql, date, [to.person], asker.id, now)
        } else if (!here.some((one) => one.address === to.address))
          await ask(sql, present, asker.id, { guest: to })
        return {}
      }),
    ),
  )
}

const MOST_A_MINUTE = 20

/** Asks the service once more for the links that it did not give at first; whoever was told without is told. */
export const giveRooms = async (house: Pick<House, 'pool' | 'clock' | 'settings' | 'url'>): Promise<void> => {
  if (!house.settings.conference) return
  const { pool, clock } = house
  for (const { entryId, room, title } of await roomsWanted(pool, MOST_A_MINUTE)) {
    const conference = await conferenceFor(house, room, title)
    // It does not answer still.
    if (!conference.link) return
    await transaction(pool, async (sql) => {
      await lockEntry(sql, entryId)
      const kept = await readKept(sql, entryId, clock(), false)
      if (kept?.conference?.room !== room || kept.conference.link) return
      await updateEntry(sql, entryId, { conference })
      await oweLetters(sql, entryId, { actorId: null, momentMs: 0, now: clock() })
      await tellMeeting(sql, entryId, [kept.ownerId])
    })
  }
}

const MOST_A_NIGHT = 500

/** Says to the service in which rooms nobody meets any more: their codes lead nowhere then. */
export const closeRooms = async ({
  pool,
  clock,
  settings,
}: Pick<House, 'pool' | 'clock' | 'settings'>): Promise<void> => {
  const { conference: service } = settings
  if (!service) return
  for (const { room, entryIds } of await roomsOver(pool, clock(), MOST_A_NIGHT)) {
    await closeRoom(service, room)
    for (const entryId of entryIds) await updateEntry(pool, entryId, { conference: null })
  }
}
