import {
  changePoll,
  nudgePoll,
  type OrganizedPoll,
  reopenPoll,
  withdrawPoll,
} from '@marmot/contract/organized-polls'
import { type AskedPoll, markPoll, proposeTime } from '@marmot/contract/polls'
import { textOfNote } from '@marmot/core/entries'
import { leading } from '@marmot/core/polls'
import { lengthInWords, shortTime, spanInWords } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link, useLocation, useNavigate, useParams } from 'react-router'
import { z } from 'zod'
import { call } from '../platform/api.ts'
import { takeAwayCsv } from '../platform/csv.ts'
import { useKeys } from '../platform/keys.tsx'
import { problemCode, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { namesInWords } from '../ui/names.ts'
import { Button, counted, Loading, Trouble } from '../ui/parts.tsx'
import { useNarrow } from '../ui/use-narrow.ts'
import { AroundDay } from './around-day.tsx'
import { AskedWords } from './asked-words.tsx'
import { ByTime } from './by-time.tsx'
import { ChangeSheet } from './change-sheet.tsx'
import { Deciding } from './deciding.tsx'
import { LinkForAll } from './link-for-all.tsx'
import { Legend, MARK_WORDS } from './mark.tsx'
import { Marking } from './marking.tsx'
import { OwnTime } from './own-time.tsx'
import { pollKey, usePoll } from './polls.ts'
import { Result } from './result.tsx'
import { saidBy, standingsOf } from './standing.ts'

/** How it stands, in a sentence: who has answered, and which time is best. */
const HowItStands = ({ poll }: { poll: OrganizedPoll }) => {
  const { zone } = useMe()
  const standings = standingsOf(poll)
  const best = leading(standings)
  const marked = poll.voters.filter((voter) => voter.markedAt !== null).length
  const [first] = best
  const said = marked > 0 && first && first.all.yes + first.all.ifNeedBe > 0
  const time = (id: string | undefined) => {
    const found = poll.times.find((one) => one.id === id)
    return found ? shortTime(Date.parse(found.start), zone) : ''
  }
  return (
    <p role="status">
      <b className="font-semibold">
        {marked} of {poll.voters.length} have answered.
      </b>{' '}
      {!said
        ? ''
        : best.length > 1
          ? `${counted(best.length, 'time stands', 'times stand')} equal: ${namesInWords([
              ...best.slice(0, 3).map((one) => time(one.timeId)),
              ...(best.length > 3 ? [`${best.length - 3} more`] : []),
            ])}.`
          : `Best is ${time(first.timeId)}${first.suits ? ', which suits all who have to be there' : ''}.`}
    </p>
  )
}

/** Who says what to which time, as a table. */
const takePollAway = (poll: OrganizedPoll): void =>
  takeAwayCsv(
    'times.csv',
    ['Who', 'Address', 'Required', 'Words', ...poll.times.map((time) => time.start)],
    poll.voters.map((voter) => {
      const said = saidBy(voter)
      return [
        voter.name,
        voter.address,
        voter.required ? 'required' : 'optional',
        voter.comment,
        ...poll.times.map((time) => {
          const one = said.get(time.id)
          return one?.mark ? `${MARK_WORDS[one.mark]}${one.supposed ? ', by their calendar' : ''}` : ''
        }),
      ]
    }),
  )

/** What became of it, once it is decided or not asked any more; it can be asked again where nothing stands of it. */
const Ended = ({ poll }: { poll: OrganizedPoll }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const { busy, trouble, attempt } = useAttempt()
  const time = poll.times.find((one) => one.id === poll.chosen?.timeId)
  const again = () =>
    attempt(async () => {
      await call(reopenPoll, { params: { pollId: poll.pollId }, body: {} })
      await queries.invalidateQueries()
    })
  return (
    <div className="mx-4 flex flex-col items-start gap-2 rounded-lg border-gentian border-l-4 bg-paper px-4 py-3">
      {poll.state === 'decided' && time ? (
        <p>
          <b className="font-semibold">
            {spanInWords(Date.parse(time.start), Date.parse(time.end), zone, now)}
          </b>{' '}
          was chosen.{' '}
          {poll.chosen?.stands ? (
            <Link className="text-gentian underline" to={`/now?meeting=${poll.chosen.entryId}`}>
              Open the meeting
            </Link>
          ) : (
            'The meeting does not stand any more.'
          )}
        </p>
      ) : (
        <p>You do not ask about these times any more.</p>
      )}
      {!poll.chosen?.stands && (
        <Button disabled={busy} onClick={again}>
          {busy ? 'Asking again…' : 'Ask again'}
        </Button>
      )}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
    </div>
  )
}

/** What can be done with a poll that is asked. */
const useDoings = (poll: OrganizedPoll) => {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const say = useUndo()
  const params = { pollId: poll.pollId }
  const refresh = () => void queries.invalidateQueries()
  return {
    remind: async () => {
      try {
        const { nudged, lately } = await call(nudgePoll, { params, body: {} })
        toast(
          [
            nudged.length ? `Reminded ${nudged.join(', ')}.` : 'Nobody was reminded.',
            lately.length ? `${lately.join(', ')} had a reminder within a day, and gets none now.` : '',
          ]
            .filter(Boolean)
            .join(' '),
        )
      } catch (error) {
        toast.error(problemWords(error))
      }
      refresh()
    },
    withdraw: async () => {
      try {
        await call(withdrawPoll, { params })
        say({
          words: `You do not ask about “${poll.title}” any more.`,
          undo: async () => {
            await call(reopenPoll, { params, body: {} })
            refresh()
            return 'Asked again, as it was.'
          },
        })
        navigate('/now')
      } catch (error) {
        toast.error(problemWords(error))
      }
      refresh()
    },
    drop: async (timeId: string) => {
      try {
        await call(changePoll, { params, body: { version: poll.version, drop: [timeId] } })
      } catch (error) {
        toast.error(problemWords(error))
      }
      refresh()
    },
  }
}

/** A poll for whoever asks: what everybody says, live, and from here one is chosen. */
const Organized = ({ poll }: { poll: OrganizedPoll }) => {
  const { zone } = useMe()
  const { state } = useLocation()
  const door = z.object({ door: z.string() }).safeParse(state).data?.door ?? null
  const [chosen, setChosen] = useState<string | null>(null)
  const [changing, setChanging] = useState(false)
  const standings = useMemo(() => standingsOf(poll), [poll])
  const standing = standings.find((one) => one.timeId === chosen)
  const doings = useDoings(poll)
  const open = poll.state === 'open' || poll.state === 'over'
  const silent = poll.voters.filter((voter) => voter.markedAt === null).length
  const Shown = useNarrow() ? ByTime : Result
  const step = (by: number) => {
    const at = poll.times.findIndex((time) => time.id === chosen)
    const next = poll.times[at < 0 ? 0 : (at + by + poll.times.length) % poll.times.length]
    if (next && open) setChosen(next.id)
  }
  useKeys([
    { keys: 'n', does: 'Look at the next time', on: 'n', run: () => step(1) },
    { keys: 'p', does: 'Look at the time before', on: 'p', run: () => step(-1) },
    {
      keys: 'b',
      does: 'Look at the best time',
      on: 'b',
      run: () => open && setChosen(standings[0]?.timeId ?? null),
    },
    {
      keys: 'r',
      does: 'Remind those who have not answered',
      on: 'r',
      run: () => open && void doings.remind(),
    },
  ])
  return (
    <div className="flex min-h-0 flex-1">
      <div className="flex min-w-0 flex-1 flex-col gap-3 overflow-y-auto pb-4">
        <header className="flex flex-wrap items-start gap-x-4 gap-y-2 px-4 pt-3">
          <div className="min-w-0 flex-1 max-md:basis-full">
            <h1 className="text-balance font-bold text-[20px] leading-tight">{poll.title}</h1>
            <p className="text-soft text-sm">
              {lengthInWords(poll.minutes)},{' '}
              {poll.state === 'over'
                ? `answers were due ${shortTime(Date.parse(poll.closes), zone)}`
                : `answers until ${shortTime(Date.parse(poll.closes), zone)}`}
              {poll.holds && open ? ', times kept free until it is decided' : ''}
            </p>
            {textOfNote(poll.note) && (
              <p className="max-w-prose truncate text-soft text-sm">{textOfNote(poll.note)}</p>
            )}
          </div>
          {open && (
            <div className="flex flex-wrap gap-2 max-md:*:min-h-thumb max-md:*:flex-1">
              <Button
                disabled={silent === 0}
                onClick={doings.remind}
                title="Remind those who have not answered (r)"
              >
                {silent === 0 ? 'All have answered' : `Remind ${silent}`}
              </Button>
              <Button onClick={() => setChanging(true)}>Change…</Button>
              <Button onClick={doings.withdraw}>Ask no more</Button>
              <Button
                tone="primary"
                className="max-md:order-first max-md:w-full max-md:flex-none!"
                onClick={() => setChosen(standings[0]?.timeId ?? null)}
                title="Look at the best time (b)"
              >
                Choose a time…
              </Button>
            </div>
          )}
        </header>
        {open ? (
          <div className="px-4">
            <HowItStands poll={poll} />
            {poll.needed !== null && (
              <p className="text-soft text-sm">{poll.needed} have to be able to come.</p>
            )}
          </div>
        ) : (
          <Ended poll={poll} />
        )}
        {poll.door === 'anyone' && open && <LinkForAll poll={poll} door={door} />}
        {poll.voters.length === 0 ? (
          <p className="px-4 text-soft">Nobody has answered yet.</p>
        ) : (
          <div className="shrink-0 md:overflow-x-auto">
            <Shown
              poll={poll}
              standings={standings}
              chosen={chosen}
              zone={zone}
              onChoose={(id) => open && setChosen(id)}
            />
          </div>
        )}
        <Legend />
        {poll.voters.length > 0 && (
          <Button className="mx-4 self-start max-md:min-h-thumb" onClick={() => takePollAway(poll)}>
            Export as CSV
          </Button>
        )}
      </div>
      {changing && <ChangeSheet poll={poll} onClose={() => setChanging(false)} />}
      {!changing && standing && open && (
        <Deciding
          key={standing.timeId}
          poll={poll}
          standing={standing}
          onClose={() => setChosen(null)}
          onDrop={
            poll.times.length > 2
              ? () => {
                  setChosen(null)
                  void doings.drop(standing.timeId)
                }
              : undefined
          }
        />
      )}
    </div>
  )
}

/** A poll for a colleague who is asked: the times, each in their own day. */
const Asked = ({ poll }: { poll: AskedPoll }) => {
  const { zone, clock } = useMe()
  const queries = useQueryClient()
  const keyOf = useKeyOf()
  const params = { pollId: poll.pollId }
  const first = poll.times[0]
  const length = first ? Date.parse(first.end) - Date.parse(first.start) : 0
  const refresh = () => queries.invalidateQueries({ queryKey: pollKey(poll.pollId) })
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4 max-md:p-3">
        <AskedWords poll={poll} zone={zone}>
          <Marking
            poll={poll}
            zone={zone}
            around={(day, times) => <AroundDay day={day} times={times} />}
            onSend={async (said) => {
              await call(markPoll, { params, body: said })
              await refresh()
              void queries.invalidateQueries({ queryKey: ['now'] })
            }}
          >
            {poll.proposals && (
              <OwnTime
                key={poll.times.length}
                length={length}
                zone={zone}
                now={clock()}
                words="Propose another time"
                hint="Everybody who is asked will see it."
                add={async (start) => {
                  const body = { start: new Date(start).toISOString() }
                  await call(proposeTime, { params, body, key: keyOf(body) })
                  await refresh()
                }}
              />
            )}
          </Marking>
        </AskedWords>
        {poll.chosen?.entryId && (
          <Link className="self-start text-gentian underline" to={`/now?meeting=${poll.chosen.entryId}`}>
            Open the meeting
          </Link>
        )}
      </div>
    </div>
  )
}

/** Several are asked which of some times suit them: as whoever asks sees it, or as one who is asked does. */
export const PollPage = () => {
  const { pollId = '' } = useParams()
  const poll = usePoll(pollId)
  if (poll.isPending)
    return (
      <div className="p-6">
        <Loading what="the times" />
      </div>
    )
  if (poll.isError)
    return (
      <div className="mx-auto flex max-w-lg flex-col gap-3 p-6">
        <Trouble
          action={
            problemCode(poll.error) === 'offline' ? (
              <Button onClick={() => poll.refetch()}>Try again</Button>
            ) : undefined
          }
        >
          {problemWords(poll.error)}
        </Trouble>
      </div>
    )
  const { organized, asked } = poll.data
  return organized ? <Organized poll={organized} /> : asked ? <Asked poll={asked} /> : null
}
