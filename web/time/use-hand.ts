import type { OccurrenceOnWire } from '@marmot/contract/entries'
import type { BusySpan, Span } from '@marmot/core/availability'
import type { Scope } from '@marmot/core/entries'
import { dayOf, type Instant, toWall, weekStart } from '@marmot/core/time'
import { useCallback, useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { OwnSpan } from '../entries/entries.ts'
import type { Editing } from '../entries/use-entry-form.ts'
import type { Invited } from '../entries/with-people.tsx'
import { useEntryWrites } from '../entries/writes.ts'
import { inLens } from '../lanes/lens.ts'
import type { Chosen } from '../lanes/types.ts'
import type { Wanted } from '../meetings/use-change.ts'
import { timeFields } from '../meetings/wanted.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
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

/** An entry of a series was put down elsewhere: which dates are meant? */
interface Asking {
  readonly moved: OwnSpan
  readonly start: Instant
  readonly end: Instant
  readonly byKey: boolean
}

/** A time as it is chosen: on the row on which it begins. */
const chosenAt = (days: Days, firstWeekday: number, { start, end }: Span): Chosen => {
  const day = dayOf(toWall(days.view.zone, start))
  return { start, end, rowId: days.year ? `week ${weekStart(day, firstWeekday)}` : String(day) }
}

/** What is chosen once an answer is there: whoever has gone on meanwhile keeps what they have chosen since. */
const settled =
  (left: Span | null, next: Chosen | null) =>
  (current: Chosen | null): Chosen | null =>
    current?.start === left?.start && current?.end === left?.end ? next : current

/** Focuses the lane of a row as soon as it is drawn: that of another week is not there at once. */
const useHeading = () => {
  const [heading, setHeading] = useState<string | null>(null)
  useEffect(() => {
    const lane =
      heading && document.querySelector<HTMLElement>(`[data-row="${CSS.escape(heading)}"] [role=gridcell]`)
    if (!lane) return
    lane.focus()
    setHeading(null)
  })
  return setHeading
}

/** What stands at the chosen time: just there, or else touching it, as a day-long entry does that lies under it. */
const movableAt = (days: Days, chosen: Chosen | null): OwnSpan | undefined => {
  if (!chosen) return undefined
  const touching = days.spans
    .filter(days.mayMove)
    .filter((span) => span.start < chosen.end && span.end > chosen.start)
  return touching.find((span) => span.start === chosen.start && span.end === chosen.end) ?? touching[0]
}

/** What is chosen, taken up, asked about and edited on the days, and what can be done with it. */
export const useHand = (days: Days, of: string | undefined) => {
  const { zone, display } = useMe()
  const { firstWeekday } = display
  const { now, lens, look } = days.view
  const [search, setSearch] = useSearchParams()
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [editing, setEditing] = useState<Editing | null>(null)
  const [asking, setAsking] = useState<Asking | null>(null)
  const [changing, setChanging] = useState<Changing | null>(null)
  const [holding, setHolding] = useState<OwnSpan | null>(null)
  const head = useHeading()
  const writes = useEntryWrites()
  const at = (span: Span): Chosen => chosenAt(days, firstWeekday, span)

  /** Opens the sheet of an entry, in the place of whatever stands there. */
  const edit = useCallback(
    (next: Editing) => {
      setEditing(next)
      if (!search.has('meeting') && !search.has('todo')) return
      setSearch((before) => {
        const after = new URLSearchParams(before)
        for (const name of ['meeting', 'date', 'change', 'todo']) after.delete(name)
        return after
      })
    },
    [search, setSearch],
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
        next.delete('todo')
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
  /** Moves an entry. What was taken up by key stays chosen, where it stands then, so that one goes on from there. */
  const move = async (moved: OwnSpan, start: Instant, end: Instant, scope: Scope, byKey: boolean) => {
    const left = { start, end }
    try {
      await writes.move(moved.occurrence, start, end, scope)
      if (!byKey) setChosen(settled(left, null))
    } catch (error) {
      toast.error(problemWords(error))
      setChosen(settled(left, byKey ? at(moved) : null))
      await writes.refresh()
    }
  }
  /** A time was pressed or drawn, or an entry put down at it. */
  const take = async (next: Chosen, moved: BusySpan | null) => {
    const byKey = holding !== null
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
    } else if (moved.occurrence.repeats) setAsking({ moved, start: next.start, end: next.end, byKey })
    else await move(moved, next.start, next.end, 'this', byKey)
  }
  /** Brings the day of a time into the lens. */
  const show = (start: Instant): void => {
    const day = dayOf(toWall(zone, start))
    if (!inLens(lens, day)) look({ ...lens, first: lens.days < 7 ? day : weekStart(day, firstWeekday) })
  }
  /** Goes to the next entry, or the one before, from the chosen time if that is in sight, else from now on. */
  const step = (way: 1 | -1) => {
    const seen = chosen && inLens(lens, dayOf(toWall(zone, chosen.start))) ? chosen : null
    // In order of start, then end, so that of two that begin together both are gone to.
    const after = (one: { start: number; end: number }) =>
      seen ? (one.start - seen.start || one.end - seen.end) * way : (one.start - now) * way
    const [ahead] = days.spans
      .filter((span) => span.state !== 'listed' && after(span) > 0 && !days.faint(span))
      .sort((a, b) => (a.start - b.start || a.end - b.end) * way)
    if (!ahead) return
    show(ahead.start)
    const next = at(ahead)
    setChosen(next)
    head(next.rowId)
  }
  const takeUp = () => {
    const span = movableAt(days, chosen)
    if (!span) {
      toast('Choose an entry of yours first: n goes to the next.')
      return
    }
    setHolding(span)
    setChosen(at(span))
    toast(`${span.title} is taken up: arrows move it, Shift and arrows change its end, Enter puts it down.`)
  }
  const removeChosen = () => {
    const span = movableAt(days, chosen)
    if (!span) return
    if (span.occurrence.repeats || span.occurrence.meeting || span.occurrence.reserved)
      openDate(span.occurrence, true)
    else
      writes.remove(span.occurrence, 'all').then(
        () => setChosen(settled(chosen, null)),
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
      if (asking) await move(asking.moved, asking.start, asking.end, scope, asking.byKey)
      setAsking(null)
    },
    leave: () => {
      setChosen(asking?.byKey ? at(asking.moved) : null)
      setAsking(null)
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
