import { instantOf, spanInWords, wallOf } from '@marmot/core/time'
import { Link } from 'react-router'
import type { Lens } from '../lanes/lens.ts'
import { useBrief } from '../openings/brief.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, Empty } from '../ui/parts.tsx'
import { AboutPlace } from './about-place.tsx'
import { Closures } from './closures.tsx'
import { featureWords, stateFrom } from './place-state.ts'

/** What there is to know of a place, and who has it in the days that are shown. */
export const PlaceSheet = ({
  place,
  day,
  onReserve,
  onShut,
  onRules,
  onClose,
}: {
  place: PlaceLane
  day: Lens
  onReserve: () => void
  /** Closes it for a time; for whoever looks after it. */
  onShut: () => void
  onRules: () => void
  onClose: () => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const { brief, change } = useBrief()
  const from = instantOf(zone, wallOf(day.first))
  const to = instantOf(zone, wallOf(day.first + day.days))
  const taken = place.reservations.filter(
    (each) => Date.parse(each.end) > from && Date.parse(each.start) < to,
  )
  const inBrief = brief.places.includes(place.id)
  return (
    <Beside
      title={place.name}
      onClose={onClose}
      foot={
        place.resource.mayNot === null && (
          <div className="flex justify-end gap-2">
            <Button
              onClick={() =>
                change({
                  places: inBrief
                    ? brief.places.filter((id) => id !== place.id)
                    : [...brief.places, place.id],
                })
              }
            >
              {inBrief ? 'Take it out of the meeting' : 'Use it for a meeting'}
            </Button>
            <Button tone="primary" data-first onClick={onReserve}>
              Reserve…
            </Button>
          </div>
        )
      }
    >
      <div className="flex flex-col gap-3">
        <p>
          <b className="font-semibold">{stateFrom(place, now, zone)}</b> now
          <br />
          <span className="text-soft">
            {featureWords(place)}
            {featureWords(place) ? ', ' : ''}
            {place.resource.site}
          </span>
        </p>
        <AboutPlace resource={place.resource} />
        <Link to={`/places/${place.id}`} className="self-start text-gentian underline underline-offset-2">
          All about it, and its days
        </Link>
        {place.resource.looksAfter && (
          <div className="flex gap-2">
            <Button onClick={onShut}>Close it for a time…</Button>
            <Button onClick={onRules}>Rules…</Button>
          </div>
        )}
        <Closures resource={place.resource} />
        <h3 className="font-semibold">Who has it in these days</h3>
        {taken.length === 0 && <Empty>Nobody.</Empty>}
        <ul>
          {taken.map((each) => (
            <li key={each.id} className="border-line border-t py-1.5">
              <p>{spanInWords(Date.parse(each.start), Date.parse(each.end), zone, now)}</p>
              <p className="text-soft text-sm">
                {each.by}
                {each.title ? `: ${each.title}` : ''}
                {each.state === 'held' ? ' (held)' : ''}
              </p>
            </li>
          ))}
        </ul>
      </div>
    </Beside>
  )
}
