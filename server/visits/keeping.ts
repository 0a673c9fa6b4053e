import type { KeptVisitPage, putVisitKind, putVisitPage, VisitLine } from '@marmot/contract/visit-pages'
import { hoursTrouble } from '@marmot/core/availability'
import { instantText } from '@marmot/core/time'
import type { z } from 'zod'
import { mayStandIn } from '../entries/index.ts'
import { addVisitNotices } from '../notices/index.ts'
import { peopleByIds } from '../people/index.ts'
import { isRefusedBy, type Sql } from '../platform/database.ts'
import { tell, timeChanged, visitPageChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import {
  hostingFor,
  type KeptKind,
  type KeptPage,
  KIND_TAKEN,
  kindOf,
  kindsOf,
  pageOf,
  pagesOf,
  putHosts,
  putKind,
  putPage,
  removeKind,
  removePage,
  SLUG_TAKEN,
  setAgreed,
  visitLines,
} from './store.ts'

const MOST_PAGES = 20
const MOST_KINDS = 50

const onWire = (kind: KeptKind) => ({
  ...kind.terms,
  id: kind.id,
  hosts: kind.hosts.map(({ id: personId, name, agreed }) => ({ personId, name, agreed })),
})

/** Somebody's pages, each with its kinds, and where others offer their time or would. */
export const pagesFor = async (sql: Sql, personId: string) => {
  const pages = await pagesOf(sql, personId)
  const kinds = await kindsOf(sql, { ownerId: personId })
  return {
    pages: pages.map(
      ({ ownerId: _, ...page }): KeptVisitPage => ({
        ...page,
        kinds: kinds.filter((kind) => kind.pageId === page.id).map(onWire),
      }),
    ),
    asked: await hostingFor(sql, personId),
  }
}

const addressTaken = (path: string): ProblemError =>
  new ProblemError(
    422,
    'address-taken',
    'That address is had already. Choose another; nothing was changed.',
    {
      fields: [{ path, message: 'is had already' }],
    },
  )

/** A page of somebody's. Throws where it is none. */
export const ownPage = async (sql: Sql, pageId: string, personId: string): Promise<KeptPage> => {
  const page = await pageOf(sql, pageId)
  if (page?.ownerId !== personId) throw notFound('page of yours')
  return page
}

/** Makes or changes a page. */
export const keepPage = async (
  sql: Sql,
  pageId: string,
  body: z.output<(typeof putVisitPage)['body']>,
  ownerId: string,
  now: number,
): Promise<void> => {
  if (!(await pageOf(sql, pageId)) && (await pagesOf(sql, ownerId)).length >= MOST_PAGES)
    throw new ProblemError(422, 'too-many-pages', `There are ${MOST_PAGES} pages of yours already.`)
  const kept = await putPage(sql, { ...body, id: pageId, ownerId }, now).catch((error: unknown) => {
    if (isRefusedBy(error, SLUG_TAKEN)) throw addressTaken('slug')
    throw error
  })
  if (!kept) throw notFound('page of yours')
  await tell(sql, visitPageChanged(pageId))
}

/** Takes a page away, with its kinds; the visits that were taken of them stand. */
export const dropPage = async (sql: Sql, pageId: string, ownerId: string, now: number): Promise<void> => {
  await ownPage(sql, pageId, ownerId)
  for (const kind of await kindsOf(sql, { pageId })) await removeKind(sql, kind.id, now)
  await removePage(sql, pageId, now)
  await tell(sql, visitPageChanged(pageId))
}

/** Makes or changes a kind of meeting. Whoever is new in it and is not acted for is asked first. */
export const keepKind = async (
  sql: Sql,
  { pageId, kindId }: { readonly pageId: string; readonly kindId: string },
  { hosts = [], ...terms }: z.output<(typeof putVisitKind)['body']>,
  ownerId: string,
  now: number,
): Promise<void> => {
  const page = await ownPage(sql, pageId, ownerId)
  const wrong = terms.hours && hoursTrouble(terms.hours)
  if (wrong)
    throw new ProblemError(422, 'bad-hours', 'Its hours overlap, or end before they begin.', {
      fields: [{ path: 'hours', message: 'overlap, or end before they begin' }],
    })
  if (terms.where === 'room' && !terms.need)
    throw new ProblemError(422, 'no-need', 'Say what kind of room it needs.', {
      fields: [{ path: 'need', message: 'is missing' }],
    })
  const before = await kindOf(sql, kindId)
  if (!before && (await kindsOf(sql, { pageId })).length >= MOST_KINDS)
    throw new ProblemError(
      422,
      'too-many-kinds',
      `There are ${MOST_KINDS} kinds of meeting on this page already.`,
    )
  const wanted = hosts.length > 0 ? [...new Set(hosts)] : (before?.hosts.map((one) => one.id) ?? [ownerId])
  const known = await peopleByIds(sql, wanted)
  if (known.length < wanted.length)
    throw new ProblemError(422, 'no-such-person', 'One of the people is not in the directory any more.', {
      fields: [{ path: 'hosts', message: 'are not in the directory' }],
    })
  const kept = await putKind(sql, { id: kindId, pageId, terms }, now).catch((error: unknown) => {
    if (isRefusedBy(error, KIND_TAKEN)) throw addressTaken('slug')
    throw error
  })
  if (!kept) throw notFound('kind of meeting of yours')
  const agreed: string[] = []
  for (const id of wanted) if (await mayStandIn(sql, ownerId, id, now)) agreed.push(id)
  await putHosts(sql, kindId, wanted, agreed, now)
  const asked = wanted.filter((id) => !agreed.includes(id) && !before?.hosts.some((one) => one.id === id))
  if (asked.length > 0)
    await addVisitNotices(
      sql,
      null,
      asked.map((personId) => ({
        personId,
        kind: 'visit-hosting' as const,
        words: `${terms.title} on “${page.name}”`,
      })),
      { actorId: ownerId, name: '' },
      now,
    )
  await tell(sql, [...timeChanged(asked), ...visitPageChanged(pageId)])
}

/** Takes a kind away. */
export const dropKind = async (
  sql: Sql,
  { pageId, kindId }: { readonly pageId: string; readonly kindId: string },
  ownerId: string,
  now: number,
): Promise<void> => {
  await ownPage(sql, pageId, ownerId)
  const kind = await kindOf(sql, kindId)
  if (kind?.pageId !== pageId) throw notFound('kind of meeting of yours')
  await removeKind(sql, kindId, now)
  await tell(sql, visitPageChanged(pageId))
}

/** Keeps whether somebody lets a page offer their time. */
export const agree = async (
  sql: Sql,
  kindId: string,
  personId: string,
  yes: boolean,
  now: number,
): Promise<void> => {
  const kind = await kindOf(sql, kindId)
  if (!kind || !(await setAgreed(sql, kindId, personId, yes, now))) throw notFound('question to you')
  await tell(sql, visitPageChanged(kind.pageId))
}

/** What became of the visits on somebody's pages, and to them. */
export const linesFor = async (sql: Sql, personId: string, now: number): Promise<VisitLine[]> =>
  (await visitLines(sql, personId)).map(({ stands, start, end, takenAt, ...line }) => ({
    ...line,
    start: instantText(start),
    end: instantText(end),
    state: !stands ? ('cancelled' as const) : end <= now ? ('over' as const) : ('coming' as const),
    answers: [...line.answers],
    takenAt: takenAt.toISOString(),
  }))
