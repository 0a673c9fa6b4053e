import type { Found, Wish } from '@marmot/core/reservations'
import { type ReactNode, type RefObject, useId } from 'react'
import type { PlaceLane } from '../resources/resources.ts'
import { Button, counted } from '../ui/parts.tsx'
import { KINDS, type useWish } from './use-wish.ts'

type Wished = ReturnType<typeof useWish>

/** One row: which kind, what is typed, how many seats, on which floor, and whether it has to be free then. */
export const FinderBar = ({
  wished,
  floors,
  sites,
  free,
  field,
  views,
}: {
  wished: Wished
  floors: readonly string[]
  sites: readonly { readonly id: string; readonly name: string }[]
  /** "free now", "free at the chosen time". */
  free: string
  field: RefObject<HTMLInputElement | null>
  /** The other views of places, beside this one. */
  views: ReactNode
}) => {
  const { wish, text, seats, kind, onlyFree, put } = wished
  const name = useId()
  return (
    <div className="on-screen flex flex-wrap items-center gap-2 px-3.5 py-1 text-sm max-md:px-2.5">
      <fieldset className="flex overflow-hidden rounded-md border border-soft/50 max-md:order-2">
        <legend className="sr-only">Kind</legend>
        {KINDS.map((each) => (
          <label
            key={each.name}
            className="cursor-pointer px-2.5 py-1 has-checked:bg-ink has-checked:text-ground has-focus-visible:outline-2 has-focus-visible:outline-gentian"
          >
            <input
              type="radio"
              name={name}
              className="sr-only"
              checked={kind === each.kind}
              onChange={() => put({ kind: each.kind === 'room' ? null : (each.kind ?? 'all'), floor: null })}
            />
            {each.name}
          </label>
        ))}
      </fieldset>
      <input
        ref={field}
        type="search"
        aria-label="Find a place by name, feature or site"
        placeholder="Find: two screens, Col, for 8"
        value={text}
        maxLength={200}
        onChange={(event) => put({ find: event.target.value })}
        className="w-60 rounded-md border border-soft/50 bg-paper px-2.5 py-1 max-md:w-full"
      />
      <label className="flex items-center gap-1.5">
        <input
          type="number"
          min={0}
          max={2000}
          aria-label="Seats at least"
          value={seats || ''}
          placeholder="any"
          onChange={(event) => put({ seats: event.target.value })}
          className="w-16 rounded-md border border-soft/50 bg-paper px-2 py-1"
        />
        seats
      </label>
      <select
        aria-label="Site"
        value={wish.siteId ?? ''}
        onChange={(event) => put({ site: event.target.value, floor: null })}
        className="rounded-md border border-soft/50 bg-paper px-2 py-1"
      >
        <option value="">all sites</option>
        {sites.map((site) => (
          <option key={site.id} value={site.id}>
            {site.name}
          </option>
        ))}
      </select>
      {floors.length > 1 && (
        <select
          aria-label="Floor"
          value={wish.floor ?? ''}
          onChange={(event) => put({ floor: event.target.value })}
          className="rounded-md border border-soft/50 bg-paper px-2 py-1"
        >
          <option value="">all floors</option>
          {floors.map((floor) => (
            <option key={floor} value={floor}>
              floor {floor}
            </option>
          ))}
        </select>
      )}
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="accent-gentian"
          checked={onlyFree}
          onChange={(event) => put({ free: event.target.checked ? '1' : null })}
        />
        {free}
      </label>
      <span className="ml-auto max-md:order-first max-md:ml-0 max-md:w-full">{views}</span>
    </div>
  )
}

const without = (
  part: Found<PlaceLane['resource']>['instead'][number]['part'],
  wish: Wish,
): { words: string; put: Record<string, string | null> } => {
  switch (part.kind) {
    case 'free':
      return { words: 'at another time', put: { free: null } }
    case 'words':
      return { words: `without “${wish.words.join(' ')}”`, put: { find: null } }
    case 'kind':
      return { words: 'of any kind', put: { kind: 'all' } }
    case 'site':
      return { words: 'on any site', put: { site: null } }
    case 'floor':
      return { words: 'on any floor', put: { floor: null } }
    case 'seats':
      return { words: 'with fewer seats', put: { seats: null } }
    case 'feature':
      return { words: `without ${part.name}`, put: {} }
  }
}

/** Nothing fits: which wish to give up, and how many that opens. */
export const NothingFits = ({
  instead,
  wished,
  room,
}: {
  instead: Found<PlaceLane['resource']>['instead']
  wished: Wished
  /** Whether somebody could make room, where that is what is missing. */
  room: ReactNode
}) => {
  const { wish, text, put } = wished
  return (
    <div className="flex flex-col items-start gap-2 px-4.5 py-3">
      <p>
        <b className="font-semibold">Nothing fits all of that.</b>{' '}
        {instead.length > 0 ? 'These would:' : 'Not even without any one of your wishes.'}
      </p>
      <div className="flex flex-wrap gap-2">
        {instead.map(({ part, opens }) => {
          const { words, put: given } = without(part, wish)
          const typed =
            part.kind === 'feature' || (part.kind === 'seats' && !wished.seats)
              ? { find: withoutTyped(text, part.kind === 'feature' ? part.name : 'seats') }
              : null
          return (
            <Button key={words} onClick={() => put(typed ? { ...given, ...typed } : given)}>
              {counted(opens, 'place', 'places')} {words}
            </Button>
          )
        })}
      </div>
      {room}
    </div>
  )
}

/** What was typed, without a feature or the seats that were part of it. */
const withoutTyped = (text: string, name: string): string => {
  const first = name.split(/[\s-]/)[0]?.replace(/s$/, '') ?? name
  const number = '(?:\\d+|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)'
  const pattern =
    name === 'seats'
      ? new RegExp(
          `(?:\\bfor\\s+${number}\\b|\\b${number}\\s+(?:seats?|people|persons|places)\\b)[,;]?`,
          'gi',
        )
      : new RegExp(`(?:\\b${number}\\s+)?\\b${first}\\S*[,;]?`, 'gi')
  return text.replace(pattern, '').replace(/\s+/g, ' ').trim()
}
