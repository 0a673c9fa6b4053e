import { randomUUID } from 'node:crypto'
import {
  type Attachment,
  addAttachment,
  deleteAttachment,
  readAttachment,
  restoreAttachment,
} from '@marmot/contract/entries'
import { detailFor, mayChange } from '@marmot/core/sharing'
import { type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import {
  answerFile,
  contentOf,
  insertAttachment,
  type KeptFile,
  lockAttachment,
  setAttachmentRemoved,
} from './attachments.ts'
import { typeOfFile } from './file-kinds.ts'
import { lookingAt, mayActOn, mayNotChange } from './looking.ts'
import { presentAt } from './present.ts'
import { readKept } from './store.ts'

export const attachmentRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  /** The entry's owner, if the asker may change it (or only see it). */
  const ownerIfMay = async (sql: Sql, entryId: string, askerId: string, change: boolean): Promise<string> => {
    const kept = await readKept(sql, entryId, clock(), change)
    if (!kept || kept.deleted) throw notFound('entry')
    const looking = await lookingAt(sql, askerId, kept.ownerId, kept.id, clock())
    if (detailFor(kept, looking) !== 'everything') throw notFound('entry')
    if (change && !mayChange(kept, looking)) throw mayNotChange(kept.owner)
    return kept.ownerId
  }

  /** A file of one date is taken off by whoever added it, and by who acts for the organizer. */
  const removerOf = async (sql: Sql, file: KeptFile, askerId: string): Promise<string> => {
    const { meeting } = await presentAt(sql, file, { personId: askerId }, clock())
    if (file.addedBy !== askerId && !(await mayActOn(sql, meeting, askerId, clock())))
      throw mayNotChange(meeting.organizer)
    return askerId
  }

  mount(addAttachment, async ({ params, query, raw, asker }) => {
    const type = await typeOfFile(query.name, raw)
    return transaction(pool, async (sql) => {
      const ownerId = await ownerIfMay(sql, params.entryId, asker.id, true)
      const file = { id: query.id ?? randomUUID(), name: query.name, type, content: raw }
      const made = await insertAttachment(
        sql,
        { entryId: params.entryId },
        file,
        { personId: asker.id },
        clock(),
      )
      await tellTime(sql, [ownerId])
      return made
    })
  })

  mount(readAttachment, async ({ params, asker, context }) => {
    const file = await contentOf(pool, params.attachmentId)
    if (!file) throw notFound('file')
    if (file.recurrence === null) await ownerIfMay(pool, file.entryId, asker.id, false)
    else await presentAt(pool, file, { personId: asker.id }, clock())
    return answerFile(context, file)
  })

  const setRemoved = async (attachmentId: string, askerId: string, removed: boolean): Promise<Attachment> =>
    transaction(pool, async (sql) => {
      const file = await lockAttachment(sql, attachmentId)
      if (!file) throw notFound('file')
      const ownerId =
        file.recurrence === null
          ? await ownerIfMay(sql, file.entryId, askerId, true)
          : await removerOf(sql, file, askerId)
      await setAttachmentRemoved(sql, attachmentId, removed ? clock() : null)
      await tellTime(sql, [ownerId])
      return file
    })

  mount(deleteAttachment, async ({ params, asker }) => {
    await setRemoved(params.attachmentId, asker.id, true)
    return {}
  })
  mount(restoreAttachment, ({ params, asker }) => setRemoved(params.attachmentId, asker.id, false))
}
