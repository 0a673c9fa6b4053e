import { hoursAround, mineInWords } from '@marmot/core/lanes'
import {
  dayOf,
  HOUR,
  type Instant,
  instantOf,
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
    const { from, to } = hoursAround(zone, { start, end })
    return wallAxis(zone, day, from, to)
  }, [zone, day, start, end])
  if (entries.isPending) return <Loading what="your day" />
  if (entries.isError) return <p className="text-coral text-sm">⚠ Your own day could not be fetched.</p>
  const spans = entries.data.occurrences.filter((each) => each.entryId !== entryId).flatMap(ownSpan)
  const lane = ownLane(person.zone, entries.data, spans)
  const words = mineInWords(lane, zone, { start, end })
  return (
    <div
      className={`overflow-hidden rounded-md bg-ground max-md:[--label:0px] ${small ? '[--label:0px] [&_.spill]:hidden' : 'pb-2 [--label:84px]'}`}
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
              title: (
                <span className={small ? 'sr-only' : 'text-soft text-xs'}>
                  {offsetInWords(offsetAt(zone, start))}
                </span>
              ),
              rows: [
                {
                  id: `me-${entryId}`,
                  name: `${person.name}, ${session.sites.find((site) => site.id === person.siteId)?.name ?? ''}`,
                  label: (
                    <span className={small ? 'sr-only' : 'whitespace-nowrap font-semibold text-[13px]'}>
                      {shortDay(day)}
                    </span>
                  ),
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
        className={`px-4.5 pt-1 text-sm max-md:px-2.5 ${words.startsWith('⚠') ? 'font-semibold text-coral' : ''}`}
      >
        {words}
      </p>
    </div>
  )
}
