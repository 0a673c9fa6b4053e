import {
  type BusySpan,
  type LaneTime,
  mergeSpans,
  type WorkingHours,
  workingSpans,
} from '../availability/index.ts'
import { DAY, dayOf, type Instant, MINUTE, toWall, wallOf, weekdayOf, weekStart } from '../time/index.ts'
import { instantOf, type ZoneTable, zoneTable } from '../time/zones.ts'

/** The hours at which any of some people work, each in their own zone, in the zone of whoever looks: as they are in the week of `at`. */
const hoursOfAny = (lanes: readonly LaneTime[], zone: ZoneTable, at: Instant): WorkingHours[] => {
  const monday = weekStart(dayOf(toWall(zone, at)), 1)
  const [from, to] = [instantOf(zone, wallOf(monday)), instantOf(zone, wallOf(monday + 7))]
  const spans = lanes.flatMap((lane) => workingSpans(lane.hours, zoneTable(lane.zone), from, to))
  // Those of a team around the world may go on for days: each day has its part.
  return mergeSpans(spans).flatMap((span) => {
    const [start, end] = [toWall(zone, span.start), toWall(zone, span.end)]
    const parts: WorkingHours[] = []
    for (let day = dayOf(start); wallOf(day) < end; day++) {
      const minute = (wall: number) => Math.max(0, Math.min(DAY, wall - wallOf(day))) / MINUTE
      parts.push({ weekday: weekdayOf(day), from: minute(start), to: minute(end) })
    }
    return parts
  })
}

/**
 * A team's time as one lane, for whoever is in a zone: taken where everybody of it is, half taken where some are, with how many
 * in words. Who shares nothing is not counted; where that is everybody, the lane is unknown. Its hours are those
 * at which any of them works, as they are in the week of `at`.
 */
export const teamLane = (lanes: readonly LaneTime[], zone: ZoneTable, at: Instant): LaneTime => {
  const known = lanes.filter((lane) => lane.known)
  const steps = known.flatMap((lane) =>
    mergeSpans(lane.spans.filter((span) => span.state !== 'listed')).flatMap((span) => [
      { at: span.start, by: 1 },
      { at: span.end, by: -1 },
    ]),
  )
  // Who leaves at an instant is gone before who comes then.
  steps.sort((one, other) => one.at - other.at || one.by - other.by)
  const spans: BusySpan[] = []
  let taken = 0
  let since = 0
  for (const step of steps) {
    if (taken > 0 && step.at > since)
      spans.push({
        start: since,
        end: step.at,
        state: taken === known.length ? 'busy' : 'tentative',
        title: `${taken} of ${known.length} taken`,
      })
    taken += step.by
    since = step.at
  }
  return {
    zone: zone.zone,
    known: known.length > 0,
    hours: hoursOfAny(known, zone, at),
    spans: spans.reduce<BusySpan[]>((all, span) => {
      const last = all.at(-1)
      if (last?.end === span.start && last.title === span.title)
        all[all.length - 1] = { ...last, end: span.end }
      else all.push(span)
      return all
    }, []),
    outside: 'outside',
  }
}
