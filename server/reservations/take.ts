import { placeOf, type Resource, reservableOf } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import {
  areUnitsOfOne,
  blockedSpan,
  exchangeOf,
  type Holding,
  placesInWords,
  placesThatFit,
  refusalInWords,
  refusalOf,
  turnaroundOf,
} from '@marmot/core/reservations'
import { DAY } from '@marmot/core/time'
import { datesOfMany, type KeptPlace } from '../entries/index.ts'
import { at, isRefusedBy, type Sql, together } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { readResources } from '../resources/index.ts'
import { instantsOf } from './holding.ts'
import {
  insertReservations,
  lockResources,
  NO_DOUBLE,
  readReservations,
  releaseLapsed,
  releaseReservations,
  reservedBy,
  takeUpAgain,
} from './store.ts'

/** Places wanted for one date: a meeting's only one, or one of a series. */
export interface WantedDate {
  readonly placeIds: readonly string[]
  readonly span: Span
  readonly recurrence: string
}

export interface Wanted {
  readonly dates: readonly WantedDate[]
  /** Whose reservations they will be. */
  readonly askerId: string
  /** Who is told when one cannot be had, as far as they may know; a stand-in may know less than the owner. */
  readonly viewerId: string
  /** The zone in which the times were chosen: where a place's clocks show something else, a refusal says whose they are. */
  readonly zone: string
}

/**
 * Locks the wanted places until the transaction ends, all at once, and looks whether each can be had for each of its
 * dates; then they are `takePlaces`'s to take. Gives the places. Throws at the first that cannot be had.
 */
export const findPlaces = async (
  sql: Sql,
  { dates, askerId, viewerId, zone }: Wanted,
  now: number,
  /** An entry whose own reservations stand in nobody's way: they are what is moved. */
  besides: string | null = null,
): Promise<Resource[]> => {
  const ids = [...new Set(dates.flatMap((date) => date.placeIds))].sort()
  if (ids.length === 0) return []
  const around = dates.map(({ span }) => ({ start: span.start - DAY, end: span.end + DAY }))
  const [, , resources, reservations] = await together([
    lockResources(sql, ids),
    releaseLapsed(sql, ids, now),
    readResources(sql, askerId, now, ids, besides),
    readReservations(sql, viewerId, around, now, ids, besides),
  ])
  if (resources.length < ids.length)
    throw new ProblemError(422, 'no-such-place', 'One of the places does not exist any more.', {
      fields: [{ path: 'places', message: 'names a place that does not exist' }],
    })
  for (const resource of resources) {
    const its = dates.filter((date) => date.placeIds.includes(resource.id))
    const taken = reservations.filter((one) => one.resourceId === resource.id).map(instantsOf)
    const refusal = whyNot(resource, taken, its, { zone, now }) ?? neededTwice(resource, its)
    if (refusal) throw refusal
  }
  return resources
}

/** Takes the places that were found, each for each of its dates, for an entry. */
export const takePlaces = (sql: Sql, { dates }: Wanted, entryId: string, now: number): Promise<void> =>
  insertReservations(
    sql,
    dates.flatMap(({ placeIds, span, recurrence }) =>
      [...new Set(placeIds)].map((resourceId) => ({ ...span, resourceId, recurrence })),
    ),
    entryId,
    now,
  )

/**
 * Makes exactly the wanted places those of some dates of an entry: what goes on is moved, what is new is taken, what is not
 * wanted any more is released, all or none. `only` names the one date concerned; without it they are all of the entry's.
 * Throws as `findPlaces` does; the reservations of before then stand. Gives the places concerned.
 */
export const movePlaces = async (
  sql: Sql,
  wanted: Wanted,
  entryId: string,
  now: number,
  only: string | null = null,
): Promise<string[]> => {
  const [own, dates] = await together([reservedBy(sql, entryId), datesOfMany(sql, [entryId])])
  const named = new Map(dates.map((date) => [date.recurrence, date.id]))
  const wantedNow = wanted.dates.flatMap(({ placeIds, span, recurrence }) => {
    const occurrenceId = named.get(recurrence)
    return occurrenceId
      ? [...new Set(placeIds)].map((resourceId) => ({ ...span, resourceId, recurrence, occurrenceId }))
      : []
  })
  const concerned = own.filter((one) => only === null || one.recurrence === only)
  const { released, moved, taken } = exchangeOf(concerned, wantedNow)
  // What stays where it is was had by the rules of its day, and is not asked again.
  const fresh = new Set([
    ...moved.map(({ reservation }) => `${reservation.resourceId} ${reservation.recurrence}`),
    ...taken.map(({ resourceId, recurrence }) => `${resourceId} ${recurrence}`),
  ])
  const asked = wanted.dates.flatMap((date) => {
    const placeIds = date.placeIds.filter((id) => fresh.has(`${id} ${date.recurrence}`))
    return placeIds.length > 0 ? [{ ...date, placeIds }] : []
  })
  const ids = [...new Set([...own, ...taken].map((one) => one.resourceId))].sort()
  await lockResources(sql, ids)
  const resources = await findPlaces(sql, { ...wanted, dates: asked }, now, entryId)
  for (const resource of resources) {
    const twice = neededTwice(
      resource,
      wanted.dates.filter((date) => date.placeIds.includes(resource.id)),
    )
    if (twice) throw twice
  }
  // Let go of first, since one date of a series may come to stand where another stood.
  await releaseReservations(
    sql,
    [...released, ...moved.map((one) => one.reservation)].map((one) => one.id),
  )
  await takeUpAgain(
    sql,
    moved.map(({ reservation, to }) => ({ id: reservation.id, span: `[${at(to.start)},${at(to.end)})` })),
    now,
  )
  await insertReservations(sql, taken, entryId, now)
  return [...released, ...moved.map((one) => one.reservation), ...taken].map((one) => one.resourceId)
}

/** Puts the places of an entry back as a state kept them, all or none, and gives those concerned. */
export const putPlacesBack = async (
  sql: Sql,
  entryId: string,
  kept: readonly KeptPlace[],
  now: number,
): Promise<string[]> => {
  const own = await reservedBy(sql, entryId)
  if (own.length === 0 && kept.length === 0) return []
  const ids = [
    ...new Set([...own.map((one) => one.resourceId), ...kept.map((one) => one.resource_id)]),
  ].sort()
  await lockResources(sql, ids)
  await releaseLapsed(sql, ids, now)
  await releaseReservations(
    sql,
    own.map((one) => one.id),
  )
  try {
    await takeUpAgain(sql, kept, now, true)
  } catch (error) {
    if (!isRefusedBy(error, NO_DOUBLE)) throw error
    throw new ProblemError(
      409,
      'place-taken',
      'A place that this had is taken by somebody else now, so it cannot be taken back. Nothing was changed.',
    )
  }
  return ids
}

/** A place that could not be had. What else is free is added once the failed transaction is over. */
export class PlaceRefused extends ProblemError {
  constructor(
    code: string,
    detail: string,
    readonly placeId: string,
    readonly holder: { by: string; start: string; end: string } | null,
    /** The date for which it could not be had. */
    readonly date: WantedDate,
  ) {
    super(409, code, detail)
  }
}

const refusing =
  (resource: Resource, date: WantedDate) =>
  (code: string, words: string, holder: Holding | null = null): PlaceRefused =>
    new PlaceRefused(
      code,
      `${resource.name} ${words}`,
      resource.id,
      holder && {
        by: holder.by,
        start: new Date(holder.start).toISOString(),
        end: new Date(holder.end).toISOString(),
      },
      date,
    )

/** Why a place cannot be had for the first of the dates for which it cannot, if there is one. `taken` is in order. */
const whyNot = (
  resource: Resource,
  taken: readonly Holding[],
  dates: readonly WantedDate[],
  { zone, now }: { readonly zone: string; readonly now: number },
): PlaceRefused | null => {
  const place = reservableOf(resource)
  for (const [had, date] of dates.entries()) {
    const refusal = refusalOf(place, taken, date.span, { now, had })
    if (refusal)
      return refusing(resource, date)(
        refusal.rule,
        refusalInWords(refusal, place, date.span, zone),
        refusal.rule === 'place-taken' ? refusal.holder : null,
      )
  }
  return null
}

/** A series whose dates were moved can need a place twice at once. */
const neededTwice = (resource: Resource, dates: readonly WantedDate[]): PlaceRefused | null => {
  const inOrder = [...dates].sort((a, b) => a.span.start - b.span.start)
  const second = inOrder.find(
    (date, i) =>
      date.span.start < blockedSpan(inOrder[i - 1]?.span ?? NEVER, turnaroundOf(resource.rules)).end,
  )
  return second
    ? refusing(resource, second)('place-taken', 'is needed for another date of this series then.')
    : null
}

const NEVER: Span = { start: Number.NEGATIVE_INFINITY, end: Number.NEGATIVE_INFINITY }

/** The refusal with what else is free then and seats those who are on that site (`seatsAt`), for the person who now has to choose again. */
export const withAlternatives = async (
  sql: Sql,
  refused: PlaceRefused,
  asked: { askerId: string; seatsAt: (siteId: string) => number },
  now: number,
): Promise<ProblemError> => {
  const { span, placeIds } = refused.date
  const around = { start: span.start - DAY, end: span.end + DAY }
  const [resources, reservations] = await together([
    readResources(sql, asked.askerId, now),
    readReservations(sql, asked.askerId, [around], now),
  ])
  const wanted = resources.find((resource) => resource.id === refused.placeId)
  const alike = resources.filter(
    (resource) =>
      resource.kind === wanted?.kind &&
      resource.siteId === wanted.siteId &&
      (wanted.kind !== 'equipment' || areUnitsOfOne(resource, wanted)) &&
      !placeIds.includes(resource.id),
  )
  const places = alike.map((resource) => placeOf(resource, reservations))
  const free = placesThatFit(places, span, asked.seatsAt, wanted?.siteId ?? '')
  const offer = free.length
    ? `Free then: ${placesInWords(free)}.`
    : `Nothing else of its kind is free there then.`
  return new ProblemError(
    refused.status,
    refused.code,
    `${refused.detail} Your other choices are kept. ${offer}`,
    {
      more: {
        placeId: refused.placeId,
        holder: refused.holder,
        free: free.map(({ id, name, seats }) => ({ id, name, seats })),
      },
    },
  )
}
