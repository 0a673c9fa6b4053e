import {
  exportReservations,
  LIST_COLUMNS,
  type ListColumn,
  type ListedReservation,
} from '@marmot/contract/reservations'
import { clocksInWords, DAY, dayOf, HOUR, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import {
  type Column,
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  type Row,
  useReactTable,
  type VisibilityState,
} from '@tanstack/react-table'
import { ArrowDown, ArrowUp, Columns3, Download } from 'lucide-react'
import {
  Fragment,
  memo,
  type ReactNode,
  useCallback,
  useDeferredValue,
  useMemo,
  useRef,
  useState,
} from 'react'
import { useSearchParams } from 'react-router'
import { useAddressed } from '../platform/addressed.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Choice, counted, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { Popping } from '../ui/popping.tsx'
import { useGivingBack } from './use-giving-back.ts'
import { askedQuery, type ListAsked, PAGE, useReservationList } from './use-list.ts'

const NAMES: Record<ListColumn, string> = {
  start: 'When',
  place: 'Place',
  kind: 'Kind',
  site: 'Site',
  by: 'Reserved by',
  title: 'What for',
  purpose: 'Purpose',
  headCount: 'How many',
  state: 'State',
}
const KINDS: Record<string, string> = { room: 'room', lab: 'lab', desk: 'desk', equipment: 'equipment' }
const STATES: Record<string, string> = { taken: 'reserved', held: 'held', requested: 'to be approved' }

const column = createColumnHelper<ListedReservation>()
const columnsFor = (zone: ZoneTable) => [
  column.accessor('start', {
    header: NAMES.start,
    cell: ({ row: { original } }) => {
      const [start, end] = [Date.parse(original.start), Date.parse(original.end)]
      const day = dayOf(toWall(zone, start))
      return `${shortDay(day)}, ${clocksInWords(start, end, zone)}`
    },
  }),
  column.accessor('place', { header: NAMES.place }),
  column.accessor((one) => KINDS[one.kind] ?? one.kind, { id: 'kind', header: NAMES.kind }),
  column.accessor('site', { header: NAMES.site }),
  column.accessor('by', { header: NAMES.by }),
  column.accessor('title', { header: NAMES.title }),
  column.accessor('purpose', { header: NAMES.purpose }),
  column.accessor((one) => one.headCount ?? '', { id: 'headCount', header: NAMES.headCount }),
  column.accessor((one) => STATES[one.state], { id: 'state', header: NAMES.state }),
]

const isColumn = (text: string | null): text is ListColumn => LIST_COLUMNS.some((one) => one === text)
const HIDDEN = {
  mine: { kind: false, by: false, headCount: false, state: false },
  cared: { kind: false, site: false, state: false },
} as const
/** How far back and ahead a list reaches. */
const BACK = 365 * DAY
const AHEAD = 550 * DAY - DAY
const KEPT = 'marmot.reservation-columns'

const keptColumns = (): VisibilityState | null => {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? 'null')
    if (typeof kept !== 'object' || kept === null) return null
    return Object.fromEntries(
      Object.entries(kept).filter((one): one is [string, boolean] => typeof one[1] === 'boolean'),
    )
  } catch {
    return null
  }
}

/** What of a group stands above its rows. */
const groupName = (one: ListedReservation, group: ListColumn, zone: ZoneTable): string => {
  switch (group) {
    case 'start':
      return shortDay(dayOf(toWall(zone, Date.parse(one.start))))
    case 'headCount':
      return one.headCount === null ? 'not said' : `${one.headCount}`
    case 'state':
      return STATES[one.state] ?? one.state
    default:
      return one[group] || 'nothing said'
  }
}

const ASKED = ['find', 'past', 'sort', 'down', 'group'] as const

/** Which reservations are listed, how sorted and grouped: it stands in the address. */
const useAsked = (whose: 'mine' | 'cared') => {
  const { values, put } = useAddressed(ASKED)
  const now = useNow()
  const hour = Math.floor(now / HOUR) * HOUR
  const past = Boolean(values.past)
  const { find = '', sort = null, group = null } = values
  const asked: ListAsked = {
    whose,
    from: new Date(past ? hour - BACK : hour).toISOString(),
    to: new Date(past ? hour : hour + AHEAD).toISOString(),
    find,
    sort: isColumn(sort) ? sort : 'start',
    down: Boolean(values.down) || (past && sort === null),
    ...(isColumn(group) ? { group } : {}),
  }
  return { asked, past, put }
}

const Pages = ({ total, page, onPage }: { total: number; page: number; onPage: (page: number) => void }) => {
  const last = Math.max(0, Math.ceil(total / PAGE) - 1)
  if (last === 0) return null
  return (
    <nav aria-label="Pages" className="flex items-center gap-2 py-2">
      <Button disabled={page === 0} onClick={() => onPage(page - 1)}>
        Page before
      </Button>
      <span className="text-sm">
        {page * PAGE + 1} to {Math.min(total, (page + 1) * PAGE)} of {total}
      </span>
      <Button disabled={page >= last} onClick={() => onPage(page + 1)}>
        Next page
      </Button>
    </nav>
  )
}

/** What is looked for, how it is grouped, which columns are shown; and all of it as CSV. */
const Tools = ({
  parts,
  asked,
  past,
  total,
  columns,
  onPut,
}: {
  parts: ReactNode
  asked: ListAsked
  past: boolean
  total: number | null
  columns: readonly Column<ListedReservation>[]
  onPut: (name: string, value: string) => void
}) => {
  const csv = `${exportReservations.path}?${new URLSearchParams(Object.entries(askedQuery(asked)))}`
  return (
    <div className="flex flex-wrap items-center gap-2 pb-2 text-sm">
      {parts}
      <input
        type="search"
        aria-label="Find a reservation"
        placeholder="Find: Col, sorting, Innsbruck"
        value={asked.find}
        maxLength={200}
        onChange={(event) => onPut('find', event.target.value)}
        className="w-60 rounded-md border border-soft/50 bg-paper px-2.5 py-1 max-md:w-full"
      />
      <select
        aria-label="Which"
        value={past ? 'past' : ''}
        onChange={(event) => onPut('past', event.target.value)}
        className="rounded-md border border-soft/50 bg-paper px-2 py-1"
      >
        <option value="">to come</option>
        <option value="past">of the last year</option>
      </select>
      <select
        aria-label="In groups by"
        value={asked.group ?? ''}
        onChange={(event) => onPut('group', event.target.value)}
        className="rounded-md border border-soft/50 bg-paper px-2 py-1"
      >
        <option value="">no groups</option>
        {LIST_COLUMNS.map((id) => (
          <option key={id} value={id}>
            by {id === 'start' ? 'day' : NAMES[id].toLowerCase()}
          </option>
        ))}
      </select>
      <Popping
        label="Columns"
        side="bottom"
        trigger={
          <Button>
            <Columns3 size={15} aria-hidden /> Columns
          </Button>
        }
      >
        {columns.map((one) => (
          <Choice key={one.id} checked={one.getIsVisible()} onChoose={(shown) => one.toggleVisibility(shown)}>
            {String(one.columnDef.header)}
          </Choice>
        ))}
      </Popping>
      <span className="flex-1" />
      <span role="status" className="text-soft">
        {total === null ? '' : counted(total, 'reservation', 'reservations')}
      </span>
      <a
        href={csv}
        download
        className="inline-flex min-h-8 items-center gap-1.5 rounded-md border border-soft/50 bg-paper px-3 py-1 hover:bg-shade max-md:min-h-thumb"
      >
        <Download size={15} aria-hidden /> CSV
      </a>
    </div>
  )
}

interface RowsProps {
  readonly rows: readonly Row<ListedReservation>[]
  /** Which rows are chosen, and which columns shown. */
  readonly chosen: Record<string, boolean>
  readonly shown: VisibilityState
  readonly group: ListColumn | undefined
  readonly zone: ZoneTable
  readonly width: number
  readonly onOpen: (one: ListedReservation) => void
}

/** The rows of a page; drawn anew only when something of them changes, and not at each letter that is typed above. */
const Rows = memo(({ rows, chosen, group, zone, width, onOpen }: RowsProps) => (
  <tbody>
    {rows.map((row, i, all) => {
      const { original } = row
      const before = all[i - 1]?.original
      const name = group && groupName(original, group, zone)
      const begins = group && (!before || groupName(before, group, zone) !== name)
      return (
        // A page of others comes in the place of these: what stands there is written over, not made anew.
        <Fragment key={row.index}>
          {begins && (
            <tr className="border-line border-b bg-shade">
              <th colSpan={width} className="px-2 py-1 text-left">
                <b className="font-semibold">{name}</b>{' '}
                <span className="font-normal text-soft text-sm">{original.inGroup}</span>
              </th>
            </tr>
          )}
          <tr className="border-line border-b hover:bg-paper">
            <td className="py-1">
              {row.getCanSelect() && (
                <label className="max-md:grid max-md:size-thumb max-md:place-items-center">
                  <input
                    type="checkbox"
                    aria-label={`Choose ${original.place}, ${shortDay(dayOf(toWall(zone, Date.parse(original.start))))}`}
                    className="accent-gentian"
                    checked={chosen[row.id] ?? false}
                    onChange={row.getToggleSelectedHandler()}
                  />
                </label>
              )}
            </td>
            {row.getVisibleCells().map((cell) => (
              <td
                key={cell.column.id}
                className={`py-1 pr-3 ${cell.column.id === 'start' || cell.column.id === 'place' ? '' : 'max-md:hidden'}`}
              >
                {cell.column.id === 'start' && original.entryId ? (
                  <button
                    type="button"
                    className="text-left underline decoration-soft/50 underline-offset-2 max-md:min-h-thumb"
                    onClick={() => onOpen(original)}
                  >
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </button>
                ) : (
                  flexRender(cell.column.columnDef.cell, cell.getContext())
                )}
                {cell.column.id === 'start' && original.repeats && (
                  <span className="text-soft text-sm"> repeats</span>
                )}
              </td>
            ))}
          </tr>
        </Fragment>
      )
    })}
  </tbody>
))

/** Reservations as a table: mine, or those of the places that I look after. Sorted, grouped, chosen, given back, taken away. */
export const ReservationsTable = ({
  whose,
  parts,
}: {
  whose: 'mine' | 'cared'
  /** What else there is to be seen in its stead. */
  parts: ReactNode
}) => {
  const { zone } = useMe()
  const { asked, past, put } = useAsked(whose)
  const [, setAddress] = useSearchParams()
  const [page, setPage] = useState(0)
  const list = useReservationList(asked, page)
  const [columnVisibility, setVisibility] = useState<VisibilityState>(() => keptColumns() ?? HIDDEN[whose])
  const [rowSelection, setSelection] = useState<Record<string, boolean>>({})
  const columns = useMemo(() => columnsFor(zone), [zone])
  // What one types is never held up by the rows that it brings.
  const data = useDeferredValue(list.data?.reservations ?? NONE)
  const table = useReactTable({
    data,
    columns,
    state: { columnVisibility, rowSelection },
    getRowId: (one) => one.id,
    enableRowSelection: ({ original }) => original.mine && original.entryId !== null,
    onRowSelectionChange: setSelection,
    onColumnVisibilityChange: (change) =>
      setVisibility((before) => {
        const after = typeof change === 'function' ? change(before) : change
        localStorage.setItem(KEPT, JSON.stringify(after))
        return after
      }),
    getCoreRowModel: getCoreRowModel(),
    manualSorting: true,
    manualPagination: true,
  })
  const chosen = table.getSelectedRowModel().rows.map((row) => row.original)
  const giving = useGivingBack(() => setSelection({}))
  const address = useRef(setAddress)
  address.current = setAddress
  const open = useCallback(
    (one: ListedReservation) =>
      address.current((before) => {
        const after = new URLSearchParams(before)
        after.set('meeting', one.entryId ?? '')
        after.set('date', one.recurrence ?? '')
        return after
      }),
    [],
  )
  const sortBy = (id: string) => {
    put({ sort: id, down: asked.sort === id && !asked.down ? '1' : null })
    setPage(0)
  }
  const width = table.getVisibleLeafColumns().length + 1
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-4.5 pb-4 max-md:px-2.5">
      <Tools
        parts={parts}
        asked={asked}
        past={past}
        total={list.data?.total ?? null}
        columns={table.getAllLeafColumns()}
        onPut={(name, value) => {
          put({ [name]: value })
          setPage(0)
        }}
      />
      {chosen.length > 0 && (
        <div className="sticky top-0 z-10 flex flex-wrap items-center gap-2 rounded-md bg-shade px-3 py-1.5">
          <span className="flex-1">{counted(chosen.length, 'reservation', 'reservations')} chosen</span>
          <Button onClick={() => setSelection({})}>Choose none</Button>
          <Button tone="trouble" disabled={giving.busy} onClick={() => giving.giveBack(chosen)}>
            {giving.busy ? `Giving back… ${giving.done} of ${chosen.length}` : `Give back ${chosen.length}`}
          </Button>
        </div>
      )}
      {list.isError ? (
        <Trouble action={<Button onClick={() => list.refetch()}>Try again</Button>}>
          {problemWords(list.error)}
        </Trouble>
      ) : list.isPending ? (
        <Loading what="reservations" />
      ) : data.length === 0 ? (
        <Empty>
          {asked.find
            ? 'No reservation has that.'
            : whose === 'mine'
              ? past
                ? 'You had nothing reserved in the last year.'
                : 'You have nothing reserved. Press the hours of a place under All places to take it.'
              : 'Nothing is reserved of what you look after.'}
        </Empty>
      ) : (
        <table className="w-full border-collapse text-[15px]" aria-busy={list.isPlaceholderData}>
          <thead>
            <tr className="border-line border-b text-left">
              <th className="w-8 py-1">
                <label className="max-md:grid max-md:size-thumb max-md:place-items-center">
                  <input
                    type="checkbox"
                    aria-label="Choose all on this page"
                    className="accent-gentian"
                    checked={table.getIsAllRowsSelected()}
                    onChange={table.getToggleAllRowsSelectedHandler()}
                  />
                </label>
              </th>
              {table.getFlatHeaders().map((header) => {
                const sorted = asked.sort === header.id
                return (
                  <th
                    key={header.id}
                    aria-sort={sorted ? (asked.down ? 'descending' : 'ascending') : 'none'}
                    className={`py-1 pr-3 font-normal ${header.id === 'start' || header.id === 'place' ? '' : 'max-md:hidden'}`}
                  >
                    <button
                      type="button"
                      onClick={() => sortBy(header.id)}
                      className="flex items-center gap-1 text-soft text-sm hover:text-ink"
                    >
                      {flexRender(header.column.columnDef.header, header.getContext())}
                      {sorted &&
                        (asked.down ? (
                          <ArrowDown size={13} aria-hidden />
                        ) : (
                          <ArrowUp size={13} aria-hidden />
                        ))}
                    </button>
                  </th>
                )
              })}
            </tr>
          </thead>
          <Rows
            rows={table.getRowModel().rows}
            chosen={rowSelection}
            shown={columnVisibility}
            group={asked.group}
            zone={zone}
            width={width}
            onOpen={open}
          />
        </table>
      )}
      <Pages total={list.data?.total ?? 0} page={page} onPage={setPage} />
    </div>
  )
}

const NONE: ListedReservation[] = []
