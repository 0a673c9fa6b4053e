import { openAgenda, readAgenda as readAgendaRoute } from '@marmot/contract/agenda'
import { readAgenda } from '@marmot/core/agenda'
import { type Asking, dateById, type Present, presentAt } from '../entries/index.ts'
import type { Sql } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { ProblemError } from '../platform/problems.ts'
import type { Opened, Routes } from '../platform/router.ts'
import { openRooms, type Rooms } from './rooms.ts'
import { readDocument } from './store.ts'

const roomsOf = new WeakMap<House, Rooms>()

/** The rooms of this server. */
export const roomsIn = (house: House): Rooms => {
  const there = roomsOf.get(house)
  if (there) return there
  const rooms = openRooms(house)
  roomsOf.set(house, rooms)
  return rooms
}

/** The agenda of a date as it reads. */
export const agendaAt = async (sql: Sql, { occurrenceId }: Present) =>
  readAgenda(await readDocument(sql, occurrenceId))

/** Lets somebody who is present at a date write in its agenda, for as long as they are. */
export const enterAgenda = async (
  house: House,
  who: Asking,
  present: Present,
  { name, mayCome }: { readonly name: string; readonly mayCome: () => Promise<unknown> },
): Promise<Opened> => {
  const { occurrenceId } = present
  return roomsIn(house).enter(occurrenceId, {
    entryId: present.meeting.entryId,
    name,
    mayStay: async () => {
      try {
        await mayCome()
        // The date goes on under its id wherever it is moved, also into another series.
        const date = await dateById(house.pool, occurrenceId)
        if (!date) return false
        return (await presentAt(house.pool, date, who, house.clock())).occurrenceId === occurrenceId
      } catch (error) {
        if (error instanceof ProblemError) return false
        throw error
      }
    },
  })
}

export const agendaRoutes = ({ mount, mountSocket, deps }: Routes, house: House): void => {
  const { pool, clock } = deps
  const presentFor = (entryId: string, recurrence: string | undefined, personId: string) =>
    presentAt(pool, { entryId, recurrence }, { personId }, clock())

  mount(readAgendaRoute, async ({ params, query, asker }) =>
    agendaAt(pool, await presentFor(params.entryId, query.recurrence, asker.id)),
  )

  mountSocket(openAgenda, async ({ params, query, asker }) => {
    const present = await presentFor(params.entryId, query.recurrence, asker.id)
    return enterAgenda(house, { personId: asker.id }, present, {
      name: asker.name,
      mayCome: async () => undefined,
    })
  })
}
