import type { Meeting } from '@marmot/contract/meetings'
import type { BusySpan } from '@marmot/core/availability'
import { tally } from '@marmot/core/invitations'
import { clashesIn } from '@marmot/core/lanes'
import {
  clockText,
  dayOf,
  HOUR,
  instantOf,
  minuteOf,
  offsetAt,
  offsetInWords,
  toWall,
  wallOf,
} from '@marmot/core/time'
import { TriangleAlert } from 'lucide-react'
import { useCallback, useMemo } from 'react'
import { Link, useNavigate } from 'react-router'
import { lookOfOwn, type OwnSpan, ownLane, ownSpan, useEntries } from '../entries/entries.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import { dayAddress } from '../search/day-address.ts'
import { Loading } from '../ui/parts.tsx'

const isMine = (span: BusySpan): span is OwnSpan => 'occurrence' in span

/** One thing that is wrong today, and where it is mended. */
const Wrong = ({ to, children }: { to: string; children: string }) => (
  <li>
    <Link
      to={to}
      className="inline-flex min-h-7 items-center gap-1.5 font-semibold text-coral underline decoration-coral/50 underline-offset-2 max-md:min-h-thumb"
    >
      <TriangleAlert size={15} aria-hidden className="shrink-0" /> {children}
    </Link>
  </li>
)

/** My lane of today, each block of which opens, and what is wrong today. */
export const Today = ({
  organized,
  onOpen,
  onGo,
}: {
  organized: readonly Meeting[]
  onOpen: (entryId: string) => void
  /** Goes to an entry of my own. */
  onGo: (one: OwnSpan['occurrence']) => void
}) => {
  const { zone, person, display } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const today = dayOf(toWall(zone, now))
  const [from, to] = [instantOf(zone, wallOf(today)), instantOf(zone, wallOf(today + 1))]
  const entries = useEntries(from, to)
  const spans = useMemo(
    () =>
      (entries.data?.occurrences ?? []).flatMap(ownSpan).filter((span) => span.end > from && span.start < to),
    [entries.data, from, to],
  )
  const axis = useMemo(() => {
    const minutes = spans
      .filter((span) => span.end - span.start < 16 * HOUR)
      .map((span) => [minuteOf(toWall(zone, span.start)), minuteOf(toWall(zone, span.end))] as const)
    const first = Math.min(display.shownFrom, ...minutes.map(([start]) => Math.floor(start / 60) * 60))
    const last = Math.max(display.shownTo, ...minutes.map(([, end]) => Math.ceil(end / 60) * 60))
    return wallAxis(zone, today, first, last)
  }, [spans, zone, today, display.shownFrom, display.shownTo])
  const lookOf = useCallback(
    (span: BusySpan) => (isMine(span) ? lookOfOwn(span, zone, undefined) : undefined),
    [zone],
  )
  if (!entries.data) return <Loading what="your day" />
  const lane = ownLane(person.zone, entries.data, spans)
  const clashes = clashesIn(spans.filter((span) => span.end > now))
  const missing = organized
    .filter((meeting) => Date.parse(meeting.start) < to && Date.parse(meeting.end) > now)
    .map((meeting) => ({ meeting, missing: tally(meeting.participants).missing }))
    .filter((one) => one.missing.length > 0)
  const day = dayAddress(today)
  const open = (span: BusySpan) => {
    if (!isMine(span)) return
    const { entryId, meeting, reserved } = span.occurrence
    if (meeting || reserved) onOpen(entryId)
    else onGo(span.occurrence)
  }
  return (
    <section aria-label="Today">
      {/* As wide as the rest of the screen, so that its hours are wide enough for words. */}
      <div className="[--label:92px] max-md:[--label:0px]" style={{ '--lane': '56px' }}>
        <Board
          label="Today"
          groups={[
            {
              id: 'today',
              zone,
              axis,
              title: <span className="text-soft text-xs">{offsetInWords(offsetAt(zone, now))}</span>,
              rows: [
                {
                  id: 'today',
                  name: 'Today',
                  short: 'Today',
                  label: <span className="block text-right font-bold max-md:text-left">Today</span>,
                  time: lane,
                  axis,
                  today: true,
                },
              ],
            },
          ]}
          home={zone}
          now={now}
          step={15}
          minutes={30}
          across="row"
          chosen={null}
          days={false}
          onChoose={() => undefined}
          onOpen={open}
          onTake={() => navigate(`/time?day=${day}`)}
          lookOf={lookOf}
        />
      </div>
      {(clashes.length > 0 || missing.length > 0) && (
        <ul aria-label="Wrong today" className="flex flex-wrap gap-x-6 pt-1 pl-[92px] max-md:pl-0">
          {clashes.map((clash) => (
            <Wrong key={clash.start} to={`/time?day=${day}`}>
              {`${clockText(minuteOf(toWall(zone, clash.start)))}: ${clash.words}`}
            </Wrong>
          ))}
          {missing.map(({ meeting, missing: names }) => (
            <Wrong key={meeting.entryId} to={`/now?meeting=${meeting.entryId}`}>
              {`${meeting.title}: ${names.join(', ')} must come, and cannot`}
            </Wrong>
          ))}
        </ul>
      )}
    </section>
  )
}
