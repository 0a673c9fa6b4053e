import type { OccurrenceOnWire } from '@marmot/contract/entries'
import type { BusySpan } from '@marmot/core/availability'
import type { Scope } from '@marmot/core/entries'
import { type Day, dayOf, type Instant, toWall, weekStart } from '@marmot/core/time'
import { useCallback, useState } from 'react'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import type { OwnSpan } from '../entries/entries.ts'
import type { Editing } from '../entries/use-entry-form.ts'
import type { Invited } from '../entries/with-people.tsx'
import { useEntryWrites } from '../entries/writes.ts'
import type { Chosen } from '../lanes/types.ts'
import type { Wanted } from '../meetings/use-change.ts'
import { timeFields } from '../meetings/wanted.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { type Days, isOwn } from './use-days.ts'

/** Minutes to which times snap, and how long an entry is that nobody gave a length. */
export const STEP = 15
export const NEW_MINUTES = 30

/** A meeting that is to be another, to be looked over before anybody is told. */
export interface Changing {
  readonly entryId: string
  /** Which date of a series; null of anything else. */
  readonly recurrence: string | null
  readonly wanted: Wanted
  /** Whether it is people that it is to get. */
  readonly inviting: boolean
}

/** What is chosen, taken up, asked about and edited on the days, and what can be done with it. */
export const useHand = (days: Days, of: string | undefined) => {
  const { zone, display } = useMe()
  const { now, lens, look } = days.view
  const [, setSearch] = useSearchParams()
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [editing, setEditing] = useState<Editing | null>(null)
  const [asking, setAsking] = useState<{ moved: OwnSpan; start: Instant; end: Instant } | null>(null)
  const [changing, setChanging] = useState<Changing | null>(null)
  const [holding, setHolding] = useState<OwnSpan | null>(null)
  const writes = useEntryWrites()

  /** Opens the sheet of an entry, in the place of whatever stands there. */
  const edit = useCallback(
    (next: Editing) => {
      setEditing(next)
      setSearch((before) => {
        if (!before.has('meeting')) return before
        const after = new URLSearchParams(before)
        for (const name of ['meeting', 'date', 'change']) after.delete(name)
        return after
      })
    },
    [setSearch],
  )
  const openDate = (one: OccurrenceOnWire, deleting = false) => {
    setChosen(null)
    if (one.hidden) toast('A private entry: only its time is shown to you.')
    else if ((one.meeting || one.reserved) && (!of || (one.own && days.mayChangeMeetings))) {
      setEditing(null)
      setSearch((before) => {
        const next = new URLSearchParams(before)
        next.set('meeting', one.entryId)
        next.set('date', one.recurrence)
        next.delete('change')
        return next
      })
    } else
      edit({
        start: Date.parse(one.start),
        end: Date.parse(one.end),
        date: { entryId: one.entryId, recurrence: one.recurrence },
        deleting,
      })
  }
  const open = (span: BusySpan) => {
    if (isOwn(span)) openDate(span.occurrence)
  }
  const move = async (moved: OwnSpan, start: Instant, end: Instant, scope: Scope) => {
    try {
      await writes.move(moved.occurrence, start, end, scope)
    } catch (error) {
      toast.error(problemWords(error))
      await writes.refresh()
    }
    setChosen(null)
  }
  /** A time was pressed or drawn, or an entry put down at it. */
  const take = async (next: Chosen, moved: BusySpan | null) => {
    setHolding(null)
    if (!moved || !isOwn(moved)) {
      if (days.year) look({ first: dayOf(toWall(zone, next.start)), days: 1 })
      else if (days.mayChange) edit({ start: next.start, end: next.end, date: null })
      return
    }
    if (next.start === moved.start && next.end === moved.end) setChosen(null)
    // Others are concerned: they are told, once it was looked over.
    else if (moved.occurrence.meeting || moved.occurrence.reserved) {
      const { entryId, recurrence, repeats } = moved.occurrence
      setChanging({
        entryId,
        recurrence: repeats ? recurrence : null,
        wanted: timeFields(next.start, next.end, zone),
        inviting: false,
      })
    } else if (moved.occurrence.repeats) setAsking({ moved, start: next.start, end: next.end })
    else await move(moved, next.start, next.end, 'this')
  }
  /** Brings the day of a time into the lens. */
  const show = (start: Instant): Day => {
    const day = dayOf(toWall(zone, start))
    if (day < lens.first || day >= lens.first + lens.days)
      look({ ...lens, first: lens.days < 7 ? day : weekStart(day, display.firstWeekday) })
    return day
  }
  /** Goes to the next entry, or the one before, from the chosen time or now on. */
  const step = (way: 1 | -1) => {
    // In order of start, then end, so that of two that begin together both are gone to.
    const after = (one: { start: number; end: number }) =>
      chosen ? (one.start - chosen.start || one.end - chosen.end) * way : (one.start - now) * way
    const [ahead] = days.spans
      .filter((span) => span.state !== 'listed' && after(span) > 0 && !days.faint(span))
      .sort((a, b) => (a.start - b.start || a.end - b.end) * way)
    if (!ahead) return
    const day = show(ahead.start)
    const rowId = days.year ? `week ${weekStart(day, display.firstWeekday)}` : String(day)
    setChosen({ start: ahead.start, end: ahead.end, rowId })
    requestAnimationFrame(() =>
      document.querySelector<HTMLElement>(`[data-row="${rowId}"] [role=gridcell]`)?.focus(),
    )
  }
  /** What stands at the chosen time: just there, or else touching it, as a day-long entry does that lies under it. */
  const atChosen = (): OwnSpan | undefined => {
    if (!chosen) return undefined
    const touching = days.spans
      .filter(days.mayMove)
      .filter((span) => span.start < chosen.end && span.end > chosen.start)
    return touching.find((span) => span.start === chosen.start && span.end === chosen.end) ?? touching[0]
  }
  const takeUp = () => {
    const span = atChosen()
    if (!span) {
      toast('Choose an entry of yours first: n goes to the next.')
      return
    }
    setHolding(span)
    setChosen({ start: span.start, end: span.end, rowId: String(dayOf(toWall(zone, span.start))) })
    toast(`${span.title} is taken up: arrows move it, Shift and arrows change its end, Enter puts it down.`)
  }
  const removeChosen = () => {
    const span = atChosen()
    if (!span) return
    if (span.occurrence.repeats || span.occurrence.meeting || span.occurrence.reserved)
      openDate(span.occurrence, true)
    else
      writes.remove(span.occurrence, 'all').then(
        () => setChosen(null),
        (error) => toast.error(problemWords(error)),
      )
  }
  /** A new entry at the chosen time, else at the next quarter of an hour. */
  const makeHere = () => {
    const start = chosen?.start ?? Math.ceil(now / (STEP * 60_000)) * STEP * 60_000
    edit({ start, end: chosen?.end ?? start + NEW_MINUTES * 60_000, date: null })
  }
  return {
    chosen,
    choose: (next: Chosen | null) => {
      if (!next) setHolding(null)
      setChosen(next)
    },
    holding,
    editing,
    edit,
    endEditing: () => {
      setEditing(null)
      setChosen(null)
    },
    asking,
    answer: async (scope: Scope) => {
      if (asking) await move(asking.moved, asking.start, asking.end, scope)
    },
    endAsking: () => {
      setAsking(null)
      setChosen(null)
    },
    changing,
    /** People are to be invited to an entry that stands: it is looked over first. */
    invite: (entryId: string, recurrence: string, series: boolean, people: readonly Invited[]) =>
      setChanging({
        entryId,
        recurrence: series ? recurrence : null,
        wanted: { members: people, ...(series ? { scope: 'all' } : {}) },
        inviting: true,
      }),
    endChanging: () => {
      setChanging(null)
      setChosen(null)
    },
    open,
    openDate,
    take,
    show,
    step,
    takeUp,
    removeChosen,
    makeHere,
  }
}

export type Hand = ReturnType<typeof useHand>
