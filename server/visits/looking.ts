import type { readVisitKind } from '@marmot/contract/visits'
import { DAY, instantText, MINUTE } from '@marmot/core/time'
import { MOST_DAYS } from '@marmot/core/visits'
import type { z } from 'zod'
import { guestBy } from '../invitations/index.ts'
import type { Sql } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import { hostName, lookedAmong, offeredKind, onceOrProblem, placesToChoose, visitInHand } from './booking.ts'
import { hostsOf, offer } from './offering.ts'
import type { KeptKind } from './store.ts'

/** What stands at the head of a page. */
export const headOf = (
  page: { readonly name: string; readonly about: string; readonly accent: number },
  organisation: string,
) => ({ organisation, name: page.name, about: page.about, accent: page.accent })

/** What is said of a kind before it is chosen. */
export const shortOf = ({ terms }: KeptKind) => ({
  slug: terms.slug,
  title: terms.title,
  about: terms.about,
  lengths: terms.lengths,
  cost: terms.cost,
})

/** The visit that is to be moved, by its visitor's link. */
const movingBy = async (sql: Sql, token: string, kindId: string, now: number) => {
  const { entryId } = await guestBy(sql, token, now)
  const found = await visitInHand(sql, entryId, now)
  if (found?.visit.kindId !== kindId) throw notFound('visit')
  return found.visit
}

/** A kind for somebody who looks for a time: what they are told and asked, and what is free; where nothing is, when next. */
export const lookAt = async (
  sql: Sql,
  address: { readonly page: string; readonly kind: string },
  query: z.output<(typeof readVisitKind)['query']>,
  organisation: string,
  now: number,
) => {
  const kind = await offeredKind(sql, address.page, address.kind)
  const visit = query.visit ? await movingBy(sql, query.visit, kind.id, now) : null
  if (!visit) await onceOrProblem(sql, kind, query.once, now)
  const { terms } = kind
  const from = query.from ? Date.parse(query.from) : now
  const to = from + query.days * DAY
  const minutes = visit
    ? (visit.end - visit.start) / MINUTE
    : query.minutes && terms.lengths.includes(query.minutes)
      ? query.minutes
      : (terms.lengths[0] ?? 30)
  const hosts = visit ? visit.hosts : lookedAmong(kind, query.host)
  const moving = visit && { visitId: visit.id, occurrenceId: visit.occurrenceId }
  const looking = { minutes, hosts, moving }
  const { times } = await offer(sql, kind, { ...looking, from, to }, now)
  const after =
    times.length > 0
      ? null
      : (await offer(sql, kind, { ...looking, from: to, to: to + MOST_DAYS * DAY }, now)).times[0]
  const can = hostsOf(kind)
  const [first] = kind.hosts
  return {
    ...headOf({ name: kind.pageName, about: kind.pageAbout, accent: kind.accent }, organisation),
    kind: {
      ...shortOf(kind),
      where: terms.where,
      place: terms.where === 'mine' ? terms.place : '',
      places: terms.where === 'asked' ? placesToChoose(terms.place) : [],
      together: terms.together,
      hosts:
        terms.together === 'choose'
          ? kind.hosts
              .filter((one) => can.includes(one.id))
              .map((one) => ({ host: hostName(kind, one.id), name: one.name }))
          : [],
      questions: terms.questions,
      mostGuests: terms.mostGuests,
      moveBefore: terms.moveBefore,
      cancelBefore: terms.cancelBefore,
    },
    zone: first?.zone ?? kind.zone,
    minutes,
    starts: times
      .filter((time) => !visit || visit.hosts.every((host) => time.hosts.includes(host)))
      .map((time) => time.start),
    next: after?.start ?? null,
    now: instantText(now),
  }
}
