import { deleteSharing, listSharing, putSharing } from '@marmot/contract/sharing'
import { type Grant, givesMore, grantTrouble, type Level, levelFor } from '@marmot/core/sharing'
import { addSharedNotices } from '../notices/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { tellSharing, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import {
  deleteGrant,
  grantsOf,
  isReceiver,
  levelsFor,
  listTeams,
  ownersSharingWith,
  putGrant,
  readGrants,
  receiversOf,
  viewerOf,
  viewersOf,
} from './store.ts'

const SEES_WORDS = {
  nothing: 'nothing',
  busy: 'busy times',
  headlines: 'headlines',
  everything: 'everything',
}
const DOES_WORDS = { look: '', change: ', and may change it', 'stand-in': ', and may act as stand-in' }

const levelWords = (level: Level): string =>
  `${SEES_WORDS[level.sees]}${level.seesPrivate ? ' with private entries' : ''}${DOES_WORDS[level.does]}`

export const sharingRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listSharing, async ({ asker }) => {
    const viewer = await viewerOf(pool, asker.id)
    const owners = await ownersSharingWith(pool, viewer)
    const levels = await levelsFor(
      pool,
      viewer,
      owners.map((owner) => owner.id),
      clock(),
    )
    return {
      mine: await readGrants(pool, asker.id),
      toMe: owners.flatMap((owner) => {
        const level = levels.get(owner.id)
        return level && level.sees !== 'nothing'
          ? [{ ownerId: owner.id, owner: owner.name, ...level, until: owner.until?.toISOString() ?? null }]
          : []
      }),
      teams: await listTeams(pool),
    }
  })

  /** Who of those a grant is for gets more by it than before. */
  const whoGetsMore = async (sql: Sql, ownerId: string, grant: Grant, before: readonly Grant[]) => {
    const after = [...before.filter((one) => one.to !== grant.to || one.id !== grant.id), grant]
    const more: { id: string; level: Level }[] = []
    // When everybody gets more, nobody is told: it would be a notice for the whole institute.
    for (const viewer of await viewersOf(sql, (await receiversOf(sql, grant)) ?? [])) {
      const level = levelFor(ownerId, viewer, after, clock())
      if (viewer.id !== ownerId && givesMore(level, levelFor(ownerId, viewer, before, clock())))
        more.push({ id: viewer.id, level })
    }
    return more
  }

  mount(putSharing, async ({ body, asker }) => {
    const grant: Grant = { ...body, until: body.until === null ? null : Date.parse(body.until) }
    const trouble = grantTrouble(asker.id, grant, clock())
    if (trouble)
      throw new ProblemError(422, 'bad-grant', trouble, { fields: [{ path: 'to', message: trouble }] })
    return transaction(pool, async (sql) => {
      if (!(await isReceiver(sql, grant))) throw notFound('person or team to share with')
      const before = (await grantsOf(sql, [asker.id])).get(asker.id) ?? []
      const more = await whoGetsMore(sql, asker.id, grant, before)
      const grantId = await putGrant(sql, asker.id, grant)
      for (const { id, level } of more)
        await addSharedNotices(sql, [id], asker.id, levelWords(level), clock())
      // Whoever looks at my time now asks again, at the new level.
      await tellSharing(sql)
      await tellTime(sql, [asker.id, ...more.map((one) => one.id)])
      const was = before.find((one) => one.to === grant.to && one.id === grant.id)
      return {
        grantId,
        told: more.length,
        before: was ? { ...was, until: was.until === null ? null : new Date(was.until).toISOString() } : null,
      }
    })
  })

  mount(deleteSharing, async ({ params, asker }) =>
    transaction(pool, async (sql) => {
      if (!(await deleteGrant(sql, asker.id, params.grantId))) throw notFound('grant of yours')
      await tellSharing(sql)
      await tellTime(sql, [asker.id])
      return {}
    }),
  )
}
