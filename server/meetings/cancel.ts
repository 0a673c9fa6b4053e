import { headOf } from '@marmot/core/entries'
import { wallFromText, zoneTable } from '@marmot/core/time'
import {
  actingOn,
  lockEntry,
  markCancelled,
  markDateCancelled,
  nextVersion,
  noteChange,
  readKept,
  readMeetings,
  readOverrides,
  replaceOverrides,
  seriesOf,
  seriesState,
  stateOf,
  updateEntry,
  wasDate,
  writeOccurrences,
} from '../entries/index.ts'
import { oweTellings, toldIn } from '../letters/index.ts'
import type { Sql } from '../platform/database.ts'
import { meetingChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import { releaseOfEntry } from '../reservations/index.ts'
import { actorOf } from './acting.ts'

/** What is cancelled: of a series one date, that and those that follow, or all of it without a date; and why. */
interface Cancelling {
  readonly recurrence: string | null
  readonly following: boolean
  readonly reason: string
}

/** Ends a series before one of its dates; gives false where nothing of it would be left. */
const endBefore = async (
  sql: Sql,
  entryId: string,
  recurrence: string,
  reason: string,
  now: number,
): Promise<boolean> => {
  const kept = await readKept(sql, entryId, now, false)
  const head = kept && headOf(seriesOf(kept), zoneTable(kept.zone), wallFromText(recurrence) ?? 0)
  if (!head) return false
  const overrides = await readOverrides(sql, entryId)
  await updateEntry(sql, entryId, { ...seriesState(head), cancelReason: reason })
  await replaceOverrides(
    sql,
    entryId,
    overrides.filter((one) => one.recurrence < recurrence),
  )
  await nextVersion(sql, entryId)
  return true
}

/**
 * Cancels a meeting, one date of a series, or one and those that follow, in the caller's transaction: its places are let go, and everybody invited is
 * owed a letter. Cancelled again, it tells nobody. Gives how many are told, and the change, by which it is taken back.
 */
export const cancel = async (
  sql: Sql,
  entryId: string,
  { recurrence, following, reason }: Cancelling,
  { askerId, now, momentMs }: { askerId: string; now: number; momentMs: number },
): Promise<{ told: number; changeId: string | null; untoldMs: number }> => {
  await lockEntry(sql, entryId)
  const [meeting] = await readMeetings(sql, [entryId], now, { recurrence })
  if (!meeting) throw notFound('meeting of yours')
  const date = meeting.repeats ? recurrence : null
  const { organizerId: ownerId, title } = meeting
  await actingOn(sql, meeting, askerId, now)
  if (ownerId === null) throw notFound('meeting of yours')
  const asked = meeting.participants.filter((one) => !one.organizer).length
  const isDate = date === null || meeting.recurrence === date || meeting.cancelledDates.includes(date)
  if (!isDate) {
    // Asked once more, after the answer was lost: the series ends before it already.
    if (following && (await wasDate(sql, entryId, date))) return { told: asked, changeId: null, untoldMs: 0 }
    throw notFound('date of this series')
  }
  const was = await stateOf(sql, entryId)
  const ended = date !== null && following && (await endBefore(sql, entryId, date, reason, now))
  const changed =
    ended ||
    (date === null || following
      ? await markCancelled(sql, entryId, ownerId, reason, now)
      : await markDateCancelled(sql, entryId, date, reason))
  if (!changed) return { told: asked, changeId: null, untoldMs: 0 }
  const freed = await releaseOfEntry(sql, entryId, following && !ended ? null : date, following)
  await writeOccurrences(sql, entryId, now)
  const changeId = await noteChange(
    sql,
    {
      ownerId,
      actorId: askerId,
      kind: 'cancelled',
      title,
      entries: [{ id: entryId, version: meeting.version + 1, was }],
    },
    now,
  )
  const told = toldIn(await oweTellings(sql, entryId, { actorId: actorOf(askerId, ownerId), momentMs, now }))
  const people = meeting.participants.flatMap((participant) => participant.personId ?? [])
  await tell(sql, [...timeChanged(people), ...meetingChanged(entryId, people), ...reservationsChanged(freed)])
  return { told, changeId, untoldMs: momentMs }
}
