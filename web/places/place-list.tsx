import { exportPlaces, type KeptPlace, listKeptPlaces } from '@marmot/contract/place-list'
import { placesEvent, reservationsEvent } from '@marmot/contract/resources'
import { featuresText } from '@marmot/core/reservations'
import { useQuery } from '@tanstack/react-query'
import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { ArrowDown, ArrowUp, Download, Plus, Upload } from 'lucide-react'
import { type ReactNode, Suspense, useMemo, useState } from 'react'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { Button, counted, Empty, Loading, Trouble } from '../ui/parts.tsx'

const PlaceEdit = part(() => import('./place-edit.tsx').then((m) => m.PlaceEdit))
const PlaceImport = part(() => import('./place-import.tsx').then((m) => m.PlaceImport))

const column = createColumnHelper<KeptPlace>()
const COLUMNS = [
  column.accessor('name', { header: 'Name' }),
  column.accessor('kind', { header: 'Kind' }),
  column.accessor('site', { header: 'Site' }),
  column.accessor('floor', { header: 'Floor' }),
  column.accessor((one) => one.seats || '', { id: 'seats', header: 'Seats', sortUndefined: 'last' }),
  column.accessor((one) => featuresText(one.features), { id: 'features', header: 'Features' }),
  column.accessor('coming', { header: 'Reserved to come' }),
  column.accessor((one) => (one.retired ? 'not in use' : ''), { id: 'state', header: 'State' }),
]
const NARROW = new Set(['name', 'kind', 'state'])
const NONE: KeptPlace[] = []

/** The places that somebody looks after, as a list: added to, changed, taken out of use, brought in and taken away as CSV. */
export const PlaceList = ({ parts }: { parts: ReactNode }) => {
  const kept = useQuery({
    queryKey: ['places', 'kept'],
    queryFn: () => call(listKeptPlaces),
    meta: { heeds: [heed(placesEvent), heed(reservationsEvent)] },
  })
  const [find, setFind] = useState('')
  const [sorting, setSorting] = useState<SortingState>([{ id: 'name', desc: false }])
  const [open, setOpen] = useState<string | null>(null)
  const data = kept.data?.places ?? NONE
  const table = useReactTable({
    data,
    columns: COLUMNS,
    state: { sorting, globalFilter: find },
    onSortingChange: setSorting,
    onGlobalFilterChange: setFind,
    getRowId: (one) => one.id,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  })
  const { rows } = table.getRowModel()
  const place = useMemo(() => data.find((one) => one.id === open), [data, open])
  const close = () => setOpen(null)
  return (
    <div className="flex min-h-0 flex-1">
      <div className="min-h-0 min-w-0 flex-1 overflow-y-auto px-4.5 pb-4 max-md:px-2.5">
        <div className="flex flex-wrap items-center gap-2 pb-2 text-sm">
          {parts}
          <input
            type="search"
            aria-label="Find a place that I look after"
            placeholder="Find: Col, lab, Innsbruck"
            value={find}
            maxLength={200}
            onChange={(event) => setFind(event.target.value)}
            className="w-52 rounded-md border border-soft/50 bg-paper px-2.5 py-1 max-md:w-full"
          />
          <span className="flex-1" />
          <span role="status" className="text-soft">
            {kept.data ? counted(rows.length, 'place', 'places') : ''}
          </span>
          <Button onClick={() => setOpen('new')}>
            <Plus size={15} aria-hidden /> Add a place
          </Button>
          <Button onClick={() => setOpen('list')}>
            <Upload size={15} aria-hidden /> From a list…
          </Button>
          <a
            href={exportPlaces.path}
            download
            className="inline-flex min-h-8 items-center gap-1.5 rounded-md border border-soft/50 bg-paper px-3 py-1 hover:bg-shade"
          >
            <Download size={15} aria-hidden /> CSV
          </a>
        </div>
        {kept.isError ? (
          <Trouble action={<Button onClick={() => kept.refetch()}>Try again</Button>}>
            {problemWords(kept.error)}
          </Trouble>
        ) : kept.isPending ? (
          <Loading what="the places" />
        ) : rows.length === 0 ? (
          <Empty>{find ? 'No place has that.' : 'You look after no place.'}</Empty>
        ) : (
          <table className="w-full border-collapse text-[15px]">
            <thead>
              <tr className="border-line border-b text-left">
                {table.getFlatHeaders().map((header) => {
                  const sorted = header.column.getIsSorted()
                  return (
                    <th
                      key={header.id}
                      aria-sort={sorted === 'desc' ? 'descending' : sorted ? 'ascending' : 'none'}
                      className={`py-1 pr-3 font-normal ${NARROW.has(header.id) ? '' : 'max-md:hidden'}`}
                    >
                      <button
                        type="button"
                        onClick={header.column.getToggleSortingHandler()}
                        className="flex items-center gap-1 text-soft text-sm hover:text-ink"
                      >
                        {flexRender(header.column.columnDef.header, header.getContext())}
                        {sorted === 'desc' && <ArrowDown size={13} aria-hidden />}
                        {sorted === 'asc' && <ArrowUp size={13} aria-hidden />}
                      </button>
                    </th>
                  )
                })}
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.id} className="border-line border-b hover:bg-paper">
                  {row.getVisibleCells().map((cell) => (
                    <td
                      key={cell.id}
                      className={`py-1 pr-3 ${NARROW.has(cell.column.id) ? '' : 'max-md:hidden'} ${row.original.retired ? 'text-soft' : ''}`}
                    >
                      {cell.column.id === 'name' ? (
                        <button
                          type="button"
                          className="text-left font-semibold underline decoration-soft/50 underline-offset-2 max-md:min-h-thumb"
                          onClick={() => setOpen(row.id)}
                        >
                          {row.original.name}
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
        )}
      </div>
      <Suspense>
        {open === 'list' && <PlaceImport onClose={close} />}
        {open === 'new' && <PlaceEdit key="new" place={null} onClose={close} />}
        {place && <PlaceEdit key={`${place.id} ${place.version}`} place={place} onClose={close} />}
      </Suspense>
    </div>
  )
}
