import type { AskedPoll } from '@marmot/contract/polls'
import { MARKS, type Mark } from '@marmot/core/polls'
import {
  clocksInWords,
  clocksThere,
  dayInWords,
  dayOf,
  offsetAt,
  shortTime,
  toWall,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { type ReactNode, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, counted, Field, Trouble } from '../ui/parts.tsx'
import { MARK_WORDS, MarkGlyph } from './mark.tsx'

type Time = AskedPoll['times'][number]

/** What somebody says, as it is sent. */
export interface Said {
  readonly marks: { timeId: string; mark: Mark }[]
  readonly comment: string
}

/** What others said to a time, where that is to be seen. */
const Others = ({ poll, time }: { poll: AskedPoll; time: Time }) => {
  if (!poll.results) return null
  const mine = poll.me?.marks.find((one) => one.timeId === time.id)?.mark
  const said: readonly (readonly [Mark, number])[] = [
    ['yes', time.yes],
    ['if-need-be', time.ifNeedBe],
    ['no', time.no],
  ]
  const others = said
    .map(([mark, n]) => [mark, n - (mine === mark ? 1 : 0)] as const)
    .filter(([, n]) => n > 0)
  if (others.length === 0) return null
  const names = (mark: Mark) =>
    poll.others
      .filter((one) => one.marks.some((each) => each.timeId === time.id && each.mark === mark))
      .map((one) => one.name)
      .join(', ')
  return (
    <p className="text-[12.5px] text-soft">
      Others:{' '}
      {others
        .map(([mark, n]) => `${n} ${MARK_WORDS[mark]}${names(mark) ? ` (${names(mark)})` : ''}`)
        .join(', ')}
    </p>
  )
}

/** Yes, if need be, no for one time: big enough for a thumb. */
const Choosing = ({
  time,
  words,
  mark,
  oneMark,
  onMark,
}: {
  time: Time
  words: string
  mark: Mark | undefined
  oneMark: boolean
  onMark: (mark: Mark) => void
}) => (
  <fieldset className={`grid gap-1.5 ${oneMark ? 'grid-cols-2' : 'grid-cols-3'} md:w-[330px] md:shrink-0`}>
    <legend className="sr-only">{words}</legend>
    {MARKS.filter((each) => !oneMark || each !== 'if-need-be').map((each) => (
      <label
        key={each}
        className={`flex min-h-12 cursor-pointer items-center justify-center gap-2 rounded-md border px-1.5 has-focus-visible:outline-2 has-focus-visible:outline-gentian has-focus-visible:outline-offset-2 md:min-h-10 ${mark === each ? 'border-gentian bg-gentian/12 font-semibold ring-1 ring-gentian' : 'border-soft/50 bg-paper hover:bg-shade'}`}
      >
        <input
          type="radio"
          className="sr-only"
          name={`time-${time.id}`}
          checked={mark === each}
          onChange={() => onMark(each)}
        />
        <MarkGlyph mark={each} />
        {MARK_WORDS[each]}
      </label>
    ))}
  </fieldset>
)

/** What the page that asks brings along. */
interface Asking {
  readonly poll: AskedPoll
  /** In which the times are said. */
  readonly zone: ZoneTable
  readonly onSend: (said: Said) => Promise<unknown>
  /** One's own day around the times of it, where one has an account. */
  readonly around?: (day: number, times: readonly Time[]) => ReactNode
  /** What is asked beside the times, above the button. */
  readonly children?: ReactNode
  /** Why it cannot be sent yet; empty where it can. */
  readonly missing?: string
}

const initial = (poll: AskedPoll): ReadonlyMap<string, Mark> => {
  const { me } = poll
  if (!me) return new Map()
  const from = me.answered ? me.marks : poll.oneMark ? [] : me.suggested
  return new Map(from.map((one) => [one.timeId, one.mark]))
}

/**
 * The times of a poll, to be marked one by one and sent together. What is sent can be changed for as long as it counts; what is
 * not sent yet stays as it is while others mark.
 */
export const Marking = ({ poll, zone, onSend, around, children, missing = '' }: Asking) => {
  const [marks, setMarks] = useState(() => initial(poll))
  const [comment, setComment] = useState(poll.me?.comment ?? '')
  const [sent, setSent] = useState(false)
  const { busy, trouble, attempt } = useAttempt()
  const { me, times, oneMark } = poll
  const today = dayOf(toWall(zone, Date.parse(poll.now)))
  const theirs = zoneTable(poll.zone)
  const put = (timeId: string, mark: Mark) => {
    setSent(false)
    setMarks((before) => {
      const next = new Map(before).set(timeId, mark)
      if (oneMark && mark === 'yes') for (const time of times) if (time.id !== timeId) next.set(time.id, 'no')
      return next
    })
  }
  const marked = times.filter((time) => marks.has(time.id)).length
  const left = times.length - marked
  const send = async () => {
    const said = times.flatMap((time) => {
      const mark = marks.get(time.id)
      return mark ? [{ timeId: time.id, mark }] : []
    })
    if (await attempt(() => onSend({ marks: said, comment }))) setSent(true)
  }
  const days = [...new Set(times.map((time) => dayOf(toWall(zone, Date.parse(time.start)))))]
  const until = shortTime(Date.parse(poll.closes), zone)
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        void send()
      }}
    >
      {me && !me.answered && me.suggested.length > 0 && !oneMark && (
        <p className="text-soft">Filled in from your calendar. Change what is not right, then send it.</p>
      )}
      {oneMark && <p className="text-soft">Choose the one time that suits you best.</p>}
      {days.map((day) => {
        const here = times.filter((time) => dayOf(toWall(zone, Date.parse(time.start))) === day)
        return (
          <section key={day} aria-label={dayInWords(day, today)} className="flex flex-col gap-1.5">
            <h2 className="font-semibold text-[17px]">{dayInWords(day, today)}</h2>
            {around?.(day, here)}
            {here.map((time) => {
              const [start, end] = [Date.parse(time.start), Date.parse(time.end)]
              const clocks = clocksInWords(start, end, zone)
              const elsewhere = offsetAt(zone, start) !== offsetAt(theirs, start)
              return (
                <div
                  key={time.id}
                  className="flex gap-x-4 gap-y-2 rounded-lg bg-paper px-3 py-2.5 max-md:flex-col md:items-center"
                >
                  <div className="min-w-0 flex-1">
                    <p className="font-semibold text-[16px]">
                      {clocks}
                      {time.proposedBy && (
                        <span className="ml-2 font-normal text-soft text-sm">
                          proposed by {time.proposedBy}
                        </span>
                      )}
                    </p>
                    {elsewhere && (
                      <p className="text-[12.5px] text-soft">
                        For {poll.organizer}: {clocksThere(start, end, theirs, zone)}
                      </p>
                    )}
                    <Others poll={poll} time={time} />
                  </div>
                  <Choosing
                    time={time}
                    words={`${dayInWords(day, today)}, ${clocks}`}
                    mark={marks.get(time.id)}
                    oneMark={oneMark}
                    onMark={(mark) => put(time.id, mark)}
                  />
                </div>
              )
            })}
          </section>
        )
      })}
      {marked > 0 && left > 0 && (
        <Button
          className="self-start max-md:min-h-thumb"
          onClick={() => {
            for (const time of times) if (!marks.has(time.id)) put(time.id, 'no')
          }}
        >
          {left === 1 ? 'The other one does not suit me' : `The other ${left} do not suit me`}
        </Button>
      )}
      <Field label={`Words to ${poll.organizer} (optional)`}>
        {(props) => (
          <textarea
            {...props}
            rows={2}
            maxLength={1000}
            value={comment}
            onChange={(event) => {
              setSent(false)
              setComment(event.target.value)
            }}
          />
        )}
      </Field>
      {children}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      <div className="sticky bottom-0 z-10 -mx-3 flex flex-wrap items-center gap-x-4 gap-y-1.5 border-line border-t bg-ground px-3 py-2.5">
        <p role="status" className="min-w-0 flex-1 text-sm">
          {sent || (me?.answered && marked === 0)
            ? `Thank you. You can change it until ${until}.`
            : marked === 0
              ? `Nothing is marked yet. Answer by ${until}.`
              : left > 0
                ? `${marked} of ${counted(times.length, 'time', 'times')} marked.`
                : `All ${times.length} marked.`}
          {!sent && missing && marked > 0 && <span className="text-soft"> {missing}</span>}
        </p>
        <Button
          type="submit"
          tone={sent ? 'plain' : 'primary'}
          className="min-h-thumb px-5"
          disabled={busy || marked === 0 || missing !== '' || sent}
        >
          {busy ? 'Sending…' : sent ? 'Sent' : me?.answered ? 'Send what I changed' : 'Send my answer'}
        </Button>
      </div>
    </form>
  )
}
