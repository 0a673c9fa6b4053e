import { during, stateInWords } from '@marmot/core/availability'
import {
  clockText,
  dayOf,
  HOUR,
  type Instant,
  instantOf,
  lengthInWords,
  minuteOf,
  offsetAt,
  offsetInWords,
  shortDay,
  toWall,
  wallOf,
} from '@marmot/core/time'
import { useMemo } from 'react'
import { ownLane, ownSpan, useEntries } from '../entries/entries.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import { Loading } from '../ui/parts.tsx'

const HOURS_AROUND = 6

/** My own day around a proposed time, in a lane, and in a sentence what it collides with. */
export const DayAround = ({
  entryId,
  start,
  end,
  small = false,
}: {
  entryId: string
  start: Instant
  end: Instant
  /** A low lane alone, with what it collides with, for one line of several. */
  small?: boolean
}) => {
  const { zone, person, session } = useMe()
  const now = useNow()
  const day = dayOf(toWall(zone, start))
  const dayStart = instantOf(zone, wallOf(day))
  const entries = useEntries(dayStart, dayStart + 36 * HOUR)
  const axis = useMemo(() => {
    const first = minuteOf(toWall(zone, start))
    const from = Math.max(0, Math.min(7 * 60, first - HOURS_AROUND * 60))
    return wallAxis(zone, day, from, Math.min(1440 + 360, Math.max(19 * 60, first + HOURS_AROUND * 60)))
  }, [zone, day, start])
  if (entries.isPending) return <Loading what="your day" />
  if (entries.isError) return <p className="text-coral text-sm">⚠ Your own day could not be fetched.</p>
  const spans = entries.data.occurrences.filter((each) => each.entryId !== entryId).flatMap(ownSpan)
  const lane = ownLane(person.zone, entries.data, spans)
  const how = during(lane, zone, { start, end })
  const clash = how.blocker?.title
  const sameDay = spans.filter((span) => dayOf(toWall(zone, span.start)) === day && span.state !== 'listed')
  const before = sameDay.filter((span) => span.end <= start).sort((a, b) => b.end - a.end)[0]
  const clock = (at: Instant) => clockText(minuteOf(toWall(zone, at)))
  const words =
    how.state === 'free'
      ? `You are free then${before ? `; ${before.title} ends at ${clock(before.end)}` : ', with nothing before it that day'}.`
      : how.state === 'stretch'
        ? how.stretch > 0
          ? `You are free then, but it lies ${lengthInWords(how.stretch)} outside your hours.`
          : `You are free then, but it takes ${lengthInWords(how.lunch)} of your lunch.`
        : `⚠ You have ${clash ?? 'something'} then${how.state === 'busy' ? '' : ` (${stateInWords(how)})`}.`
  return (
    <div
      className={`overflow-hidden rounded-md bg-ground max-md:[--label:0px] ${small ? '[--label:0px]' : 'pb-2 [--label:84px]'}`}
      style={{ '--lane': small ? '18px' : '40px' }}
    >
      <div>
        <Board
          still
          label={`My day around it, ${shortDay(day)}`}
          groups={[
            {
              id: 'me',
              zone,
              axis,
              title: <span className="text-soft text-xs">{offsetInWords(offsetAt(zone, start))}</span>,
              rows: [
                {
                  id: `me-${entryId}`,
                  name: `${person.name}, ${session.sites.find((site) => site.id === person.siteId)?.name ?? ''}`,
                  label: <span className="whitespace-nowrap font-semibold text-[13px]">{shortDay(day)}</span>,
                  time: lane,
                  axis,
                },
              ],
            },
          ]}
          home={zone}
          now={now}
          step={15}
          minutes={30}
          across="all"
          chosen={{ start, end, rowId: null }}
          days={false}
          onChoose={() => undefined}
        />
      </div>
      <p
        className={`px-4.5 pt-1 text-sm max-md:px-2.5 ${how.state === 'free' || how.state === 'stretch' ? '' : 'font-semibold text-coral'}`}
      >
        {words}
      </p>
    </div>
  )
}
