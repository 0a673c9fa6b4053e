import { listNow } from '@marmot/contract/now'
import { OWN_LEVEL } from '@marmot/core/sharing'
import { DAY } from '@marmot/core/time'
import { idsOrganized, idsToAnswer, ownOccurrences } from '../entries/index.ts'
import { meetingsFor } from '../meetings/index.ts'
import { readNotices } from '../notices/index.ts'
import type { Routes } from '../platform/router.ts'

const MOST_NEXT = 6

export const nowRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps
  mount(listNow, async ({ asker }) => {
    const now = clock()
    const toAnswer = await idsToAnswer(pool, asker.id, now)
    const organized = await idsOrganized(pool, asker.id, now)
    const meetings = await meetingsFor(pool, [...toAnswer, ...organized], asker.id, now)
    const inOrder = (ids: string[]) =>
      ids.flatMap((id) => meetings.find((meeting) => meeting.entryId === id) ?? [])
    const ahead = await ownOccurrences(
      pool,
      asker.id,
      now,
      now + 3 * DAY,
      { level: OWN_LEVEL, owns: true },
      now,
    )
    return {
      toAnswer: inOrder(toAnswer),
      organized: inOrder(organized),
      next: ahead.filter((one) => one.state !== null && one.state !== 'listed').slice(0, MOST_NEXT),
      notices: await readNotices(pool, asker.id),
    }
  })
}
