import { takeDatesToNudge } from '../entries/index.ts'
import { nudge } from '../letters/index.ts'
import { transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'

/** Nudges those who have not answered to a date that is two days ahead, where its organizer chose so. */
export const nudgeByItself = ({ pool, clock }: Pick<House, 'pool' | 'clock'>): Promise<void> =>
  transaction(pool, async (sql) => {
    const now = clock()
    for (const { entryId, recurrence } of await takeDatesToNudge(sql, now))
      await nudge(sql, entryId, { recurrence, participantIds: null, actorId: null, now })
  })
