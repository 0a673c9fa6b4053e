import { dayOf, shortDay, wallFromText } from '@marmot/core/time'
import type pg from 'pg'
import { peopleByIds } from '../people/index.ts'
import { isRefusedBy } from '../platform/database.ts'
import { NO_DOUBLE, PlaceRefused, type WantedDate, withAlternatives } from '../reservations/index.ts'

/**
 * What is said when a place could not be had, once the transaction that wanted it is over: for which date of several, and
 * what else is free then. Whatever else went wrong is given back as it was.
 */
export const placeTrouble = async (
  pool: pg.Pool,
  error: unknown,
  dates: readonly WantedDate[],
  asked: {
    readonly askerId: string
    readonly people: readonly { readonly id: string }[]
    readonly guests: readonly unknown[]
  },
  now: number,
): Promise<unknown> => {
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
  const people = await peopleByIds(pool, [asked.askerId, ...asked.people.map((person) => person.id)])
  const home = people.find((person) => person.id === asked.askerId)?.siteId
  // As on the screen: guests come to the organizer's site.
  const seatsAt = (siteId: string) =>
    people.filter((person) => person.siteId === siteId).length + (siteId === home ? asked.guests.length : 0)
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
  return withAlternatives(pool, dated, { askerId: asked.askerId, seatsAt }, now)
}
