import type { Span } from '@marmot/core/availability'
import { type CheckedTime, checkTime, isTimeProblem } from '@marmot/core/entries'
import { dayOf, lengthInWords, minutesBetween, toWall, zoneTable } from '@marmot/core/time'
import { useEffect, useRef, useState } from 'react'
import { readTyped, typedTime } from '../entries/typed.ts'
import { useMe, useNow } from '../platform/session.tsx'

const spanKey = ({ start, end }: Span): string => `${start} ${end}`

/**
 * A span that is both drawn and typed: what is drawn is written into the fields, and what is typed moves what is drawn, and is
 * left as it was typed.
 */
export const useTypedSpan = (span: Span, onSpan: (span: Span) => void) => {
  const { zone: home } = useMe()
  const now = useNow()
  const [zone, setZone] = useState(home.zone)
  const [allDay, setAllDay] = useState(false)
  const [typed, setTyped] = useState(() => typedTime(span.start, span.end, zone, false))
  const shown = useRef(spanKey(span))
  const drawn = spanKey(span)
  useEffect(() => {
    if (shown.current === drawn) return
    shown.current = drawn
    setAllDay(false)
    setTyped(typedTime(span.start, span.end, zone, false))
  }, [drawn, span, zone])
  const near = dayOf(toWall(zoneTable(zone), span.start))
  const today = dayOf(toWall(zoneTable(zone), now))
  const read = readTyped({ ...typed, allDay }, near, today)
  const checked =
    Object.keys(read.errors).length === 0 ? checkTime(read.starts, read.minutes, zone, allDay) : null
  const fine: CheckedTime | null = checked && !isTimeProblem(checked) ? checked : null

  const type = (part: Partial<typeof typed>, next: { allDay?: boolean; zone?: string } = {}) => {
    const after = { ...typed, ...part }
    const [whole, where] = [next.allDay ?? allDay, next.zone ?? zone]
    setTyped(after)
    setAllDay(whole)
    setZone(where)
    const again = readTyped({ ...after, allDay: whole }, near, today)
    if (Object.keys(again.errors).length > 0) return
    const meant = checkTime(again.starts, again.minutes, where, whole)
    if (isTimeProblem(meant)) return
    shown.current = spanKey(meant)
    onSpan({ start: meant.start, end: meant.end })
  }
  /** Begins at another clock; the length stays. */
  const begin = (from: string) => {
    const until = lengthInWords(minutesBetween(span.start, span.end)).replace(/ /g, '')
    const again = readTyped({ ...typed, from, until, allDay: false }, near, today)
    const clear = Object.keys(again.errors).length === 0
    const meant = clear ? checkTime(again.starts, again.minutes, zone, false) : null
    if (meant && !isTimeProblem(meant))
      type({ from, until: typedTime(meant.start, meant.end, zone, false).until })
    else type({ from })
  }
  return {
    typed,
    type,
    begin,
    errors: read.errors,
    allDay,
    zone,
    fine,
    over: fine !== null && fine.end <= now,
    problem: checked && isTimeProblem(checked) ? checked.message : null,
    starts: read.starts,
    minutes: read.minutes,
  }
}
