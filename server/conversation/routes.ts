import {
  addFile,
  noteRead,
  readConversation,
  removeMessage,
  restoreMessage,
  say,
} from '@marmot/contract/conversation'
import { type Sql, transaction } from '../platform/database.ts'
import type { Asker, Routes } from '../platform/router.ts'
import { once } from '../platform/router.ts'
import { addFileAt, conversationFor, noteReadAt, sayAt, setRemoved, talkingAt } from './talk.ts'

export const conversationRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps
  const talking = (sql: Sql, entryId: string, recurrence: string | undefined, asker: Asker) =>
    talkingAt(sql, { entryId, recurrence }, { personId: asker.id, name: asker.name }, clock())

  mount(readConversation, async ({ params, query, asker }) =>
    conversationFor(
      pool,
      await talking(pool, params.entryId, query.recurrence, asker),
      query.before === undefined ? null : Date.parse(query.before),
    ),
  )

  mount(say, ({ params, body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => ({
        messageId: await sayAt(
          sql,
          await talking(sql, params.entryId, body.recurrence, asker),
          body,
          clock(),
        ),
      })),
    ),
  )

  mount(noteRead, async ({ params, asker }) => {
    await noteReadAt(pool, await talking(pool, params.entryId, undefined, asker), clock())
    return {}
  })

  mount(removeMessage, async ({ params, asker }) => {
    await transaction(pool, (sql) => setRemoved(sql, params.messageId, { personId: asker.id }, true, clock()))
    return {}
  })
  mount(restoreMessage, async ({ params, asker }) => {
    await transaction(pool, (sql) =>
      setRemoved(sql, params.messageId, { personId: asker.id }, false, clock()),
    )
    return {}
  })

  mount(addFile, ({ params, query, raw, asker }) =>
    transaction(pool, async (sql) =>
      addFileAt(
        sql,
        await talking(sql, params.entryId, query.recurrence, asker),
        { name: query.name, content: raw },
        clock(),
      ),
    ),
  )
}
