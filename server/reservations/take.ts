import { placeOf, type ReservationOnWire, type Resource } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import { during } from '@marmot/core/availability'
import { blockedSpan, placesInWords, placesThatFit } from '@marmot/core/reservations'
import { clocksInWords, clockText, DAY, minuteOf, toWall, zoneTable } from '@marmot/core/time'
import type { Sql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { readResources } from '../resources/index.ts'
import { lockResources, readReservations, releaseLapsed, takeResource } from './store.ts'

export interface Wanted {
  readonly placeIds: readonly string[]
  readonly entryId: string
  readonly askerId: string
  readonly span: Span
  readonly recurrence: string
  /** When it goes by itself, if it is only held. */
  readonly lapsesAt?: number
}

/**
 * Takes all the wanted places, or none: the first that cannot be had is a problem, which ends the transaction.
 */
export const takePlaces = async (sql: Sql, wanted: Wanted, now: number): Promise<Resource[]> => {
  const ids = [...new Set(wanted.placeIds)].sort()
  const resources = await readResources(sql, wanted.askerId, ids)
  if (resources.length < ids.length)
    throw new ProblemError(422, 'no-such-place', 'One of the places does not exist any more.', {
      fields: [{ path: 'places', message: 'names a place that does not exist' }],
    })
  await lockResources(sql, ids)
  await releaseLapsed(sql, ids, now)
  const { start, end } = wanted.span
  const reservations = await readReservations(sql, wanted.askerId, start - DAY, end + DAY, now, ids)
  for (const resource of resources) {
    const refusal = whyNot(resource, reservations, wanted.span)
    if (refusal) throw refusal
    await takeResource(sql, {
      resource,
      entryId: wanted.entryId,
      personId: wanted.askerId,
      start,
      end,
      recurrence: wanted.recurrence,
      lapsesAt: wanted.lapsesAt ?? null,
    })
  }
  return resources
}

/** A place that could not be had. What else is free is added once the failed transaction is over. */
export class PlaceRefused extends ProblemError {
  constructor(
    code: string,
    detail: string,
    readonly placeId: string,
    readonly holder: { by: string; start: string; end: string } | null,
  ) {
    super(409, code, detail)
  }
}

const whyNot = (
  resource: Resource,
  reservations: readonly ReservationOnWire[],
  span: Span,
): PlaceRefused | null => {
  const table = zoneTable(resource.zone)
  const refuse = (code: string, words: string, holder: PlaceRefused['holder'] = null) =>
    new PlaceRefused(code, `${resource.name} ${words}`, resource.id, holder)
  if (!resource.mayTake) return refuse('not-trained', 'is only for people who were trained to use it.')
  if (resource.asksApproval) return refuse('asks-approval', 'has to be approved by its steward first.')
  const place = placeOf(resource, reservations)
  const blocked = blockedSpan(span, resource.turnaround)
  const holder = reservations.find((taken) => {
    if (taken.resourceId !== resource.id) return false
    const theirs = blockedSpan(
      { start: Date.parse(taken.start), end: Date.parse(taken.end) },
      resource.turnaround,
    )
    return theirs.start < blocked.end && theirs.end > blocked.start
  })
  if (holder) {
    const words = clocksInWords(Date.parse(holder.start), Date.parse(holder.end), table)
    return refuse(
      'place-taken',
      `is taken at ${clockText(minuteOf(toWall(table, span.start)))}: ${holder.by} has it from ${words}.`,
      { by: holder.by, start: holder.start, end: holder.end },
    )
  }
  const how = during(place.time, table, span)
  return how.state === 'closed'
    ? refuse('place-closed', `is closed then: ${how.blocker?.reason ?? 'out of hours'}.`)
    : null
}

/** The refusal with what else is free then and seats those who are on that site (`seatsAt`), for the person who now has to choose again. */
export const withAlternatives = async (
  sql: Sql,
  refused: PlaceRefused,
  asked: { askerId: string; span: Span; seatsAt: (siteId: string) => number; notThese: readonly string[] },
  now: number,
): Promise<ProblemError> => {
  const { start, end } = asked.span
  const resources = await readResources(sql, asked.askerId)
  const wanted = resources.find((resource) => resource.id === refused.placeId)
  const reservations = await readReservations(sql, asked.askerId, start - DAY, end + DAY, now)
  const alike = resources.filter(
    (resource) =>
      resource.kind === wanted?.kind &&
      resource.siteId === wanted.siteId &&
      !asked.notThese.includes(resource.id),
  )
  const places = alike.map((resource) => placeOf(resource, reservations))
  const free = placesThatFit(places, asked.span, asked.seatsAt, wanted?.siteId ?? '')
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
