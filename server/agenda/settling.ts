import type { agendaEvent } from '@marmot/contract/agenda'
import type { z } from 'zod'
import { listenersIn } from '../entries/index.ts'
import { transaction } from '../platform/database.ts'
import { aboutEntry, tell } from '../platform/live.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { settle } from './store.ts'

const agendaWritten = (entryId: string, people: readonly string[]): z.input<typeof agendaEvent>[] =>
  aboutEntry('agenda', entryId, people)

/** Adds up what was written in some agendas, each by itself, and tells those who take part that there is something to read. */
export const settleAgendas: ThreadWork<{ readonly occurrenceIds: readonly string[] }, void> = async (
  { occurrenceIds },
  { pool },
) => {
  let trouble: unknown = null
  // One at which it goes wrong holds up no other.
  for (const occurrenceId of occurrenceIds)
    await transaction(pool, async (sql) => {
      const entryId = await settle(sql, occurrenceId)
      if (!entryId) return
      await tell(sql, agendaWritten(entryId, await listenersIn(sql, entryId)))
    }).catch((error) => {
      trouble = error
    })
  if (trouble) throw trouble
}
