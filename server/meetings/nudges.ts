import { takeDateToNudge } from '../entries/index.ts'
import { nudge } from '../letters/index.ts'
import { transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'

/** So many dates are taken up at a time; what is left is there a minute later. */
const MOST_A_MINUTE = 200

/**
 * Nudges those who have not answered to a date that is two days ahead, where its organizer chose so: each date by itself,
 * so that one at which it goes wrong holds up no other. Throws what went wrong last.
 */
export const nudgeByItself = async ({ pool, clock }: Pick<House, 'pool' | 'clock'>): Promise<void> => {
  const now = clock()
  const failed: string[] = []
  let trouble: unknown = null
  for (let i = 0; i < MOST_A_MINUTE; i++) {
    let id: string | null = null
    try {
      const taken = await transaction(pool, async (sql) => {
        const date = await takeDateToNudge(sql, now, failed)
        id = date?.id ?? null
        if (date)
          await nudge(sql, date.entryId, {
            recurrence: date.recurrence,
            participantIds: null,
            actorId: null,
            now,
          })
        return date !== null
      })
      if (!taken) break
    } catch (error) {
      trouble = error
      if (id === null) break
      failed.push(id)
    }
  }
  if (trouble) throw trouble
}
