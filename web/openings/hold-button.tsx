import {
  clockText,
  type Day,
  dayOf,
  type Instant,
  instantOf,
  minuteOf,
  shortDay,
  shortTime,
  toWall,
  wallOf,
  weekdayOf,
  type ZoneTable,
} from '@marmot/core/time'
import { ChevronDown } from 'lucide-react'
import { Button } from '../ui/parts.tsx'
import { ClosesPopping, Popping } from '../ui/popping.tsx'
import type { Arranging } from './use-arranging.ts'
import type { HoldInHand } from './use-hold.ts'

const EVENING = 18 * 60
const FRIDAY = 5
const MOST_DAYS = 13

/** Until when one can hold: this evening, tomorrow's, Friday's, a week's; never past the chosen time itself. */
export const holdsUntil = ({
  zone,
  now,
  today,
  start,
}: {
  zone: ZoneTable
  now: Instant
  today: Day
  start: Instant
}): { at: Instant; words: string }[] => {
  const evening = (day: number) => instantOf(zone, wallOf(day, EVENING))
  const friday = today + ((FRIDAY - weekdayOf(today) + 7) % 7)
  const days = [today, today + 1, friday, today + 7, today + MOST_DAYS]
  return [...new Set(days)]
    .sort((a, b) => a - b)
    .map((day) => ({
      at: evening(day),
      words:
        day === today ? 'this evening' : day === today + 1 ? 'tomorrow evening' : `${shortDay(day)}, 18:00`,
    }))
    .filter(({ at }) => at > now && at <= start)
}

/** Holding the chosen time and its places while one decides: for a quarter of an hour, or until a day. */
export const HoldButton = ({ arranging, hold }: { arranging: Arranging; hold: HoldInHand }) => {
  const { zone, now, today, chosen } = arranging
  if (!chosen) return null
  if (hold.until !== null && hold.here) {
    const day = dayOf(toWall(zone, hold.until))
    const until =
      day === dayOf(toWall(zone, now))
        ? clockText(minuteOf(toWall(zone, hold.until)))
        : shortTime(hold.until, zone)
    return (
      <Button onClick={hold.release} title="Let it go (h)">
        Held until {until}: let go
      </Button>
    )
  }
  const longer = holdsUntil({ zone, now, today, start: chosen.start })
  return (
    <span className="flex">
      <Button
        onClick={() => hold.keep()}
        disabled={hold.taking}
        title="Keep my time and the places for 15 minutes (h)"
        className={longer.length ? 'rounded-r-none' : ''}
      >
        {hold.taking ? 'Taking…' : hold.until !== null ? 'Hold this time instead' : 'Hold for 15 min'}
      </Button>
      {longer.length > 0 && (
        <Popping
          label="Hold until"
          align="end"
          className="flex w-52 flex-col gap-1 p-2"
          trigger={
            <button
              type="button"
              aria-label="Hold for longer"
              disabled={hold.taking}
              className="grid w-8 place-items-center rounded-r-md border border-soft/50 border-l-0 bg-paper hover:bg-shade"
            >
              <ChevronDown size={15} aria-hidden />
            </button>
          }
        >
          <span className="px-2 text-soft text-sm">Hold until</span>
          {longer.map(({ at, words }) => (
            <ClosesPopping key={at}>
              <Button tone="quiet" className="justify-start!" onClick={() => hold.keep(at)}>
                {words}
              </Button>
            </ClosesPopping>
          ))}
        </Popping>
      )}
    </span>
  )
}
