import type { AskedPoll } from '@marmot/contract/polls'
import {
  clockText,
  type Day,
  HOUR,
  instantOf,
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

const MORNING = 7 * 60
const EVENING = 19 * 60
/** What is shown around the first and the last time of a day, in minutes. */
const AROUND = 60
const NIGHT = 1440 + 6 * 60

/** My own day around the times of it that are asked about. */
export const AroundDay = ({ day, times }: { day: Day; times: readonly AskedPoll['times'][number][] }) => {
  const { zone, person } = useMe()
  const now = useNow()
  const from = instantOf(zone, wallOf(day))
  const entries = useEntries(from, from + 36 * HOUR)
  const asked = useMemo(
    () =>
      times.map((time) => {
        const start = Date.parse(time.start)
        return { start, end: Date.parse(time.end), words: clockText(minuteOf(toWall(zone, start))) }
      }),
    [times, zone],
  )
  const axis = useMemo(() => {
    const minutes = asked.map((span) => minuteOf(toWall(zone, span.start)))
    const last = asked.map((span, i) => (minutes[i] ?? 0) + (span.end - span.start) / 60_000)
    return wallAxis(
      zone,
      day,
      Math.max(0, Math.min(MORNING, ...minutes.map((minute) => minute - AROUND))),
      Math.min(NIGHT, Math.max(EVENING, ...last.map((minute) => minute + AROUND))),
    )
  }, [zone, day, asked])
  if (entries.isPending) return <Loading what="your day" />
  if (entries.isError) return <p className="text-coral text-sm">⚠ Your own day could not be fetched.</p>
  const lane = ownLane(person.zone, entries.data, entries.data.occurrences.flatMap(ownSpan))
  return (
    <div
      className="overflow-hidden rounded-md pb-1 [--label:84px] max-md:[--label:0px]"
      style={{ '--lane': '38px' }}
    >
      <Board
        still
        label={`My ${shortDay(day)}`}
        groups={[
          {
            id: 'me',
            zone,
            axis,
            title: <span className="text-soft text-xs">{offsetInWords(offsetAt(zone, from))}</span>,
            rows: [
              {
                id: `me-${day}`,
                name: person.name,
                label: <span className="whitespace-nowrap text-[13px] text-soft">your day</span>,
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
        chosen={null}
        asked={asked}
        days={false}
        onChoose={() => undefined}
      />
    </div>
  )
}
