import { guestLaneOf, laneOf, unknownLane } from '@marmot/contract/availability'
import { searchBriefOf } from '@marmot/contract/openings'
import { itemsIn } from '@marmot/core/agenda'
import { noteOfText } from '@marmot/core/entries'
import {
  isClash,
  type Repair,
  type SeriesDate,
  type SeriesRule,
  seriesEnd,
  seriesRule,
} from '@marmot/core/openings'
import { DAY, dayOf, instantOf, toWall, wallOf, wallText } from '@marmot/core/time'
import { useMemo, useState } from 'react'
import { useTime } from '../availability/time.ts'
import { searchPlace, usePlaces } from '../resources/resources.ts'
import { useBrief } from './brief.tsx'
import { placesFor } from './places-for.ts'
import type { Arranging } from './use-arranging.ts'
import { useSeries } from './use-series.ts'

const USUAL: SeriesRule = { every: 1, unit: 'week', count: 6 }

/** The weekdays and hours of a series over its whole run, fewest clashes first. */
const useSlots = (arranging: Arranging, rule: SeriesRule) => {
  const { brief } = useBrief()
  const { zone, me, members, wire, soonest } = arranging
  const from = instantOf(zone, wallOf(brief.fromDay))
  const end = Math.min(seriesEnd({ from }, rule), from + 730 * DAY)
  const time = useTime(
    brief.people.map((one) => one.id),
    from - DAY,
    end,
    null,
    brief.guests.map((one) => one.address),
  )
  const sites = [me.siteId, ...members.flatMap((member) => member.person?.siteId ?? [])]
  const { places, pending, stale } = usePlaces(from - DAY, end, {
    hold: brief.hold,
    of: placesFor(brief, sites),
  })
  const { start } = brief
  const fetched = time.data && !time.isPlaceholderData && !pending && !stale ? time.data : null
  const search = useMemo(() => {
    if (!fetched) return null
    const lanes = new Map([
      ...fetched.people.map((each) => [each.personId, laneOf(each, wire.hold)] as const),
      ...fetched.guests.map((each) => [each.address, guestLaneOf(me.zone, each)] as const),
    ])
    return searchBriefOf(wire, {
      meId: me.id,
      zone: me.zone,
      homeSite: me.siteId,
      now: soonest,
      timeOf: (id) => lanes.get(id) ?? unknownLane(me.zone),
      siteOf: (id) => members.find((member) => member.id === id)?.person?.siteId,
      places: places.map(searchPlace),
      past: {},
      // Series go further than any forecast.
      forecastAt: () => null,
    })
  }, [fetched, wire, me, members, places, soonest])
  const { slots, refused, searching } = useSeries(search, rule, start)
  // Dates of the repetition of before are not sent under the new one.
  return { slots, refused, ready: fetched !== null && !searching }
}

/** A series in hand: how it repeats, which weekday and hour is picked, and the repair chosen for each date that clashes. */
export const useSeriesInHand = (arranging: Arranging) => {
  const { brief, change } = useBrief()
  const { zone, me, members } = arranging
  const rule = brief.series ?? USUAL
  const [picked, setPicked] = useState<number | null>(null)
  const [repairs, setRepairs] = useState<Readonly<Record<string, Repair>>>({})
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const { slots, refused, ready } = useSlots(arranging, rule)
  const slot = ready ? (slots.find((each) => each.first === picked) ?? slots[0]) : undefined
  const keyOf = (date: SeriesDate) => `${slot?.first} ${date.recurrence}`
  const isLeft = (date: SeriesDate): boolean => left.has(keyOf(date))
  const repairOf = (date: SeriesDate): Repair | undefined => repairs[keyOf(date)]
  const kept = (slot?.dates ?? []).filter((date) => !isLeft(date))
  const open = kept.filter((date) => isClash(date) && !repairOf(date))
  /** Leaves a date out of the series, or takes it in again. */
  const leave = (date: SeriesDate) =>
    setLeft((before) => {
      const next = new Set(before)
      if (!next.delete(keyOf(date))) next.add(keyOf(date))
      return next
    })
  const repair = (dates: readonly SeriesDate[], choose: (date: SeriesDate) => Repair | undefined) =>
    setRepairs((before) => {
      const next = { ...before }
      for (const date of dates) {
        const chosen = choose(date)
        if (chosen) next[keyOf(date)] = chosen
      }
      return next
    })
  /** The series as it is sent: its first date by the rule, and the dates that were repaired. Null while none is picked. */
  const body = () => {
    const [first] = slot?.dates ?? []
    if (!slot || !first) return null
    const changes = kept.flatMap((date) => {
      const chosen = repairOf(date)
      if (!chosen) return []
      const had = slot.places.filter((id) => !date.placesTaken.includes(id))
      return [
        {
          recurrence: wallText(date.recurrence),
          starts: chosen.kind === 'place' ? wallText(date.recurrence) : wallText(toWall(zone, chosen.start)),
          places: chosen.kind === 'place' ? [...had, ...chosen.instead] : [...slot.places],
        },
      ]
    })
    return {
      title: brief.title,
      note: noteOfText(brief.note),
      agenda: itemsIn(
        brief.agenda,
        members.map((member) => member.name),
      ),
      starts: wallText(first.recurrence),
      minutes: brief.minutes,
      zone: me.zone,
      people: brief.people.filter((one) => one.id !== me.id).map(({ id, required }) => ({ id, required })),
      guests: brief.guests.map((one) => ({ ...one })),
      places: [...slot.places],
      series: {
        rule: seriesRule(rule, dayOf(first.recurrence)),
        excepted: slot.dates.filter(isLeft).map((date) => wallText(date.recurrence)),
        changes,
      },
      hold: brief.hold,
    }
  }
  return {
    rule,
    setRule: (next: Partial<SeriesRule>) => {
      change({ series: { ...rule, ...next } })
      setPicked(null)
    },
    slots,
    refused,
    ready,
    slot,
    pick: setPicked,
    /** The dates that are not left out. */
    kept,
    isLeft,
    leave,
    /** Dates that clash and have no repair yet, and those of them for which there is one. */
    open,
    repairable: open.filter((date) => date.repairs.length > 0),
    repairOf,
    repair,
    body,
  }
}

export type SeriesInHand = ReturnType<typeof useSeriesInHand>
