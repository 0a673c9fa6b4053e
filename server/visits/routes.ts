import { randomUUID } from 'node:crypto'
import {
  bookVisit,
  cancelVisit,
  moveVisit,
  proveVisit,
  readVisit,
  readVisitKind,
  readVisitPage,
  visitPageEvents,
} from '@marmot/contract/visits'
import { instantText } from '@marmot/core/time'
import { conferenceFor } from '../conferences/index.ts'
import type { Conference } from '../entries/index.ts'
import { guestBy } from '../invitations/index.ts'
import { comeTo, countLooks, type DoorLimit } from '../links/index.ts'
import { onOne, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { notFound } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { book, cancel, keepForProof, move, notHere, offeredKind, prove, visitInHand } from './booking.ts'
import { headOf, lookAt, shortOf } from './looking.ts'
import { hostsOf } from './offering.ts'
import { visitPagesRoutes } from './page-routes.ts'
import { type KeptKind, type KeptPage, kindsOf, pageAt } from './store.ts'

/** Reading is free; each of these takes somebody's time. */
const BOOKING: DoorLimit = { door: 'visit', subject: 60, client: 40 }
const CHANGING: DoorLimit = { door: 'visit-change', subject: 30, client: 200 }

/** Pages on which somebody from outside picks a time, and what staff say of them. */
export const visitsRoutes = ({ mount, deps }: Routes, house: House): void => {
  const { pool, clock } = deps
  const looked = countLooks()

  const { organisation } = house.settings

  const openPage = async (slug: string): Promise<KeptPage> => {
    const page = await pageAt(pool, slug)
    if (!page?.on) throw notHere()
    return page
  }

  mount(visitPageEvents, async ({ params, context }) => {
    const page = await openPage(params.page)
    house.stream(context, { personId: page.id, session: randomUUID(), guest: true, anyone: true })
    return {}
  })

  mount(readVisitPage, async ({ params, context }) => {
    looked(context.ip, clock())
    const page = await openPage(params.page)
    const kinds = await kindsOf(pool, { pageId: page.id })
    return {
      ...headOf(page, organisation),
      kinds: kinds
        .filter((kind) => kind.on && !kind.terms.byLinkOnly && hostsOf(kind).length > 0)
        .map(shortOf),
    }
  })

  mount(readVisitKind, async ({ params, query, context }) => {
    const now = clock()
    looked(context.ip, now)
    return onOne(pool, (sql) => lookAt(sql, params, query, organisation, now))
  })

  /** How a visit is joined from afar, where it is. */
  const conferenceOf = async ({ terms }: KeptKind): Promise<Conference | null> =>
    terms.where === 'conference' ? conferenceFor(house, randomUUID(), terms.title) : null

  mount(bookVisit, async ({ params, body, context }) => {
    const now = clock()
    const kind = await offeredKind(pool, params.page, params.kind)
    if (body.website)
      return {
        start: body.start,
        end: new Date(Date.parse(body.start) + body.minutes * 60_000).toISOString(),
        host: kind.pageName,
        where: '',
        words: kind.terms.words,
        goOn: '',
        proof: kind.terms.proof,
      }
    await comeTo(pool, BOOKING, { subject: `${kind.id} ${body.address}`, client: context.ip }, now)
    const conference = kind.terms.proof ? null : await conferenceOf(kind)
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `page ${kind.pageId}`, context, body }, () =>
        kind.terms.proof
          ? keepForProof(sql, params, body, clock())
          : book(sql, params, body, { now: clock(), conference }),
      ),
    )
  })

  mount(proveVisit, async ({ params, body, context }) => {
    looked(context.ip, clock())
    return transaction(pool, (sql) => prove(sql, params.token, body.own, clock(), conferenceOf))
  })

  mount(readVisit, async ({ params }) => {
    const now = clock()
    const { entryId } = await guestBy(pool, params.token, now)
    const found = await visitInHand(pool, entryId, now)
    if (!found) throw notFound('visit')
    const { visit, kind, moveUntil, cancelUntil } = found
    return {
      page: kind.pageSlug,
      kind: kind.terms.slug,
      title: kind.terms.title,
      start: instantText(visit.start),
      end: instantText(visit.end),
      host: visit.host,
      // Of what is not offered any more there is no other time.
      moveUntil: moveUntil === null || !kind.on ? null : instantText(moveUntil),
      cancelUntil: cancelUntil === null ? null : instantText(cancelUntil),
    }
  })

  mount(moveVisit, async ({ params, body, context }) => {
    const { entryId, participantId } = await guestBy(pool, params.token, clock())
    await comeTo(pool, CHANGING, { subject: participantId, client: context.ip }, clock())
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `link of ${participantId}`, context, body }, () =>
        move(sql, { entryId, participantId }, Date.parse(body.start), clock()),
      ),
    )
  })

  mount(cancelVisit, async ({ params, body, context }) => {
    const { entryId, participantId } = await guestBy(pool, params.token, clock())
    await comeTo(pool, CHANGING, { subject: participantId, client: context.ip }, clock())
    await transaction(pool, (sql) => cancel(sql, entryId, body.reason, clock()))
    return {}
  })

  visitPagesRoutes({ mount, deps })
}
