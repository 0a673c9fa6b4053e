import { dayOf, shortDay, wallFromText } from '@marmot/core/time'
import type pg from 'pg'
import { peopleByIds } from '../people/index.ts'
import { isRefusedBy } from '../platform/database.ts'
import { NO_DOUBLE, PlaceRefused, type WantedDate, withAlternatives } from '../reservations/index.ts'
import type { Chosen } from './whom.ts'

/** What places are wanted for: the dates, and who will be there. */
interface WantedFor extends Chosen {
  readonly dates: readonly WantedDate[]
  readonly organizerId: string
}

/** What went wrong while places were wanted, whatever it was. */
class InVain extends Error {
  constructor(
    readonly wanted: WantedFor,
    cause: unknown,
  ) {
    super('places were wanted in vain', { cause })
  }
}

/** Adds to an error what the places were wanted for, so that `placeTrouble` can look for others. */
export const inVain =
  (wanted: WantedFor) =>
  (error: unknown): never => {
    throw new InVain(wanted, error)
  }

/**
 * What is said when a place could not be had, once the transaction that wanted it is over: for which date of several, and
 * what else is free then. Whatever else went wrong is given back as it was.
 */
export const placeTrouble = async (
  pool: pg.Pool,
  thrown: unknown,
  askerId: string,
  now: number,
): Promise<unknown> => {
  if (!(thrown instanceof InVain)) return thrown
  const { cause: error, wanted } = thrown
  const { dates, organizerId } = wanted
  const [first] = dates
  const refused =
    isRefusedBy(error, NO_DOUBLE) && first
      ? new PlaceRefused(
          'place-taken',
          'A place was taken a moment ago.',
          first.placeIds[0] ?? '',
          null,
          first,
        )
      : error
  if (!(refused instanceof PlaceRefused)) return error
  const people = await peopleByIds(pool, [organizerId, ...wanted.people.map((person) => person.id)])
  const home = people.find((person) => person.id === organizerId)?.siteId
  // As on the screen: guests come to the organizer's site.
  const seatsAt = (siteId: string) =>
    people.filter((person) => person.siteId === siteId).length + (siteId === home ? wanted.guests.length : 0)
  const { code, detail, placeId, holder, date } = refused
  const dated =
    dates.length > 1
      ? new PlaceRefused(
          code,
          `On ${shortDay(dayOf(wallFromText(date.recurrence) ?? 0))}: ${detail}`,
          placeId,
          holder,
          date,
        )
      : refused
  return withAlternatives(pool, dated, { askerId, seatsAt }, now)
}
