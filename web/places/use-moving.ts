import { readMeeting } from '@marmot/contract/meetings'
import type { ReservationOnWire } from '@marmot/contract/resources'
import type { BusySpan, Span } from '@marmot/core/availability'
import { minutesBetween, spanInWords, toWall, wallText, zoneTable } from '@marmot/core/time'
import { useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { timeFields } from '../meetings/wanted.ts'
import { useMeetingWrites } from '../meetings/writes.ts'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { drawnTime } from './place-state.ts'

/**
 * My own reservations on the lanes of places: opened by a press, moved in time and from place to place by a drag. A reservation
 * alone is moved at once, with a way back; what others are concerned by, or what repeats, is looked over first.
 */
export const useMoving = (places: readonly PlaceLane[]) => {
  const { zone } = useMe()
  const now = useNow()
  const writes = useMeetingWrites()
  const [, setSearch] = useSearchParams()
  const [changing, setChanging] = useState<{
    readonly entryId: string
    readonly recurrence: string | null
    readonly wanted: ReturnType<typeof timeFields> & { readonly places: readonly string[] }
  } | null>(null)
  const drawn = useMemo(() => new Map(places.map((place) => [place.id, drawnTime(place)])), [places])
  const byId = useMemo(
    () => new Map(places.flatMap((place) => place.reservations.map((one) => [one.id, one] as const))),
    [places],
  )
  const mineAt = (span: BusySpan): (ReservationOnWire & { entryId: string; recurrence: string }) | null => {
    const one = span.entryId ? byId.get(span.entryId) : undefined
    return one?.mine && one.entryId && one.recurrence && one.state !== 'held'
      ? { ...one, entryId: one.entryId, recurrence: one.recurrence }
      : null
  }
  const open = (span: BusySpan): boolean => {
    const one = mineAt(span)
    if (!one) return false
    setSearch((before) => {
      const after = new URLSearchParams(before)
      after.set('meeting', one.entryId)
      after.set('date', one.recurrence)
      return after
    })
    return true
  }
  const move = async (span: BusySpan, to: Span, placeId: string) => {
    const one = mineAt(span)
    if (!one || (to.start === span.start && to.end === span.end && placeId === one.resourceId)) return
    const { entryId, recurrence } = one
    try {
      const meeting = await call(readMeeting, { params: { entryId }, query: { recurrence } })
      const ids = meeting.places.map((place) => (place.id === one.resourceId ? placeId : place.id))
      if (!meeting.alone || meeting.repeats) {
        setChanging({
          entryId,
          recurrence: meeting.recurrence,
          wanted: { ...timeFields(to.start, to.end, zone), places: ids },
        })
        return
      }
      const where =
        placeId === one.resourceId ? '' : ` to ${places.find((each) => each.id === placeId)?.name}`
      await writes.change(
        entryId,
        {
          version: meeting.version,
          starts: wallText(toWall(zoneTable(meeting.zone), to.start)),
          minutes: minutesBetween(to.start, to.end),
          places: [...new Set(ids)],
        },
        crypto.randomUUID(),
        `Moved ${meeting.title}${where}, ${spanInWords(to.start, to.end, zone, now)}`,
        true,
      )
    } catch (error) {
      toast.error(problemWords(error))
    }
  }
  return {
    drawn,
    mayMove: useMemo(
      () => (span: BusySpan) =>
        Boolean(
          span.entryId &&
            byId.get(span.entryId)?.mine &&
            byId.get(span.entryId)?.entryId &&
            byId.get(span.entryId)?.state !== 'held',
        ),
      [byId],
    ),
    open,
    move,
    changing,
    end: () => setChanging(null),
  }
}
