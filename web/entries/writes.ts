import {
  type changeEntry as ChangeEntry,
  type createEntry as CreateEntry,
  changeEntry,
  createEntry,
  deleteEntry,
  type EntryOnWire,
  readEntry,
  undoChange,
  type Written,
} from '@marmot/contract/entries'
import type { Scope } from '@marmot/core/entries'
import {
  clockText,
  type Instant,
  minuteOf,
  minutesBetween,
  spanInWords,
  toWall,
  wallText,
  zoneTable,
} from '@marmot/core/time'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { useMyTimeChanged } from '../platform/live.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'

export type NewBody = z.input<(typeof CreateEntry)['body']>
export type ChangeBody = z.input<(typeof ChangeEntry)['body']>

/** What names an entry's date and the version one has seen of it. */
export interface Dated {
  readonly entryId: string
  readonly recurrence: string
  readonly title: string
  readonly version: number
}

/** Makes, changes and deletes entries, each with a way back. */
export const useEntryWrites = () => {
  const { zone, clock, person } = useMe()
  const say = useUndo()
  const refresh = useMyTimeChanged(person.id)

  const said = async (words: string, changeId: string) => {
    say({
      words,
      undo: async () => {
        await call(undoChange, { params: { changeId } })
        await refresh()
      },
    })
    await refresh()
  }
  const warn = (written: Written) => {
    if (!written.moved) return
    const clocks = clockText(minuteOf(toWall(zone, Date.parse(written.start))))
    toast(`The clocks skip that time, so it starts at ${clocks}.`, { duration: 9000 })
  }

  const make = async (body: NewBody, key: string): Promise<Written> => {
    const written = await call(createEntry, { body, key })
    warn(written)
    await said(`${body.title || 'It'} is added`, written.changeId)
    return written
  }

  const change = async (entryId: string, body: ChangeBody, words: string): Promise<Written> => {
    const written = await call(changeEntry, { params: { entryId }, body })
    warn(written)
    await said(words, written.changeId)
    return written
  }

  const remove = async (date: Dated, scope: Scope) => {
    const { changeId } = await call(deleteEntry, {
      params: { entryId: date.entryId },
      query: { recurrence: date.recurrence, scope, version: date.version },
    })
    await said(`${date.title || 'It'} is deleted`, changeId)
  }

  /** An entry as it is, to be sent back with something changed; at another time, in its own zone. */
  const bodyOf = (entry: EntryOnWire, start: Instant, end: Instant): ChangeBody => ({
    title: entry.title,
    place: entry.placeText,
    note: entry.note,
    shows: entry.shows,
    private: entry.private,
    categoryId: entry.categoryId,
    reminders: entry.reminders,
    allDay: entry.allDay,
    zone: entry.zone,
    recurrence: entry.recurrence,
    version: entry.version,
    starts: wallText(toWall(zoneTable(entry.zone), start)),
    minutes: entry.allDay ? Math.round(minutesBetween(start, end) / 1440) * 1440 : minutesBetween(start, end),
  })

  /** Moves a date, or that and others of its series, to another time. */
  const move = async (date: Dated, start: Instant, end: Instant, scope: Scope) => {
    const entry = await call(readEntry, {
      params: { entryId: date.entryId },
      query: { recurrence: date.recurrence },
    })
    await change(
      date.entryId,
      { ...bodyOf(entry, start, end), scope },
      `Moved ${date.title} to ${spanInWords(start, end, zone, clock())}`,
    )
  }

  return { make, change, remove, move, refresh }
}
