import type { OccurrenceOnWire } from '@marmot/contract/entries'
import type { Meeting } from '@marmot/contract/meetings'
import { meetingEvent } from '@marmot/contract/meetings'
import { reservationsEvent } from '@marmot/contract/resources'
import { todosEvent } from '@marmot/contract/todo'
import { textOfNote } from '@marmot/core/entries'
import { tally, tallyInWords } from '@marmot/core/invitations'
import { clocksInWords, dayInWords, dayOf, shortTime, spanInWords, toWall } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type ReactNode, Suspense, useDeferredValue, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { MyAnswer } from '../answers/my-answer.tsx'
import { SeriesWords } from '../answers/series-words.tsx'
import { useWaiting } from '../answers/waiting.ts'
import { DayAround } from '../meetings/day-around.tsx'
import { useKeys } from '../platform/keys.tsx'
import { heed, ON_MY_TIME } from '../platform/live.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { dayAddress } from '../search/day-address.ts'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { WhenSeen } from '../ui/when-seen.tsx'
import { nowQuery } from './now-query.ts'
import { Today } from './today.tsx'

/** A to-do and what is to be known of it, in pixels. */
const TODO_LINE = 49
/** A low lane with its hours and its sentence. */
const SMALL_LANE = 74

const Section = ({ title, count, children }: { title: string; count?: number; children: ReactNode }) => (
  <section aria-label={title}>
    <h2 className="mb-1.5 font-semibold text-[17px]">
      {title}{' '}
      {count ? (
        <span className="ml-1 rounded-full bg-gentian px-2 text-gentian-ink text-sm">{count}</span>
      ) : null}
    </h2>
    {children}
  </section>
)

const useOpen = () => {
  const [, setSearch] = useSearchParams()
  return (entryId: string) => setSearch({ meeting: entryId })
}

/** Opens an entry of my own among its day. */
const useGoToEntry = () => {
  const { zone } = useMe()
  const navigate = useNavigate()
  return (one: Pick<OccurrenceOnWire, 'entryId' | 'recurrence' | 'start' | 'end'>) =>
    navigate(
      `/time?${new URLSearchParams({
        day: dayAddress(dayOf(toWall(zone, Date.parse(one.start)))),
        entry: one.entryId,
        date: one.recurrence,
        from: one.start,
        until: one.end,
      })}`,
    )
}

const ToAnswer = ({ meeting, open, onOpen }: { meeting: Meeting; open: boolean; onOpen: () => void }) => {
  const { zone, person } = useMe()
  const now = useNow()
  const show = useOpen()
  const start = Date.parse(meeting.start)
  const end = Date.parse(meeting.end)
  const mine = meeting.participants.find((one) => one.personId === person.id)
  return (
    <li className="rounded-lg bg-paper px-4 py-2.5">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <button
          type="button"
          aria-expanded={open}
          onClick={onOpen}
          className="text-left font-semibold text-[16px] hover:underline"
        >
          {meeting.title}
        </button>
        <span className="text-soft">
          from {meeting.organizer}
          {mine && !mine.required ? ', optional for you' : ''}
          {meeting.place ? `, ${meeting.place}` : ''}
        </span>
        <button
          type="button"
          className="ml-auto rounded px-1 text-gentian text-sm underline underline-offset-2"
          onClick={() => show(meeting.entryId)}
        >
          Who else
        </button>
      </div>
      <p className={meeting.repeats ? '' : 'mb-1.5'}>{spanInWords(start, end, zone, now)}</p>
      {meeting.repeats && (
        <div className="mb-1.5">
          <SeriesWords series={meeting.series} />
        </div>
      )}
      {open ? (
        <div className="flex flex-col gap-2">
          {meeting.note && <p className="whitespace-pre-wrap text-soft">{textOfNote(meeting.note)}</p>}
          {meeting.repeats && (
            <Suspense>
              <SeriesClashes entryId={meeting.entryId} />
            </Suspense>
          )}
          <DayAround entryId={meeting.entryId} start={start} end={end} />
          <MyAnswer meeting={meeting} />
        </div>
      ) : (
        <div className="grid grid-cols-[1fr_auto] items-end gap-3">
          <WhenSeen height={SMALL_LANE}>
            <DayAround small entryId={meeting.entryId} start={start} end={end} />
          </WhenSeen>
          <Button onClick={onOpen}>Answer…</Button>
        </div>
      )}
    </li>
  )
}

const Organized = ({ meeting }: { meeting: Meeting }) => {
  const { zone } = useMe()
  const open = useOpen()
  const sum = tally(meeting.participants)
  const waiting = meeting.participants
    .filter((one) => !one.organizer && one.answer === 'needs-action')
    .map((one) => one.name)
  return (
    <li className="border-line border-t first:border-t-0">
      <button
        type="button"
        onClick={() => open(meeting.entryId)}
        className="grid w-full grid-cols-[1fr_auto] gap-x-3 px-4 py-2 text-left hover:bg-shade/60"
      >
        <b className="min-w-0 truncate font-semibold">{meeting.title}</b>
        <span className="whitespace-nowrap">
          {meeting.repeats && <span className="text-soft">repeats, next </span>}
          {shortTime(Date.parse(meeting.start), zone)}
        </span>
        <span className="col-span-2 flex gap-x-3 text-soft text-sm">
          <span className="min-w-0 flex-1 truncate" title={waiting.join(', ')}>
            {meeting.rsvp ? tallyInWords(sum) : 'no answers are asked for'}
            {meeting.rsvp && waiting.length > 0 && `: ${waiting.join(', ')}`}
          </span>
          <span className="max-w-[45%] truncate">{meeting.place}</span>
        </span>
        {sum.missing.length > 0 && (
          <span className="col-span-2 font-semibold text-coral text-sm">
            ⚠ Must come, and cannot: {sum.missing.join(', ')}
          </span>
        )}
      </button>
    </li>
  )
}

const ProposalCard = part(() => import('../proposals/proposal-card.tsx').then((m) => m.ProposalCard))
const RequestCard = part(() => import('../reservations/request-card.tsx').then((m) => m.RequestCard))
const Lately = part(() => import('./lately.tsx').then((m) => m.Lately), { quiet: true })
const Unsent = part(() => import('../answers/unsent.tsx').then((m) => m.Unsent))
const SeriesClashes = part(() => import('../answers/series-clashes.tsx').then((m) => m.SeriesClashes))
const PollLines = part(() => import('./poll-lines.tsx').then((m) => m.PollLines))
const TodosNow = part(() => import('../todos/todos-now.tsx').then((m) => m.TodosNow))
const Rooms = part(() => import('./rooms.tsx').then((m) => m.Rooms))
const MeetRightAway = part(() => import('../conferences/right-away.tsx').then((m) => m.MeetRightAway))

/** Of each list so many are drawn at first, as many as are seen without scrolling; the others right after. */
const AT_FIRST = 4

const useSoonWhole = () => {
  const whole = useDeferredValue(true, false)
  return <T,>(list: readonly T[]): readonly T[] => (whole ? list : list.slice(0, AT_FIRST))
}

/** What needs me: invitations to answer with my day around them, my meetings and their answers, what is next. */
export const Now = () => {
  const { zone, person, session } = useMe()
  const [meeting, setMeeting] = useState(false)
  const now = useNow()
  const show = useOpen()
  const go = useGoToEntry()
  const queries = useQueryClient()
  const state = useQuery({
    ...nowQuery,
    meta: {
      heeds: [
        ...ON_MY_TIME,
        heed(meetingEvent),
        heed(todosEvent),
        // What is asked of a place of mine may have been given back.
        heed(
          reservationsEvent,
          ({ resources }) =>
            queries
              .getQueryData(nowQuery.queryKey)
              ?.requests.some((one) => resources.includes(one.resourceId)) === true,
        ),
      ],
    },
  })
  const [opened, setOpened] = useState<string | null>(null)
  const waiting = useWaiting()
  const soonWhole = useSoonWhole()
  useKeys([
    { keys: 'Tab', does: 'Go through what waits for you; Enter opens it' },
    ...(session.conferences
      ? [{ keys: 'M', does: 'Meet right away', on: 'm', run: () => setMeeting(true) }]
      : []),
  ])
  if (state.isPending)
    return (
      <div className="p-6">
        <Loading what="what needs you" />
      </div>
    )
  if (state.isError)
    return (
      <div className="p-6">
        <Trouble action={<Button onClick={() => state.refetch()}>Try again</Button>}>
          {problemWords(state.error)}
        </Trouble>
      </div>
    )
  const { toAnswer, organized, proposals, requests, exchanges, polls, next, todos, notices } = state.data
  const asked = polls.filter((poll) => !poll.mine)
  const asking = polls.filter((poll) => poll.mine)
  const open = toAnswer.some((meeting) => meeting.entryId === opened)
    ? opened
    : (toAnswer[0]?.entryId ?? null)
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <div className="mx-auto grid max-w-[1180px] gap-x-8 gap-y-6 p-5 max-md:p-3 lg:grid-cols-[1.45fr_1fr]">
        <h1 className="font-bold text-2xl lg:col-span-2">
          {dayInWords(dayOf(toWall(zone, now)), dayOf(toWall(zone, now)))}
          <span className="ml-3 font-normal text-base text-soft">
            Good to see you, {person.name.split(' ')[0]}.
          </span>
        </h1>
        <div className="min-w-0 lg:col-span-2">
          <Today organized={organized} onOpen={show} onGo={go} />
        </div>
        <div className="flex min-w-0 flex-col gap-6">
          {requests.length > 0 && (
            <Section title="Requests for what you look after" count={requests.length}>
              <Suspense fallback={<Loading what="what is asked for" />}>
                <ul className="flex flex-col gap-2">
                  {requests.map((request) => (
                    <RequestCard key={`${request.entryId} ${request.resourceId}`} request={request} />
                  ))}
                </ul>
              </Suspense>
            </Section>
          )}
          {exchanges.length > 0 && (
            <Section
              title={exchanges.some((one) => !one.mine) ? 'You are asked to make room' : 'Room you asked for'}
              count={exchanges.filter((one) => !one.mine).length}
            >
              <Suspense fallback={<Loading what="who asks for room" />}>
                <Rooms exchanges={exchanges} />
              </Suspense>
            </Section>
          )}
          {proposals.length > 0 && (
            <Section title="Another time proposed" count={proposals.length}>
              <Suspense fallback={<Loading what="what was proposed" />}>
                <ul className="flex flex-col gap-2">
                  {proposals.map(({ proposal, meeting }) => (
                    <ProposalCard key={proposal.id} meeting={meeting} proposal={proposal} named />
                  ))}
                </ul>
              </Suspense>
            </Section>
          )}
          {asked.length > 0 && (
            <Section title="Which times suit you?" count={asked.length}>
              <Suspense fallback={<Loading what="the times" />}>
                <PollLines polls={asked} />
              </Suspense>
            </Section>
          )}
          <Section title="Waiting for your answer" count={toAnswer.length}>
            {waiting.length > 0 && (
              <Suspense fallback={<Loading what="your answers" />}>
                <div className="mb-2">
                  <Unsent waiting={waiting} onOpen={show} />
                </div>
              </Suspense>
            )}
            {toAnswer.length ? (
              <ul className="flex flex-col gap-2">
                {soonWhole(toAnswer).map((meeting) => (
                  <ToAnswer
                    key={meeting.entryId}
                    meeting={meeting}
                    open={meeting.entryId === open}
                    onOpen={() => setOpened(meeting.entryId)}
                  />
                ))}
              </ul>
            ) : (
              <Empty>No invitation waits for you.</Empty>
            )}
          </Section>
        </div>
        <div className="flex min-w-0 flex-col gap-6">
          {session.conferences && (
            <Button className="self-start max-md:min-h-thumb" onClick={() => setMeeting(true)}>
              Meet right away…
            </Button>
          )}
          {meeting && (
            <Suspense>
              <MeetRightAway onClose={() => setMeeting(false)} />
            </Suspense>
          )}
          <Section title="Next">
            {next.length ? (
              <ul className="rounded-lg bg-paper py-1">
                {next.map((one) => {
                  const start = Date.parse(one.start)
                  const running = start <= now
                  const row = (
                    <>
                      <span
                        className={`w-[92px] shrink-0 whitespace-nowrap ${running ? 'font-semibold' : 'text-soft'}`}
                      >
                        {running
                          ? 'now'
                          : dayOf(toWall(zone, start)) === dayOf(toWall(zone, now))
                            ? clocksInWords(start, start, zone).slice(0, 5)
                            : shortTime(start, zone).replace(/ \w+ (?=\d\d:)/, ' ')}
                      </span>
                      <span className="min-w-0 truncate">
                        {one.title || '(no title)'}{' '}
                        {one.place && <span className="text-soft">{one.place}</span>}
                      </span>
                    </>
                  )
                  return (
                    <li key={`${one.entryId}${one.start}`}>
                      <button
                        type="button"
                        onClick={() => (one.meeting || one.reserved ? show(one.entryId) : go(one))}
                        className="flex w-full gap-2 px-4 py-1 text-left hover:bg-shade/60 max-md:min-h-thumb max-md:items-center"
                      >
                        {row}
                      </button>
                    </li>
                  )
                })}
              </ul>
            ) : (
              <Empty>Nothing in the next three days.</Empty>
            )}
          </Section>
          <Section title="To do">
            <Suspense fallback={<div style={{ height: 48 + Math.max(1, todos.length) * TODO_LINE }} />}>
              <TodosNow todos={todos} />
            </Suspense>
          </Section>
          {asking.length > 0 && (
            <Section title="Times you ask about">
              <Suspense fallback={<Loading what="the times" />}>
                <PollLines polls={asking} />
              </Suspense>
            </Section>
          )}
          <Section title="Your meetings">
            {organized.length ? (
              <ul className="overflow-hidden rounded-lg bg-paper">
                {soonWhole(organized).map((meeting) => (
                  <Organized key={meeting.entryId} meeting={meeting} />
                ))}
              </ul>
            ) : (
              <Empty>
                You have not invited anybody.{' '}
                <Link className="text-gentian underline" to="/arrange">
                  Arrange a meeting
                </Link>
              </Empty>
            )}
          </Section>
          {notices.length > 0 && (
            <Section title="Lately">
              <Suspense fallback={<Loading what="what was said" />}>
                <Lately notices={notices} onOpen={show} />
              </Suspense>
            </Section>
          )}
        </div>
      </div>
    </div>
  )
}
