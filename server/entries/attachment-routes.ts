import { extname } from 'node:path'
import {
  type Attachment,
  addAttachment,
  deleteAttachment,
  MOST_FILES_BYTES,
  readAttachment,
  restoreAttachment,
} from '@marmot/contract/entries'
import { detailFor, mayChange } from '@marmot/core/sharing'
import { fileTypeFromBuffer } from 'file-type'
import { type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { bytesOf, contentOf, insertAttachment, lockAttachment, setAttachmentRemoved } from './attachments.ts'
import { lookingAt, mayNotChange } from './looking.ts'
import { readKept } from './store.ts'

/** What may be attached, by what the bytes say, with the endings that go with it. */
const KINDS: Record<string, readonly string[]> = {
  'application/pdf': ['.pdf'],
  'image/png': ['.png'],
  'image/jpeg': ['.jpg', '.jpeg'],
  'image/gif': ['.gif'],
  'image/webp': ['.webp'],
  'image/tiff': ['.tif', '.tiff'],
  'application/zip': ['.zip'],
  'application/gzip': ['.gz', '.tgz'],
  'audio/mpeg': ['.mp3'],
  'video/mp4': ['.mp4'],
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document': ['.docx'],
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet': ['.xlsx'],
  'application/vnd.openxmlformats-officedocument.presentationml.presentation': ['.pptx'],
  'application/vnd.oasis.opendocument.text': ['.odt'],
  'application/vnd.oasis.opendocument.spreadsheet': ['.ods'],
  'application/vnd.oasis.opendocument.presentation': ['.odp'],
}
const PLAIN = ['.txt', '.csv', '.md', '.ics', '.vcf', '.json', '.gpx', '.log']

const isText = (bytes: Buffer): boolean => {
  if (bytes.includes(0)) return false
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    return true
  } catch {
    return false
  }
}

/** The type of a file by its bytes; throws when it is not what its name says, or nothing we keep. */
const typeOf = async (name: string, bytes: Buffer): Promise<string> => {
  const ending = extname(name).toLowerCase()
  const refuse = (message: string) =>
    new ProblemError(422, 'bad-file', message, { fields: [{ path: 'name', message }] })
  if (bytes.length === 0) throw refuse(`${name} is empty. Nothing was attached.`)
  const found = await fileTypeFromBuffer(bytes)
  if (!found) {
    if (PLAIN.includes(ending) && isText(bytes)) return 'text/plain; charset=utf-8'
    throw refuse(`${name} is of a kind that cannot be attached, or not what its name says.`)
  }
  const endings = KINDS[found.mime]
  if (!endings) throw refuse(`${name} is of a kind that cannot be attached (${found.mime}).`)
  if (!endings.includes(ending))
    throw refuse(`${name} is not what its name says: its content is ${found.ext.toUpperCase()}.`)
  return found.mime
}

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

  mount(addAttachment, async ({ params, query, raw, asker }) => {
    const type = await typeOf(query.name, raw)
    return transaction(pool, async (sql) => {
      const ownerId = await ownerIfMay(sql, params.entryId, asker.id, true)
      if ((await bytesOf(sql, params.entryId)) + raw.length > MOST_FILES_BYTES)
        throw new ProblemError(
          413,
          'too-many-files',
          `With ${query.name} the files of this entry would be larger than 25 MB together. It was not attached.`,
        )
      const file = { name: query.name, type, content: raw }
      const made = await insertAttachment(sql, params.entryId, file, asker.id, clock())
      await tellTime(sql, [ownerId])
      return made
    })
  })

  mount(readAttachment, async ({ params, asker, context }) => {
    const file = await contentOf(pool, params.attachmentId)
    if (!file) throw notFound('file')
    await ownerIfMay(pool, file.entryId, asker.id, false)
    // Never shown as a page of ours, whatever it is.
    context.set('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`)
    context.type = file.type
    context.body = file.content
    return {}
  })

  const setRemoved = async (attachmentId: string, askerId: string, removed: boolean): Promise<Attachment> =>
    transaction(pool, async (sql) => {
      const file = await lockAttachment(sql, attachmentId)
      if (!file) throw notFound('file')
      const ownerId = await ownerIfMay(sql, file.entryId, askerId, true)
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
