import { previewAvailability, readAvailability } from '@marmot/contract/availability'
import type { Viewer } from '@marmot/core/sharing'
import { datesApart } from '../entries/index.ts'
import { onOne } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import { readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { levelsFor, viewerOf } from '../sharing/index.ts'
import { readGuestTime, readTime } from './store.ts'

/** Nobody in particular, to see what everybody, or a team, gets. */
const NOBODY = '00000000-0000-0000-0000-000000000000'

export const availabilityRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(readAvailability, async ({ body, asker }) => {
    const { from, to } = readRange(body)
    const apart = body.apart ? await datesApart(pool, [body.apart], asker.id, clock()) : []
    const guests = await readGuestTime(pool, asker.id, body.guests, from, to)
    const people = await onOne(pool, (sql) => readTime(sql, asker.id, body.people, from, to, clock(), apart))
    return { people, guests }
  })

  mount(previewAvailability, async ({ query, asker }) => {
    const { from, to } = readRange({ from: query.from, to: query.until })
    const viewer: Viewer =
      query.to === 'person' && query.id
        ? await viewerOf(pool, query.id)
        : { id: NOBODY, teams: query.to === 'team' && query.id ? [query.id] : [] }
    const level = (await levelsFor(pool, viewer, [asker.id], clock())).get(asker.id)
    const [time] = await readTime(pool, viewer, [asker.id], from, to, clock())
    if (!time || !level) throw notFound('time of yours')
    return { ...time, ...level }
  })
}
