import { isFree, placesThatFit } from '@marmot/core/reservations'
import { DAY } from '@marmot/core/time'
import { Check, TriangleAlert } from 'lucide-react'
import { usePeople } from '../people/people.ts'
import { useMe } from '../platform/session.tsx'
import { usePlaces, useResources } from '../resources/resources.ts'
import type { ChangeInHand } from './use-change.ts'

const MOST_OFFERED = 5

/** The places of the meeting, given back or exchanged; those that are free at its time are offered. */
export const ChangePlaces = ({ change }: { change: ChangeInHand }) => {
  const { person: me } = useMe()
  const { base, fields, set, time, scope } = change
  const ids = fields.members.flatMap((one) => one.personId ?? [])
  const organizer = base.participants.find((one) => one.organizer)?.personId ?? me.id
  const people = usePeople([organizer, ...ids])
  const there = people.data?.people ?? []
  const home = there.find((one) => one.id === organizer)?.siteId ?? me.siteId
  const guests = fields.members.filter((one) => one.personId === null).length
  const seats = (siteId: string) =>
    there.filter((one) => one.siteId === siteId).length + (siteId === home ? guests : 0)
  const known = useResources().data?.resources ?? []
  // Somebody who has a drill is not offered rooms; who meets in a room may meet in a lab.
  const had = known.filter(
    (one) => fields.places.includes(one.id) || base.places.some((place) => place.id === one.id),
  )
  const kinds = had.map((one) => one.kind)
  // A day around it, so that the next time one tries is mostly here already.
  const from = Math.floor(time.start / DAY) * DAY
  const { places, resources, pending } = usePlaces(from - DAY, from + 2 * DAY, {
    apart: { entryId: base.entryId, recurrence: scope === 'all' ? null : base.recurrence },
    of: {
      sites: [...new Set([...(base.alone ? [] : [home]), ...[...had, ...there].map((one) => one.siteId)])],
      kinds: [...new Set(base.alone ? kinds : ['room', 'lab', ...kinds])],
      places: fields.places,
    },
  })
  const turn = (id: string) =>
    set({
      places: fields.places.includes(id)
        ? fields.places.filter((each) => each !== id)
        : [...fields.places, id],
    })
  const here = places.filter((place) => base.alone || seats(place.siteId) > 0)
  const free = placesThatFit(here, time, seats, home).filter(({ id }) => !fields.places.includes(id))
  const siteOf = (siteId: string) =>
    siteId === home ? '' : `, ${resources.find((one) => one.siteId === siteId)?.site ?? ''}`
  const pill = 'flex min-h-8 items-center gap-1 rounded-full border px-2.5 max-md:min-h-thumb'
  return (
    <fieldset className="flex flex-wrap items-center gap-1.5 text-sm" aria-busy={pending}>
      <legend className="mb-0.5 text-soft text-sm">Places</legend>
      {fields.places.map((id) => {
        const place = places.find((one) => one.id === id)
        const name =
          resources.find((one) => one.id === id)?.name ?? base.places.find((one) => one.id === id)?.name
        const lost = place !== undefined && !isFree(place, time)
        return (
          <button
            key={id}
            type="button"
            aria-pressed
            onClick={() => turn(id)}
            className={`${pill} font-semibold ${lost ? 'border-coral text-coral' : 'border-gentian bg-gentian/12'}`}
          >
            {lost ? <TriangleAlert size={13} aria-hidden /> : <Check size={13} aria-hidden />} {name}
            {lost && ' is not free then'}
          </button>
        )
      })}
      {free.slice(0, MOST_OFFERED).map((place) => (
        <button
          key={place.id}
          type="button"
          aria-pressed={false}
          onClick={() => turn(place.id)}
          className={`${pill} border-soft/50 hover:bg-shade`}
        >
          {places.find((one) => one.id === place.id)?.name}{' '}
          <span className="text-soft">
            {place.seats} seats{siteOf(place.siteId)}
          </span>
        </button>
      ))}
      {!pending && free.length === 0 && fields.places.length === 0 && (
        <span className="text-soft">No room that seats everybody is free then.</span>
      )}
    </fieldset>
  )
}
