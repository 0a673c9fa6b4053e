import { useSearchParams } from 'react-router'
import { screen } from '../platform/screen.tsx'
import { useResources } from '../resources/resources.ts'
import { Places } from './places.tsx'

const ReservationsTable = screen(() =>
  import('../reservations/reservations-table.tsx').then((m) => m.ReservationsTable),
)

const PlaceList = screen(() => import('./place-list.tsx').then((m) => m.PlaceList))

const PARTS = [
  { part: null, name: 'Reservations' },
  { part: 'places', name: 'Places' },
] as const

const VIEWS = [
  { view: null, name: 'All places' },
  { view: 'mine', name: 'My reservations' },
  { view: 'cared', name: 'What I look after' },
] as const

/** Places as lanes, what I have reserved, and what is reserved of the places that I look after. */
export const PlacesScreen = () => {
  const [address, setAddress] = useSearchParams()
  const resources = useResources()
  const caresFor = resources.data?.resources.some((one) => one.looksAfter) ?? false
  const view = VIEWS.find((one) => one.view === address.get('view'))?.view ?? null
  const views = (
    <nav aria-label="Places and reservations" className="flex">
      {VIEWS.filter((one) => one.view !== 'cared' || caresFor).map((one) => (
        <button
          key={one.name}
          type="button"
          aria-current={one.view === view ? 'page' : undefined}
          onClick={() => setAddress(one.view ? { view: one.view } : {})}
          className="whitespace-nowrap border-transparent border-b-2 px-2.5 py-1 text-sm hover:border-line aria-[current]:border-ink aria-[current]:font-semibold max-md:min-h-thumb"
        >
          {one.name}
        </button>
      ))}
    </nav>
  )
  const part = address.get('part') === 'places' ? 'places' : null
  const parts = view === 'cared' && (
    <fieldset className="flex">
      <legend className="sr-only">Reservations or places</legend>
      {PARTS.map((one) => (
        <button
          key={one.name}
          type="button"
          aria-pressed={one.part === part}
          onClick={() => setAddress(one.part ? { view: 'cared', part: one.part } : { view: 'cared' })}
          className="border border-soft/50 bg-paper px-3 py-1 text-sm first-of-type:rounded-l-md last-of-type:rounded-r-md hover:bg-shade aria-pressed:bg-ink aria-pressed:text-paper max-md:min-h-thumb"
        >
          {one.name}
        </button>
      ))}
    </fieldset>
  )
  if (view === null) return <Places views={views} />
  return (
    <>
      <h1 className="sr-only">{view === 'mine' ? 'My reservations' : 'What I look after'}</h1>
      <div className="flex px-3 pt-1.5 pb-2 max-md:px-1">{views}</div>
      {view === 'cared' && part ? (
        <PlaceList parts={parts} />
      ) : (
        <ReservationsTable key={view} whose={view} parts={parts} />
      )}
    </>
  )
}
