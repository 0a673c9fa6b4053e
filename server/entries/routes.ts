import { changeEntry, createEntry, deleteEntry, listEntries, restoreEntry } from '@marmot/contract/entries'
import type { CheckedTime } from '@marmot/core/entries'
import { toWall, wallText, zoneTable } from '@marmot/core/time'
import { hoursOf } from '../availability/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readRange } from '../platform/read.ts'
import { once, type Routes } from '../platform/router.ts'
import { writeOccurrences } from './occurrences.ts'
import {
  cancelDate,
  insertEntry,
  isOccurrence,
  lockOwnEntry,
  nextVersion,
  type OwnEntry,
  ownOccurrences,
  putOverride,
  seriesZone,
  setDeleted,
  updateEntry,
} from './store.ts'
import { timeOrProblem } from './time.ts'

const writtenAs = (entryId: string, version: number, checked: CheckedTime) => ({
  entryId,
  version,
  start: new Date(checked.start).toISOString(),
  end: new Date(checked.end).toISOString(),
  moved: checked.fit === 'gap',
})

/** The entry, locked, if it is the asker's, is no meeting, and is still as they saw it. */
const lockAsSeen = async (sql: Sql, entryId: string, ownerId: string, version: number): Promise<OwnEntry> => {
  const entry = await lockOwnEntry(sql, entryId, ownerId)
  if (!entry) throw notFound('entry')
  if (entry.meeting)
    throw new ProblemError(
      409,
      'is-a-meeting',
      'Others take part in this. Open it to cancel it, so that they are told.',
    )
  if (entry.version !== version)
    throw new ProblemError(
      409,
      'stale',
      `"${entry.title}" was changed meanwhile. What you see now is the newest.`,
      {
        more: { version: entry.version },
      },
    )
  return entry
}

export const entriesRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listEntries, async ({ query, asker }) => {
    const { from, to } = readRange(query)
    const hours = await hoursOf(pool, [asker.id])
    return { occurrences: await ownOccurrences(pool, asker.id, from, to), hours: hours.get(asker.id) ?? [] }
  })

  mount(createEntry, async ({ body, asker, context }) => {
    const checked = timeOrProblem(body)
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const entryId = await insertEntry(sql, { ...body, ownerId: asker.id }, clock())
        await writeOccurrences(sql, entryId, clock())
        await tellTime(sql, [asker.id])
        return writtenAs(entryId, 1, checked)
      }),
    )
  })

  mount(changeEntry, async ({ params, body, asker }) => {
    const checked = timeOrProblem(body)
    return transaction(pool, async (sql) => {
      const entry = await lockAsSeen(sql, params.entryId, asker.id, body.version)
      if (entry.deleted) throw notFound('entry')
      if (entry.repeats) {
        if (!(await isOccurrence(sql, params.entryId, body.recurrence))) throw notFound('date of this series')
        // A date of a series is kept in the series' own zone, whichever zone the change was made in.
        const zone = await seriesZone(sql, params.entryId)
        const starts = wallText(toWall(zoneTable(zone), checked.start))
        await putOverride(sql, params.entryId, body.recurrence, { ...body, zone, starts })
      } else {
        await updateEntry(sql, params.entryId, body)
      }
      await writeOccurrences(sql, params.entryId, clock())
      await tellTime(sql, [asker.id])
      return writtenAs(params.entryId, await nextVersion(sql, params.entryId), checked)
    })
  })

  const setGone = (
    entryId: string,
    asker: { id: string },
    given: { recurrence: string; version: number },
    gone: boolean,
  ) =>
    transaction(pool, async (sql) => {
      const entry = await lockAsSeen(sql, entryId, asker.id, given.version)
      if (entry.repeats) await cancelDate(sql, entryId, given.recurrence, gone)
      else await setDeleted(sql, entryId, gone ? clock() : null)
      await writeOccurrences(sql, entryId, clock())
      await tellTime(sql, [asker.id])
      return { version: await nextVersion(sql, entryId) }
    })

  mount(deleteEntry, ({ params, query, asker }) => setGone(params.entryId, asker, query, true))
  mount(restoreEntry, ({ params, body, asker }) => setGone(params.entryId, asker, body, false))
}
