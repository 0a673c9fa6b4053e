import { useSearchParams } from 'react-router'
import { screen } from '../platform/screen.tsx'

const Preferences = screen(() => import('./preferences.tsx').then((m) => m.Preferences))
const SharingPart = screen(() => import('./sharing-part.tsx').then((m) => m.SharingPart))
const FeedsPart = screen(() => import('../feeds/feeds-part.tsx').then((m) => m.FeedsPart))
const InAndOut = screen(() => import('../feeds/in-and-out.tsx').then((m) => m.InAndOut))

const VisitorsPart = screen(() => import('../visits/visitors-part.tsx').then((m) => m.VisitorsPart))

const HolidaysPart = screen(() => import('../holidays/holidays-part.tsx').then((m) => m.HolidaysPart))

const PARTS = [
  { id: 'days', name: 'My days', part: Preferences },
  { id: 'sharing', name: 'Who sees my time', part: SharingPart },
  { id: 'holidays', name: 'Holidays', part: HolidaysPart },
  { id: 'feeds', name: 'Calendar addresses', part: FeedsPart },
  { id: 'files', name: 'Import and export', part: InAndOut },
  { id: 'visitors', name: 'Visitors', part: VisitorsPart },
] as const

/** How my days are drawn, who sees my time, which days are off, which calendars are read and published, what goes in and out, who may visit. */
export const Settings = () => {
  const [search, setSearch] = useSearchParams()
  const current = PARTS.find((each) => each.id === search.get('part')) ?? PARTS[0]
  const Part = current.part
  return (
    <div className="mx-auto flex h-full w-full max-w-[1180px] flex-col overflow-y-auto px-6 py-4 max-md:px-3">
      <h1 className="sr-only">Settings: {current.name}</h1>
      <nav
        aria-label="Parts of Settings"
        className="mb-4 flex shrink-0 gap-1 overflow-x-auto border-line border-b"
      >
        {PARTS.map((each) => (
          <button
            key={each.id}
            type="button"
            aria-current={each.id === current.id ? 'page' : undefined}
            onClick={() => setSearch({ part: each.id })}
            className="whitespace-nowrap border-transparent border-b-[3px] px-3 py-1 max-md:min-h-thumb aria-[current=page]:border-gentian aria-[current=page]:font-semibold"
          >
            {each.name}
          </button>
        ))}
      </nav>
      <Part key={current.id} />
    </div>
  )
}
