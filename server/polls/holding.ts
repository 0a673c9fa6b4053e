import { randomUUID } from 'node:crypto'
import { DAY, dayOf, MINUTE, shortDay, toWall, wallText, type ZoneTable, zoneTable } from '@marmot/core/time'
import { dropHold, keepHold } from '../openings/index.ts'
import type { Sql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { lockResources } from '../reservations/index.ts'
import { wishOf } from './reading.ts'
import { type KeptPoll, type KeptTime, noteHold } from './store.ts'

/** What is held stays so long once nobody can mark any more, so that there is time to decide. */
const STAYS = 3 * DAY

/** Says of which day it is that something could not be had: of several times, the clock alone names none. */
const onDay =
  (time: KeptTime, table: ZoneTable) =>
  (error: unknown): never => {
    if (!(error instanceof ProblemError)) throw error
    const { status, code, detail, extra } = error
    throw new ProblemError(
      status,
      code,
      `${shortDay(dayOf(toWall(table, time.start)))}: ${detail} Nothing was changed, and nobody was asked.`,
      extra,
    )
  }

/**
 * Holds times of a poll, and their places, until it is decided; at the longest for three days after the last mark, and never past
 * their start. Held again, a time is moved on. Throws where a place cannot be had. Gives every place concerned.
 */
export const holdTimes = async (
  sql: Sql,
  poll: KeptPoll,
  times: readonly KeptTime[],
  now: number,
): Promise<string[]> => {
  const table = zoneTable(poll.zone)
  const { title } = wishOf(poll)
  // All places at once and in one order: one after the other, two polls would wait for each other.
  await lockResources(
    sql,
    times.flatMap((time) => time.places),
    [],
  )
  const touched: string[] = []
  for (const time of times) {
    const until = Math.min(poll.closes + STAYS, time.start)
    if (until <= now) continue
    const id = time.holdId ?? randomUUID()
    touched.push(
      ...(await keepHold(
        sql,
        {
          id,
          askerId: poll.ownerId,
          title: `Held: ${title}`.slice(0, 200),
          starts: wallText(toWall(table, time.start)),
          minutes: (time.end - time.start) / MINUTE,
          zone: poll.zone,
          places: time.places,
          span: { start: time.start, end: time.end },
          until,
        },
        now,
      ).catch(onDay(time, table))),
    )
    if (time.holdId !== id) await noteHold(sql, time.id, id)
  }
  return touched
}

/** Lets what is held for times of a poll go, and gives the places that are free then. */
export const letGo = async (sql: Sql, poll: KeptPoll, times: readonly KeptTime[]): Promise<string[]> => {
  const touched: string[] = []
  for (const time of times) {
    if (time.holdId === null) continue
    touched.push(...(await dropHold(sql, time.holdId, poll.ownerId)))
    await noteHold(sql, time.id, null)
  }
  return touched
}
