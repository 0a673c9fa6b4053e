import type { VisitLine } from '@marmot/contract/visit-pages'
import { shortTime } from '@marmot/core/time'
import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { takeAwayCsv } from '../platform/csv.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { useVisits } from './pages.ts'

const STATE = { coming: 'to come', over: 'over', cancelled: 'cancelled' } as const
const HEAD = [
  'Start',
  'End',
  'What',
  'Visitor',
  'Address',
  'With',
  'State',
  'Moved',
  'Brought',
  'Answers',
  'Taken',
]
const NONE: readonly VisitLine[] = []

/** What became of the visits: sorted and looked through as one likes, and to be taken away as CSV. */
export const VisitsTable = () => {
  const { zone } = useMe()
  const visits = useVisits()
  const [sorting, setSorting] = useState<SortingState>([{ id: 'start', desc: true }])
  const [words, setWords] = useState('')
  const columns = useMemo(() => {
    const column = createColumnHelper<VisitLine>()
    return [
      column.accessor('start', {
        header: 'When',
        cell: (cell) => shortTime(Date.parse(cell.getValue()), zone),
      }),
      column.accessor('kind', { header: 'What' }),
      column.accessor('name', {
        header: 'Visitor',
        cell: ({ row: { original } }) => (
          <span title={[original.address, ...original.answers].join('\n')}>
            {original.name}
            {original.guests > 0 && <span className="text-soft"> and {original.guests} more</span>}
          </span>
        ),
      }),
      column.accessor('host', { header: 'With' }),
      column.accessor((one) => STATE[one.state], { id: 'state', header: 'State' }),
      column.accessor('moves', {
        header: 'Moved',
        cell: (cell) => (cell.getValue() ? `${cell.getValue()}×` : ''),
      }),
    ]
  }, [zone])
  const lines = visits.data?.visits ?? NONE
  const data = useMemo(() => [...lines], [lines])
  const table = useReactTable({
    data,
    columns,
    state: { sorting, globalFilter: words },
    onSortingChange: setSorting,
    onGlobalFilterChange: setWords,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  })
  const rows = table.getRowModel().rows
  const takeAway = () =>
    takeAwayCsv(
      'visits.csv',
      HEAD,
      rows.map(({ original: one }) => [
        one.start,
        one.end,
        one.kind,
        one.name,
        one.address,
        one.host,
        STATE[one.state],
        String(one.moves),
        String(one.guests),
        one.answers.join('; '),
        one.takenAt,
      ]),
    )
  if (visits.isPending) return <Loading what="the visits" />
  if (visits.isError) return <Trouble>{problemWords(visits.error)}</Trouble>
  return (
    <section aria-label="Visits" className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="flex-1 font-semibold text-[17px]">Visits</h2>
        {data.length > 0 && (
          <>
            <input
              aria-label="Look through the visits"
              placeholder="Look through them"
              value={words}
              onChange={(event) => setWords(event.target.value)}
              className="min-h-8 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb"
            />
            <Button onClick={takeAway} className="max-md:min-h-thumb">
              Export as CSV
            </Button>
          </>
        )}
      </div>
      {data.length === 0 ? (
        <Empty>Nobody has taken a time yet.</Empty>
      ) : (
        <div className="overflow-x-auto rounded-lg bg-paper px-3 py-1">
          <table className="w-full border-collapse whitespace-nowrap">
            <thead>
              {table.getHeaderGroups().map((group) => (
                <tr key={group.id} className="border-line border-b text-left">
                  {group.headers.map((header) => {
                    const sorted = header.column.getIsSorted()
                    return (
                      <th
                        key={header.id}
                        scope="col"
                        aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                      >
                        <button
                          type="button"
                          className="flex min-h-8 items-center gap-1 pr-3 text-soft text-sm"
                          onClick={header.column.getToggleSortingHandler()}
                        >
                          {flexRender(header.column.columnDef.header, header.getContext())}
                          {sorted === 'asc' && <ArrowUp size={12} aria-hidden />}
                          {sorted === 'desc' && <ArrowDown size={12} aria-hidden />}
                        </button>
                      </th>
                    )
                  })}
                </tr>
              ))}
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.id} className="border-line border-t first:border-t-0">
                  {row.getVisibleCells().map((cell) => (
                    <td
                      key={cell.id}
                      className={`py-1 pr-3 ${row.original.state === 'cancelled' ? 'text-soft line-through' : ''}`}
                    >
                      {cell.column.id === 'start' &&
                      row.original.entryId &&
                      row.original.state !== 'cancelled' ? (
                        <Link
                          className="underline underline-offset-2"
                          to={`/now?meeting=${row.original.entryId}`}
                        >
                          {flexRender(cell.column.columnDef.cell, cell.getContext())}
                        </Link>
                      ) : (
                        flexRender(cell.column.columnDef.cell, cell.getContext())
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {rows.length === 0 && <Empty>No visit answers to that.</Empty>}
        </div>
      )}
    </section>
  )
}
