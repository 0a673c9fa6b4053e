import { type ListedInvitation, listInvitations, meetingEvent } from '@marmot/contract/meetings'
import { clockText, dayOf, minuteOf, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { ANSWER_WORDS } from './said.ts'

const useInvitations = () =>
  useQuery({
    queryKey: ['meeting', 'invitations'],
    queryFn: ({ signal }) => call(listInvitations, { signal }),
    meta: { heeds: [heed(meetingEvent), ...ON_MY_TIME] },
  })

const columnsFor = (
  zone: ZoneTable,
  now: number,
  onOpen: (one: ListedInvitation) => void,
): ListColumn<ListedInvitation>[] => {
  const today = dayOf(toWall(zone, now))
  const wall = (at: string) => toWall(zone, Date.parse(at))
  const clock = (at: string) => clockText(minuteOf(wall(at)))
  const dayWords = (one: ListedInvitation) => {
    const day = dayOf(wall(one.start))
    return day === today ? `Today, ${shortDay(day)}` : shortDay(day)
  }
  const timeWords = (one: ListedInvitation) =>
    one.allDay ? 'all day' : `${clock(one.start)}–${clock(one.end)}`
  const saidWords = (one: ListedInvitation) => ANSWER_WORDS[one.answer]
  const when = (one: ListedInvitation) => (Date.parse(one.end) > now ? 'to come' : 'over')
  return [
    {
      id: 'start',
      head: 'Day',
      // What is over stands after what is to come.
      value: (one) => (Date.parse(one.end) > now ? 0 : 1e14) + Date.parse(one.start),
      words: dayWords,
      cell: (one) => <span className={Date.parse(one.end) > now ? 'text-ink' : ''}>{dayWords(one)}</span>,
      csv: (one) => one.start,
      group: when,
    },
    {
      id: 'time',
      head: 'Time',
      value: timeWords,
      cell: (one) => <span className="whitespace-nowrap">{timeWords(one)}</span>,
      csv: (one) => one.end,
    },
    {
      id: 'title',
      head: 'Meeting',
      value: (one) => one.title || '(no title)',
      cell: (one) => (
        <button
          type="button"
          onClick={() => onOpen(one)}
          className="text-left font-semibold text-ink hover:underline max-md:min-h-thumb"
        >
          {one.title || '(no title)'}
        </button>
      ),
    },
    { id: 'from', head: 'From', value: (one) => one.organizer, group: (one) => one.organizer, wide: true },
    { id: 'place', head: 'Where', value: (one) => one.place, wide: true },
    {
      id: 'repeats',
      head: 'Repeats',
      value: (one) => (one.repeats ? 'repeats' : ''),
      group: (one) => (one.repeats ? 'repeats' : 'once'),
      wide: true,
    },
    { id: 'answer', head: 'My answer', value: saidWords, group: saidWords },
  ]
}

/** All meetings to which I was invited, each at its next date, with what I answered. */
export const InvitationTable = ({ onOpen }: { onOpen: (one: ListedInvitation) => void }) => {
  const { zone } = useMe()
  const now = useNow()
  const invitations = useInvitations()
  const columns = useMemo(() => columnsFor(zone, now, onOpen), [zone, now, onOpen])
  if (invitations.isPending) return <Loading what="your invitations" />
  if (invitations.isError)
    return (
      <Trouble action={<Button onClick={() => invitations.refetch()}>Try again</Button>}>
        {problemWords(invitations.error)}
      </Trouble>
    )
  return (
    <>
      <ListTable
        label="Invitations"
        one="invitation"
        many="invitations"
        columns={columns}
        rows={invitations.data.invitations}
        keyOf={(one) => one.entryId}
        sortedBy="start"
        csvName="invitations.csv"
        empty={
          <Empty>Nobody has invited you to anything that is to come, or was in the last four weeks.</Empty>
        }
      />
      {invitations.data.more && <p className="text-soft text-sm">There are more than are shown here.</p>}
    </>
  )
}
