import type { Category, OccurrenceOnWire } from '@marmot/contract/entries'
import { clockText, dayOf, minuteOf, shortDay, toWall } from '@marmot/core/time'
import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { useMemo, useState } from 'react'
import { takeAwayCsv } from '../platform/csv.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Empty, flower } from '../ui/parts.tsx'

const ANSWER: Record<string, string> = {
  'needs-action': 'awaits an answer',
  accepted: '',
  tentative: 'perhaps',
  declined: 'said no',
  delegated: 'passed on',
}

/** The entries as a list: sorted as one likes, and to be taken away as CSV. */
export const EntryList = ({
  occurrences,
  categories,
  onOpen,
}: {
  occurrences: readonly OccurrenceOnWire[]
  categories: readonly Category[]
  onOpen: (one: OccurrenceOnWire) => void
}) => {
  const { zone } = useMe()
  const today = dayOf(toWall(zone, useNow()))
  const [sorting, setSorting] = useState<SortingState>([{ id: 'start', desc: false }])
  const columns = useMemo(() => {
    const column = createColumnHelper<OccurrenceOnWire>()
    const wall = (at: string) => toWall(zone, Date.parse(at))
    return [
      column.accessor('start', {
        header: 'Day',
        cell: (cell) => {
          const day = dayOf(wall(cell.getValue()))
          return day === today ? (
            <b className="font-bold text-coral">Today, {shortDay(day)}</b>
          ) : (
            shortDay(day)
          )
        },
      }),
      column.accessor(
        (one) =>
          one.allDay ? '' : `${clockText(minuteOf(wall(one.start)))}–${clockText(minuteOf(wall(one.end)))}`,
        {
          id: 'time',
          header: 'Time',
          cell: (cell) => cell.getValue() || 'all day',
        },
      ),
      column.accessor('title', { header: 'Title' }),
      column.accessor('place', { header: 'Where' }),
      column.accessor((one) => categories.find((each) => each.id === one.categoryId)?.name ?? '', {
        id: 'category',
        header: 'Category',
      }),
      column.accessor((one) => (one.meeting ? (one.own ? 'meeting, mine' : 'meeting') : 'entry'), {
        id: 'kind',
        header: 'Kind',
      }),
      column.accessor((one) => (one.repeats ? (one.changed ? 'series, changed' : 'series') : ''), {
        id: 'repeats',
        header: 'Repeats',
      }),
      column.accessor((one) => ANSWER[one.answer] ?? '', { id: 'answer', header: 'Answer' }),
    ]
  }, [zone, today, categories])
  const data = useMemo(() => [...occurrences], [occurrences])
  const table = useReactTable({
    data,
    columns,
    state: { sorting },
    onSortingChange: setSorting,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const takeAway = () =>
    takeAwayCsv(
      'my-time.csv',
      ['Start', 'End', 'Title', 'Where', 'Category', 'Kind', 'Repeats', 'Answer'],
      table
        .getSortedRowModel()
        .rows.map(({ original, getValue }) => [
          original.start,
          original.end,
          original.title,
          original.place,
          ...['category', 'kind', 'repeats', 'answer'].map((id) => String(getValue(id))),
        ]),
    )
  if (occurrences.length === 0)
    return (
      <div className="px-4.5">
        <Empty>Nothing in these days answers to what you look for.</Empty>
      </div>
    )
  return (
    <div className="px-4.5 pb-4 max-md:px-2.5">
      <div className="flex items-center gap-3 pb-2">
        <p className="flex-1 text-soft text-sm">
          {occurrences.length} {occurrences.length === 1 ? 'date' : 'dates'}
        </p>
        <Button onClick={takeAway}>Export as CSV</Button>
      </div>
      <table className="w-full border-collapse">
        <thead>
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} className="border-line border-b text-left">
              {group.headers.map((header) => {
                const sorted = header.column.getIsSorted()
                return (
                  <th
                    key={header.id}
                    aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                    className={`py-1 pr-3 font-normal ${['category', 'kind', 'repeats', 'answer', 'place'].includes(header.id) ? 'max-md:hidden' : ''}`}
                  >
                    <button
                      type="button"
                      onClick={header.column.getToggleSortingHandler()}
                      className="flex items-center gap-1 text-soft text-sm hover:text-ink"
                    >
                      {flexRender(header.column.columnDef.header, header.getContext())}
                      {sorted === 'asc' && <ArrowUp size={13} aria-hidden />}
                      {sorted === 'desc' && <ArrowDown size={13} aria-hidden />}
                    </button>
                  </th>
                )
              })}
            </tr>
          ))}
        </thead>
        <tbody>
          {table.getRowModel().rows.map((row) => (
            <tr
              key={`${row.original.entryId}${row.original.recurrence}${row.original.start}`}
              className="border-line/60 border-b hover:bg-shade/60"
            >
              {row.getVisibleCells().map((cell) => (
                <td
                  key={cell.id}
                  className={`py-1 pr-3 ${cell.column.id === 'start' || cell.column.id === 'time' ? 'whitespace-nowrap' : ''} ${['category', 'kind', 'repeats', 'answer', 'place'].includes(cell.column.id) ? 'text-soft max-md:hidden' : ''}`}
                >
                  {cell.column.id === 'title' ? (
                    <button
                      type="button"
                      disabled={row.original.hidden}
                      onClick={() => onOpen(row.original)}
                      className="text-left font-semibold hover:underline"
                      style={{
                        borderInlineStart: `4px solid ${flower(categories.find((each) => each.id === row.original.categoryId)?.tone) ?? 'transparent'}`,
                        paddingInlineStart: 6,
                      }}
                    >
                      {row.original.hidden ? 'private' : row.original.title || '(no title)'}
                    </button>
                  ) : (
                    flexRender(cell.column.columnDef.cell, cell.getContext())
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
