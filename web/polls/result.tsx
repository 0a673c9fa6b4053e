import type { OrganizedPoll, PollVoter } from '@marmot/contract/organized-polls'
import { countInWords, leading, type Standing } from '@marmot/core/polls'
import {
  clocksInWords,
  clockText,
  dayOf,
  minuteOf,
  shortDay,
  toWall,
  type ZoneTable,
} from '@marmot/core/time'
import { MessageSquareText } from 'lucide-react'
import { memo, useEffect, useMemo, useState } from 'react'
import { MARK_WORDS, MarkGlyph } from './mark.tsx'
import { saidBy } from './standing.ts'

type Time = OrganizedPoll['times'][number]

/** More that stand equal are no news. */
const MOST_EQUAL = 3
const NAME_PX = 248
/** So many lanes are drawn in a frame, those at the top first: all of many at once would hold the page up. */
const A_FRAME = 6
/** No slice is narrower or wider than that, however many or few there are. */
const LEAST_PX = 72
const MOST_PX = 112

interface Column {
  readonly time: Time
  readonly standing: Standing
  readonly lit: boolean
  readonly chosen: boolean
}

const columnProps = ({ lit, chosen }: Column) => ({
  ...(lit ? { 'data-light': true } : {}),
  ...(chosen ? { 'data-chosen': true } : {}),
})

/** A lane of the result: what one who is asked says to each time. */
const VoterLane = memo(({ voter, columns }: { voter: PollVoter; columns: readonly Column[] }) => {
  const said = saidBy(voter)
  const state =
    voter.markedAt !== null
      ? ''
      : voter.mail === 'failed'
        ? 'the letter did not arrive'
        : voter.seenAt
          ? 'has looked'
          : 'not yet'
  return (
    <tr>
      <th scope="row" className="said-name">
        <span className="flex min-w-0 flex-1 items-baseline gap-1.5 whitespace-nowrap">
          <span className="min-w-0 truncate" title={`${voter.name}, ${voter.address}`}>
            {voter.name}
          </span>
          {!voter.required && <span className="text-soft text-sm">optional</span>}
          {voter.comment && (
            <span className="self-center text-soft" title={voter.comment}>
              <MessageSquareText size={13} aria-hidden />
              <span className="sr-only">says: {voter.comment}</span>
            </span>
          )}
          {!voter.proved && <span className="text-soft text-sm">by the link</span>}
          {state && (
            <span className={`ml-auto text-[12.5px] ${voter.mail === 'failed' ? 'text-coral' : 'text-soft'}`}>
              {voter.mail === 'failed' && '⚠ '}
              {state}
            </span>
          )}
        </span>
      </th>
      {columns.map((column) => {
        const one = said.get(column.time.id)
        const words = one?.mark
          ? `${MARK_WORDS[one.mark]}${one.supposed ? ', by their calendar' : ''}`
          : 'not yet'
        return (
          <td
            key={column.time.id}
            className="said-cell"
            title={`${voter.name}: ${words}`}
            {...columnProps(column)}
          >
            <MarkGlyph mark={one?.mark ?? null} supposed={one?.supposed ?? false} words={words} />
          </td>
        )
      })}
    </tr>
  )
})

/** How many of `count` are drawn yet: more with each frame, until all are. */
const useGrowing = (count: number): number => {
  const [drawn, setDrawn] = useState(A_FRAME)
  useEffect(() => {
    if (drawn >= count) return
    const frame = requestAnimationFrame(() => setDrawn(drawn + A_FRAME))
    return () => cancelAnimationFrame(frame)
  }, [drawn, count])
  return Math.min(drawn, count)
}

const Lanes = memo(({ voters, columns }: { voters: readonly PollVoter[]; columns: readonly Column[] }) => {
  const drawn = useGrowing(voters.length)
  return (
    <tbody>
      {voters.slice(0, drawn).map((voter) => (
        <VoterLane key={voter.id} voter={voter} columns={columns} />
      ))}
    </tbody>
  )
})

/**
 * What everybody says, a lane for each, a slice for each time. Times that suit lie in the light; the one that is looked at has a frame.
 */
export const Result = ({
  poll,
  standings,
  chosen,
  zone,
  onChoose,
}: {
  poll: OrganizedPoll
  standings: readonly Standing[]
  chosen: string | null
  zone: ZoneTable
  onChoose: (timeId: string) => void
}) => {
  const columns = useMemo(
    () =>
      poll.times.flatMap((time): Column[] => {
        const standing = standings.find((one) => one.timeId === time.id)
        return standing ? [{ time, standing, lit: standing.suits, chosen: chosen === time.id }] : []
      }),
    [poll.times, standings, chosen],
  )
  const best = leading(standings)
  const answered = poll.voters.some((voter) => voter.markedAt !== null)
  return (
    <table
      className="said"
      style={{
        width: `clamp(${NAME_PX + columns.length * LEAST_PX}px, 100%, ${NAME_PX + columns.length * MOST_PX}px)`,
      }}
    >
      <caption className="sr-only">What everybody says to each time</caption>
      <thead>
        <tr>
          <td className="said-name" />
          {columns.map((column) => {
            const { time, standing } = column
            const wall = toWall(zone, Date.parse(time.start))
            const [weekday, ...date] = shortDay(dayOf(wall)).split(' ')
            const isBest = answered && best.length <= MOST_EQUAL && standing.rank === 1
            return (
              <th key={time.id} scope="col" {...columnProps(column)}>
                <button
                  type="button"
                  aria-pressed={column.chosen}
                  title={`${shortDay(dayOf(wall))}, ${clocksInWords(Date.parse(time.start), Date.parse(time.end), zone)}: ${countInWords(standing.all)}`}
                  onClick={() => onChoose(time.id)}
                  className="flex w-full flex-col items-center px-1 pt-1 pb-1.5 leading-tight hover:bg-shade"
                >
                  <span className={`h-[18px] text-[12px] ${isBest ? 'font-semibold' : 'text-soft'}`}>
                    {isBest ? (best.length > 1 ? 'equal best' : 'best') : standing.suits ? 'suits' : ''}
                  </span>
                  <span className="text-[12.5px] text-soft">{weekday}</span>
                  <span className="whitespace-nowrap">{date.join(' ')}</span>
                  <b className="font-semibold">{clockText(minuteOf(wall))}</b>
                </button>
              </th>
            )
          })}
        </tr>
      </thead>
      <Lanes voters={poll.voters} columns={columns} />
      <tfoot>
        <tr>
          <th scope="row" className="said-name pt-1 text-soft text-sm">
            Can come
          </th>
          {columns.map((column) => {
            const { all } = column.standing
            return (
              <td
                key={column.time.id}
                className="pt-1 text-center text-sm"
                title={countInWords(all)}
                {...columnProps(column)}
              >
                <b className="font-semibold">{all.yes + all.ifNeedBe}</b>
                <span className="text-soft"> of {poll.voters.length}</span>
              </td>
            )
          })}
        </tr>
      </tfoot>
    </table>
  )
}
