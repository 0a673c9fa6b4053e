import type { VisitLine } from '@marmot/contract/visit-pages'
import { shortTime, type ZoneTable } from '@marmot/core/time'
import { type ReactNode, useMemo } from 'react'
import { Link } from 'react-router'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { useVisits } from './pages.ts'

const STATE = { coming: 'to come', over: 'over', cancelled: 'cancelled' } as const

const keyOf = (one: VisitLine): string => one.visitId

const columnsFor = (zone: ZoneTable): ListColumn<VisitLine>[] => {
  const when = (one: VisitLine) => shortTime(Date.parse(one.start), zone)
  const struck = (one: VisitLine, words: ReactNode) =>
    one.state === 'cancelled' ? <span className="line-through">{words}</span> : words
  return [
    {
      id: 'start',
      head: 'When',
      value: (one) => Date.parse(one.start),
      words: when,
      cell: (one) =>
        one.entryId && one.state !== 'cancelled' ? (
          <Link
            className="inline-flex items-center underline underline-offset-2 max-md:min-h-thumb"
            to={`/now?meeting=${one.entryId}`}
          >
            {when(one)}
          </Link>
        ) : (
          struck(one, when(one))
        ),
      csv: (one) => one.start,
    },
    { id: 'end', head: 'End', value: (one) => one.end, unseen: true },
    {
      id: 'kind',
      head: 'What',
      value: (one) => one.kind,
      cell: (one) => struck(one, one.kind),
      group: (one) => one.kind,
    },
    {
      id: 'name',
      head: 'Visitor',
      value: (one) => one.name,
      cell: (one) =>
        struck(
          one,
          <span title={[one.address, ...one.answers].join('\n')}>
            {one.name}
            {one.guests > 0 && <span className="text-soft"> and {one.guests} more</span>}
          </span>,
        ),
    },
    { id: 'address', head: 'Address', value: (one) => one.address, unseen: true },
    { id: 'host', head: 'With', value: (one) => one.host, group: (one) => one.host, wide: true },
    {
      id: 'state',
      head: 'State',
      value: (one) => STATE[one.state],
      group: (one) => STATE[one.state],
    },
    {
      id: 'moves',
      head: 'Moved',
      value: (one) => one.moves,
      cell: (one) => (one.moves ? `${one.moves}×` : ''),
      wide: true,
    },
    { id: 'guests', head: 'Brought', value: (one) => one.guests, unseen: true },
    { id: 'answers', head: 'Answers', value: (one) => one.answers.join('; '), unseen: true },
    { id: 'taken', head: 'Taken', value: (one) => one.takenAt, unseen: true },
  ]
}

/** What became of the visits: sorted, looked through and put in groups as one likes, and to be taken away as CSV. */
export const VisitsTable = () => {
  const { zone } = useMe()
  const visits = useVisits()
  const columns = useMemo(() => columnsFor(zone), [zone])
  return (
    <section aria-label="Visits" className="flex flex-col gap-2">
      <h2 className="font-semibold text-[17px]">Visits</h2>
      {visits.isPending ? (
        <Loading what="the visits" />
      ) : visits.isError ? (
        <Trouble action={<Button onClick={() => visits.refetch()}>Try again</Button>}>
          {problemWords(visits.error)}
        </Trouble>
      ) : visits.data.visits.length === 0 ? (
        <Empty>Nobody has taken a time yet.</Empty>
      ) : (
        <ListTable
          label="Visits"
          one="visit"
          many="visits"
          columns={columns}
          rows={visits.data.visits}
          keyOf={keyOf}
          sortedBy="start"
          lastFirst
          csvName="visits.csv"
          empty={null}
        />
      )}
    </section>
  )
}
