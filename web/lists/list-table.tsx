import { plainWords } from '@marmot/core/search'
import {
  type ColumnDef,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { ArrowDown, ArrowUp } from 'lucide-react'
import {
  Fragment,
  type ReactNode,
  type RefObject,
  useDeferredValue,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { takeAwayCsv } from '../platform/csv.ts'
import { Button, counted, Empty } from '../ui/parts.tsx'

/** A column of a list. */
export interface ListColumn<Row> {
  readonly id: string
  readonly head: string
  /** What its rows are sorted by and found by. */
  readonly value: (row: Row) => string | number
  /** By which words it is found, where its value is a number. */
  readonly words?: (row: Row) => string
  /** What is shown, where that is not its value. */
  readonly cell?: (row: Row) => ReactNode
  /** What a CSV file has, where that is something else. */
  readonly csv?: (row: Row) => string
  /** Left out on a narrow screen. */
  readonly wide?: boolean
  /** Not shown: it is found by, and goes out with the rest. */
  readonly unseen?: boolean
  /** Under which words rows stand together, where they may be put in groups by this. */
  readonly group?: (row: Row) => string
}

/** Compares words as a reader sorts them; made once, since making it takes longer than a thousand comparisons. */
const inOrder = new Intl.Collator()

/** So many rows are made at first, more than a screen has, and as many more each time that their end comes into sight. */
const STEP = 40

const inOrderOf = (first: string | number, second: string | number): number =>
  typeof first === 'number' && typeof second === 'number'
    ? first - second
    : inOrder.compare(String(first), String(second))

/** Where each row stands by a column. Thousands are put in order by words once, and turned or narrowed by what came of it. */
const placesBy = <Row,>(rows: readonly Row[], value: (row: Row) => string | number): Map<Row, number> => {
  const keyed = rows.map((row) => ({ row, key: value(row) })).sort((a, b) => inOrderOf(a.key, b.key))
  const places = new Map<Row, number>()
  let place = 0
  keyed.forEach(({ row, key }, i) => {
    // Those that say the same stand where they stood.
    if (i > 0 && inOrderOf(keyed[i - 1]?.key ?? '', key) !== 0) place = i
    places.set(row, place)
  })
  return places
}

/** What each row says in words, each after a space. */
const textsOf = <Row,>(rows: readonly Row[], columns: readonly ListColumn<Row>[]): string[] =>
  rows.map(
    (row) =>
      ` ${plainWords(columns.map((column) => column.words?.(row) ?? column.value(row)).join(' ')).join(' ')}`,
  )

/** What is worked out of rows once, when it is first asked for. */
const workedOut = <Row,>(rows: readonly Row[], columns: readonly ListColumn<Row>[]) => {
  const places = new Map<string, Map<Row, number>>()
  let texts: readonly string[] | null = null
  return {
    placeOf: (row: Row, column: string): number => {
      let known = places.get(column)
      if (!known) {
        known = placesBy(rows, columns.find((each) => each.id === column)?.value ?? (() => 0))
        places.set(column, known)
      }
      return known.get(row) ?? 0
    },
    texts: (): readonly string[] => {
      texts ??= textsOf(rows, columns)
      return texts
    },
  }
}

/** How many rows are made by now: more of them as one scrolls, since a row of thousands is a few elements. */
const useGrowing = (count: number, anew: unknown) => {
  const [shown, setShown] = useState(STEP)
  const end = useRef<HTMLTableRowElement>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another order begins at its beginning.
  useEffect(() => setShown(STEP), [anew])
  useEffect(() => {
    if (shown >= count || !end.current || typeof IntersectionObserver === 'undefined') return
    const observer = new IntersectionObserver(
      (seen) => seen.some((one) => one.isIntersecting) && setShown((now) => now + STEP),
      { rootMargin: '600px' },
    )
    observer.observe(end.current)
    return () => observer.disconnect()
  }, [shown, count])
  return { shown: typeof IntersectionObserver === 'undefined' ? count : shown, end }
}

/** Rows in the order in which their groups first come. */
const inGroups = <Row,>(rows: readonly Row[], group: ((row: Row) => string) | undefined) => {
  const groups = new Map<string, Row[]>()
  for (const row of rows) {
    const name = group?.(row) ?? ''
    const known = groups.get(name)
    if (known) known.push(row)
    else groups.set(name, [row])
  }
  return [...groups]
}

/** The rows, in their groups. */
const ListRows = <Row,>({
  groups,
  columns,
  keyOf,
  grouped,
  shown,
  more,
}: {
  groups: readonly (readonly [string, readonly Row[]])[]
  columns: readonly ListColumn<Row>[]
  keyOf: (row: Row) => string
  grouped: boolean
  shown: number
  /** What comes into sight where there are more. */
  more: RefObject<HTMLTableRowElement | null> | null
}) => {
  let made = 0
  return (
    <tbody>
      {groups.map(([name, some]) => {
        if (made >= shown) return null
        const rest = some.slice(0, shown - made)
        made += rest.length
        return (
          <Fragment key={name}>
            {grouped && (
              <tr>
                <th colSpan={columns.length} scope="rowgroup" className="pt-3 pb-1 text-left font-semibold">
                  {name || 'nothing said'}{' '}
                  <span className="font-normal text-soft text-sm">({some.length})</span>
                </th>
              </tr>
            )}
            {rest.map((row) => (
              <tr key={keyOf(row)} className="border-line/60 border-b hover:bg-shade/60">
                {columns.map((column, i) => (
                  <td
                    key={column.id}
                    className={`py-1 pr-3 ${i > 0 ? 'text-soft' : ''} ${column.wide ? 'max-md:hidden' : ''}`}
                  >
                    {column.cell?.(row) ?? column.value(row)}
                  </td>
                ))}
              </tr>
            ))}
          </Fragment>
        )
      })}
      {more && (
        <tr ref={more}>
          <td className="py-2 text-soft">More…</td>
        </tr>
      )}
    </tbody>
  )
}
const SELECT = 'min-h-8 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb'

/** A list: sorted by its heads, narrowed by words, put in groups, and taken away as CSV as it then stands. */
export const ListTable = <Row,>({
  label,
  one,
  many,
  columns,
  rows,
  keyOf,
  sortedBy,
  lastFirst = false,
  csvName,
  empty,
  tools,
}: {
  label: string
  /** What a row is, in words. */
  one: string
  many: string
  columns: readonly ListColumn<Row>[]
  rows: readonly Row[]
  keyOf: (row: Row) => string
  /** The column by which it is sorted at first. */
  sortedBy: string
  /** Whether it is sorted downwards at first. */
  lastFirst?: boolean
  /** What its file is called; null where another goes out, by one of its tools. */
  csvName: string | null
  empty: ReactNode
  tools?: ReactNode
}) => {
  const [sorting, setSorting] = useState<SortingState>([{ id: sortedBy, desc: lastFirst }])
  const [text, setText] = useState('')
  const [grouped, setGrouped] = useState('')
  const words = useDeferredValue(text)
  const known = useMemo(() => workedOut(rows, columns), [rows, columns])
  const seen = useMemo(() => columns.filter((column) => !column.unseen), [columns])
  const defs = useMemo(
    () =>
      seen.map(
        (column): ColumnDef<Row, string | number> => ({
          id: column.id,
          header: column.head,
          accessorFn: column.value,
          sortingFn: (a, b, id) => known.placeOf(a.original, id) - known.placeOf(b.original, id),
        }),
      ),
    [seen, known],
  )
  const data = useMemo(() => {
    const looked = plainWords(words)
    if (looked.length === 0) return [...rows]
    const texts = known.texts()
    return rows.filter((_, i) => looked.every((word) => texts[i]?.includes(` ${word}`)))
  }, [rows, words, known])
  const table = useReactTable({
    data,
    columns: defs,
    state: { sorting },
    onSortingChange: setSorting,
    // A list is always in some order: a third press is the first again.
    enableSortingRemoval: false,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const sorted = table.getSortedRowModel().rows
  const groupOf = columns.find((column) => column.id === grouped)?.group
  const groups = useMemo(
    () =>
      inGroups(
        sorted.map((row) => row.original),
        groupOf,
      ),
    [sorted, groupOf],
  )
  const { shown, end } = useGrowing(data.length, `${words} ${grouped} ${JSON.stringify(sorting)}`)
  // Not drawn anew with each letter that is typed above them.
  const body = useMemo(
    () => (
      <ListRows
        groups={groups}
        columns={seen}
        keyOf={keyOf}
        grouped={groupOf !== undefined}
        shown={shown}
        more={shown < data.length ? end : null}
      />
    ),
    [groups, seen, keyOf, groupOf, shown, data.length, end],
  )
  const takeAway = (name: string) =>
    takeAwayCsv(
      name,
      columns.map((column) => column.head),
      groups.flatMap(([, some]) =>
        some.map((row) =>
          columns.map((column) => column.csv?.(row) ?? String(column.words?.(row) ?? column.value(row))),
        ),
      ),
    )
  const groupable = columns.filter((column) => column.group)
  return (
    <div>
      <div className="flex flex-wrap items-center gap-2 pb-2">
        <input
          type="search"
          aria-label={`Find in the ${label.toLowerCase()}`}
          placeholder="Find in this list"
          value={text}
          // Whoever comes to the field is about to look through them.
          onFocus={known.texts}
          onChange={(event) => setText(event.target.value)}
          className="min-h-8 w-56 rounded-md border border-soft/50 bg-paper px-2.5 max-md:min-h-thumb max-md:flex-1"
        />
        {groupable.length > 0 && (
          <select
            aria-label="In groups"
            className={SELECT}
            value={grouped}
            onChange={(event) => setGrouped(event.target.value)}
          >
            <option value="">not in groups</option>
            {groupable.map((column) => (
              <option key={column.id} value={column.id}>
                by {column.head.toLowerCase()}
              </option>
            ))}
          </select>
        )}
        <p role="status" className="flex-1 whitespace-nowrap text-soft text-sm">
          {counted(data.length, one, many)}
        </p>
        {rows.length > 0 && csvName !== null && (
          <Button className="max-md:min-h-thumb" onClick={() => takeAway(csvName)}>
            Export as CSV
          </Button>
        )}
        {tools}
      </div>
      {rows.length === 0 ? (
        empty
      ) : data.length === 0 ? (
        <Empty>Nothing in this list has these words.</Empty>
      ) : (
        <table aria-label={label} className="w-full border-collapse">
          <thead>
            {table.getHeaderGroups().map((head) => (
              <tr key={head.id} className="border-line border-b text-left">
                {head.headers.map((header, i) => {
                  const way = header.column.getIsSorted()
                  return (
                    <th
                      key={header.id}
                      aria-sort={way === 'asc' ? 'ascending' : way === 'desc' ? 'descending' : 'none'}
                      className={`py-1 pr-3 font-normal ${seen[i]?.wide ? 'max-md:hidden' : ''}`}
                    >
                      <button
                        type="button"
                        onClick={header.column.getToggleSortingHandler()}
                        className="flex items-center gap-1 text-soft text-sm hover:text-ink max-md:min-h-thumb max-md:min-w-[24px]"
                      >
                        {flexRender(header.column.columnDef.header, header.getContext())}
                        {way === 'asc' && <ArrowUp size={13} aria-hidden />}
                        {way === 'desc' && <ArrowDown size={13} aria-hidden />}
                      </button>
                    </th>
                  )
                })}
              </tr>
            ))}
          </thead>
          {body}
        </table>
      )}
    </div>
  )
}
