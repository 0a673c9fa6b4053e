import { openPlace } from '@marmot/contract/closures'
import { rulesInWords } from '@marmot/core/reservations'
import { instantOf, spanInWords, wallOf } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { toast } from 'sonner'
import type { Lens } from '../lanes/lens.ts'
import { useBrief } from '../openings/brief.tsx'
import { call, problemWords } from '../platform/api.ts'
import { useMe, useNow } from '../platform/session.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, Empty } from '../ui/parts.tsx'
import { featureWords, stateAt } from './place-state.ts'

/** When it is closed, still or to come; opened again by whoever looks after it. */
const Closures = ({ place }: { place: PlaceLane }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const coming = place.resource.closed.filter((one) => Date.parse(one.end) > now)
  const shown = coming.slice(0, MOST_CLOSURES)
  const open = async (closureId: string) => {
    try {
      await call(openPlace, { params: { resourceId: place.id, closureId } })
      toast(`${place.name} is open again.`)
    } catch (error) {
      toast.error(problemWords(error))
    }
    void queries.invalidateQueries()
  }
  return (
    <ul>
      {shown.map((one) => (
        <li key={one.start} className="flex items-center gap-2 border-line border-t py-1.5 text-sm">
          <span className="flex-1">
            Closed {spanInWords(Date.parse(one.start), Date.parse(one.end), zone, now)}: {one.reason}
          </span>
          {place.resource.looksAfter && <Button onClick={() => open(one.closureId)}>Open again</Button>}
        </li>
      ))}
      {coming.length > shown.length && (
        <li className="text-soft text-sm">and {coming.length - shown.length} more times</li>
      )}
    </ul>
  )
}
const MOST_CLOSURES = 4

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
          <b className="font-semibold">{stateAt(place, now, zone).words}</b> now
          <br />
          <span className="text-soft">
            {featureWords(place)}
            {featureWords(place) ? ', ' : ''}
            {place.resource.site}
          </span>
        </p>
        {place.resource.about && <p>{place.resource.about}</p>}
        {rulesInWords(place.resource.rules).map((rule) => (
          <p key={rule} className="text-sm">
            {rule}
          </p>
        ))}
        {place.resource.steward && (
          <p className="text-soft text-sm">
            {place.resource.looksAfter ? 'You look after it.' : `${place.resource.steward} looks after it.`}
          </p>
        )}
        {place.resource.looksAfter && (
          <div className="flex gap-2">
            <Button onClick={onShut}>Close it for a time…</Button>
            <Button onClick={onRules}>Rules…</Button>
          </div>
        )}
        <Closures place={place} />
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
