import type { Brief } from '@marmot/contract/briefs'
import type { Resource } from '@marmot/contract/resources'
import { findPlaces, readWish, withoutPart } from '@marmot/core/reservations'
import { useState } from 'react'
import { Button, counted } from '../ui/parts.tsx'

type Need = Brief['needs'][number]

const MOST_NAMED = 4

/**
 * What a meeting needs of a place, typed as one would say it ("two screens, for 8"): found as among all places. How many there are
 * is said; where there are none, what to give up; a place that is named can be taken itself.
 */
export const WishField = ({
  need,
  resources,
  taken,
  homeSite,
  onNeed,
  onPlace,
}: {
  need: Need
  resources: readonly Resource[]
  /** Places that the meeting takes already. */
  taken: readonly string[]
  homeSite: string
  onNeed: (next: Partial<Need>) => void
  onPlace: (placeId: string) => void
}) => {
  const [text, setText] = useState('')
  const ofKind = resources.filter(
    (one) => one.kind === need.kind && (need.siteId === null || one.siteId === need.siteId),
  )
  const features = [...new Set(ofKind.flatMap((one) => Object.keys(one.features)))]
  const { words } = readWish(text, features)
  const wish = {
    words,
    kind: need.kind,
    siteId: need.siteId,
    floor: null,
    seats: need.seats ?? 0,
    features: need.features,
  }
  const { places, instead } = findPlaces(ofKind, wish, null, homeSite)
  const type = (next: string) => {
    setText(next)
    const read = readWish(next, features)
    // What was typed before and is not any more is no wish any more, either.
    const before = readWish(text, features)
    const kept = Object.entries(need.features).filter(([name]) => !(name in before.features))
    onNeed({
      features: { ...Object.fromEntries(kept), ...read.features },
      ...(read.seats ? { seats: read.seats } : before.seats ? { seats: null } : {}),
    })
  }
  return (
    <div className="flex flex-col gap-1.5">
      <input
        type="search"
        aria-label="Type what it needs"
        placeholder="Type: two screens, for 8"
        value={text}
        maxLength={200}
        onChange={(event) => type(event.target.value)}
        className="w-full rounded-md border border-soft/50 bg-paper px-2 py-1"
      />
      {places.length === 0 ? (
        <div role="status" className="flex flex-wrap items-center gap-1.5">
          <span className="text-coral">⚠ No place has all of that.</span>
          {instead.map(({ part, opens }) => {
            const name =
              part.kind === 'feature'
                ? part.name
                : part.kind === 'seats'
                  ? 'so many seats'
                  : part.kind === 'words'
                    ? `“${words.join(' ')}”`
                    : null
            // Kind and site are chosen above.
            if (name === null || part.kind === 'free') return null
            return (
              <Button
                key={name}
                onClick={() => {
                  const { seats, features: left } = withoutPart(wish, part)
                  setText('')
                  onNeed({ features: left, seats: seats || null })
                }}
              >
                {counted(opens, 'place', 'places')} without {name}
              </Button>
            )
          })}
        </div>
      ) : words.length > 0 ? (
        <div className="flex flex-wrap gap-1.5">
          {places
            .filter((place) => !taken.includes(place.id))
            .slice(0, MOST_NAMED)
            .map((place) => (
              <Button
                key={place.id}
                onClick={() => {
                  setText('')
                  onPlace(place.id)
                }}
              >
                {place.name} itself
              </Button>
            ))}
        </div>
      ) : (
        <span role="status" className="text-soft">
          {places.length === 1 ? '1 place has that' : `${places.length} places have that`}
        </span>
      )}
    </div>
  )
}
