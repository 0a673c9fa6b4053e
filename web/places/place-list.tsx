import { exportPlaces, type KeptPlace, listKeptPlaces } from '@marmot/contract/place-list'
import { placesEvent, reservationsEvent } from '@marmot/contract/resources'
import { featureInWords } from '@marmot/core/reservations'
import { useQuery } from '@tanstack/react-query'
import { Download, Plus, Upload } from 'lucide-react'
import { type ReactNode, Suspense, useMemo, useState } from 'react'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'

const PlaceEdit = part(() => import('./place-edit.tsx').then((m) => m.PlaceEdit))
const PlaceImport = part(() => import('./place-import.tsx').then((m) => m.PlaceImport))

const NONE: readonly KeptPlace[] = []
const keyOf = (one: KeptPlace): string => one.id

const featuresInWords = ({ features }: KeptPlace): string =>
  Object.entries(features)
    .filter(([, count]) => count > 0)
    .map(([name, count]) => featureInWords(name, count))
    .join(', ')

const columnsFor = (onOpen: (id: string) => void): ListColumn<KeptPlace>[] => {
  return [
    {
      id: 'name',
      head: 'Name',
      value: (one) => one.name,
      cell: (one) => (
        <button
          type="button"
          className="text-left font-semibold text-ink underline decoration-soft/50 underline-offset-2 max-md:min-h-thumb"
          onClick={() => onOpen(one.id)}
        >
          {one.name}
        </button>
      ),
    },
    { id: 'kind', head: 'Kind', value: (one) => one.kind, group: (one) => one.kind },
    { id: 'site', head: 'Site', value: (one) => one.site, group: (one) => one.site, wide: true },
    { id: 'floor', head: 'Floor', value: (one) => one.floor, group: (one) => one.floor, wide: true },
    { id: 'seats', head: 'Seats', value: (one) => one.seats, cell: (one) => one.seats || '', wide: true },
    { id: 'features', head: 'Features', value: featuresInWords, wide: true },
    { id: 'coming', head: 'Reserved to come', value: (one) => one.coming, wide: true },
    {
      id: 'state',
      head: 'State',
      value: (one) => (one.retired ? 'not in use' : ''),
      group: (one) => (one.retired ? 'not in use' : 'in use'),
    },
  ]
}

/** The places that somebody looks after, as a list: added to, changed, taken out of use, brought in and taken away as CSV. */
export const PlaceList = ({ parts }: { parts: ReactNode }) => {
  const kept = useQuery({
    queryKey: ['places', 'kept'],
    queryFn: () => call(listKeptPlaces),
    meta: { heeds: [heed(placesEvent), heed(reservationsEvent)] },
  })
  const [open, setOpen] = useState<string | null>(null)
  const columns = useMemo(() => columnsFor(setOpen), [])
  const data = kept.data?.places ?? NONE
  const place = useMemo(() => data.find((one) => one.id === open), [data, open])
  const close = () => setOpen(null)
  return (
    <div className="flex min-h-0 flex-1">
      <div className="min-h-0 min-w-0 flex-1 overflow-y-auto px-4.5 pb-4 max-md:px-2.5">
        <div className="flex flex-wrap items-center gap-2 pb-2 text-sm">{parts}</div>
        {kept.isError ? (
          <Trouble action={<Button onClick={() => kept.refetch()}>Try again</Button>}>
            {problemWords(kept.error)}
          </Trouble>
        ) : kept.isPending ? (
          <Loading what="the places" />
        ) : (
          <ListTable
            label="Places"
            one="place"
            many="places"
            columns={columns}
            rows={data}
            keyOf={keyOf}
            sortedBy="name"
            csvName={null}
            empty={<Empty>You look after no place.</Empty>}
            tools={
              <>
                <Button onClick={() => setOpen('new')} className="max-md:min-h-thumb">
                  <Plus size={15} aria-hidden /> Add a place
                </Button>
                <Button onClick={() => setOpen('list')} className="max-md:min-h-thumb">
                  <Upload size={15} aria-hidden /> From a list…
                </Button>
                <a
                  href={exportPlaces.path}
                  download
                  className="inline-flex min-h-8 items-center gap-1.5 rounded-md border border-soft/50 bg-paper px-3 py-1 hover:bg-shade max-md:min-h-thumb"
                >
                  <Download size={15} aria-hidden /> CSV
                </a>
              </>
            }
          />
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
