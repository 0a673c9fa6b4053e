import type { OrganizedPoll } from '@marmot/contract/organized-polls'
import { countInWords, type Mark, type Standing } from '@marmot/core/polls'
import { clocksInWords, dayOf, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import { MARK_WORDS, MarkGlyph } from './mark.tsx'
import { saidBy } from './standing.ts'

const ORDER: readonly (Mark | null)[] = ['yes', 'if-need-be', 'no', null]

/** Who says what to one time, by name. */
export const WhoSays = ({ poll, timeId }: { poll: OrganizedPoll; timeId: string }) => (
  <ul className="flex flex-col gap-1 text-sm">
    {ORDER.map((mark) => {
      const names = poll.voters
        .filter((voter) => (saidBy(voter).get(timeId)?.mark ?? null) === mark)
        .map((voter) => {
          const supposed = saidBy(voter).get(timeId)?.supposed
          return `${voter.name}${supposed ? ' (by their calendar)' : ''}${voter.required ? '' : ', optional'}`
        })
      if (names.length === 0) return null
      return (
        <li key={mark ?? 'open'} className="flex gap-2">
          <span className="flex w-[96px] shrink-0 items-center gap-1.5 self-start text-soft">
            <MarkGlyph mark={mark} /> {mark ? MARK_WORDS[mark] : 'not yet'}
          </span>
          <span>{names.join('; ')}</span>
        </li>
      )
    })}
  </ul>
)

/** The times of a poll on a narrow screen, best first: how many can come, and who, on request. */
export const ByTime = ({
  poll,
  standings,
  zone,
  chosen,
  onChoose,
}: {
  poll: OrganizedPoll
  standings: readonly Standing[]
  zone: ZoneTable
  chosen: string | null
  onChoose: (timeId: string) => void
}) => (
  <ul className="flex flex-col gap-2 px-3">
    {standings.map((standing) => {
      const time = poll.times.find((one) => one.id === standing.timeId)
      if (!time) return null
      const [start, end] = [Date.parse(time.start), Date.parse(time.end)]
      const { all } = standing
      return (
        <li key={time.id}>
          <button
            type="button"
            aria-pressed={chosen === time.id}
            onClick={() => onChoose(time.id)}
            className={`flex w-full flex-col gap-1 rounded-lg border-2 bg-paper px-3 py-2 text-left ${chosen === time.id ? 'border-gentian' : standing.suits ? 'border-sun' : 'border-transparent'}`}
          >
            <span className="flex w-full items-baseline justify-between gap-2">
              <b className="font-semibold">
                {shortDay(dayOf(toWall(zone, start)))}, {clocksInWords(start, end, zone)}
              </b>
              <span className="whitespace-nowrap text-sm">
                {all.yes + all.ifNeedBe} of {poll.voters.length}
              </span>
            </span>
            <span className="text-soft text-sm">
              {standing.rank === 1 && all.yes + all.ifNeedBe > 0 ? 'best: ' : ''}
              {countInWords(all)}
            </span>
          </button>
        </li>
      )
    })}
  </ul>
)
