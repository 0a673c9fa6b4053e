import { lazy, Suspense } from 'react'
import { useSearchParams } from 'react-router'
import { Loading } from '../ui/parts.tsx'

const SharingPart = lazy(() => import('./sharing-part.tsx').then((m) => ({ default: m.SharingPart })))
const FeedsPart = lazy(() => import('../feeds/feeds-part.tsx').then((m) => ({ default: m.FeedsPart })))
const InAndOut = lazy(() => import('../feeds/in-and-out.tsx').then((m) => ({ default: m.InAndOut })))

const VisitorsPart = lazy(() =>
  import('../visits/visitors-part.tsx').then((m) => ({ default: m.VisitorsPart })),
)

const PARTS = [
  { id: 'sharing', name: 'Sharing', part: SharingPart },
  { id: 'feeds', name: 'Feeds', part: FeedsPart },
  { id: 'files', name: 'In and out', part: InAndOut },
  { id: 'visitors', name: 'Visitors', part: VisitorsPart },
] as const

/** What do I share with whom, and what do I read of others? */
export const People = () => {
  const [search, setSearch] = useSearchParams()
  const current = PARTS.find((each) => each.id === search.get('part')) ?? PARTS[0]
  const Part = current.part
  return (
    <div className="mx-auto flex h-full w-full max-w-[1180px] flex-col overflow-y-auto px-6 py-4 max-md:px-3">
      <h1 className="sr-only">People: {current.name}</h1>
      <nav aria-label="Parts of People" className="mb-4 flex gap-1 border-line border-b">
        {PARTS.map((each) => (
          <button
            key={each.id}
            type="button"
            aria-current={each.id === current.id ? 'page' : undefined}
            onClick={() => setSearch({ part: each.id })}
            className="border-transparent border-b-[3px] px-3 py-1 aria-[current=page]:border-gentian aria-[current=page]:font-semibold"
          >
            {each.name}
          </button>
        ))}
      </nav>
      <Suspense fallback={<Loading what={current.name.toLowerCase()} />}>
        <Part />
      </Suspense>
    </div>
  )
}
