import type { Attachment } from '@marmot/contract/entries'
import { at, type Sql } from '../platform/database.ts'

export const readAttachments = async (sql: Sql, entryId: string): Promise<Attachment[]> =>
  (
    await sql.query<Attachment>(
      'select id, name, type, size from attachment where entry_id = $1 and removed_at is null order by at, name',
      [entryId],
    )
  ).rows

/** Files of one entry belong to its continuation too. */
export const copyAttachments = async (sql: Sql, fromId: string, toId: string): Promise<void> => {
  await sql.query(
    `insert into attachment (entry_id, name, type, content, added_by, at)
     select $2, name, type, content, added_by, at from attachment where entry_id = $1 and removed_at is null`,
    [fromId, toId],
  )
}

/** How much the files of an entry are together, in bytes. */
export const bytesOf = async (sql: Sql, entryId: string): Promise<number> =>
  (
    await sql.query<{ bytes: number }>(
      'select coalesce(sum(size), 0)::bigint as bytes from attachment where entry_id = $1 and removed_at is null',
      [entryId],
    )
  ).rows[0]?.bytes ?? 0

export const insertAttachment = async (
  sql: Sql,
  entryId: string,
  file: { readonly name: string; readonly type: string; readonly content: Buffer },
  addedBy: string,
  now: number,
): Promise<Attachment> => {
  const rows = await sql.query<Attachment>(
    `insert into attachment (entry_id, name, type, content, added_by, at) values ($1, $2, $3, $4, $5, $6)
     returning id, name, type, size`,
    [entryId, file.name, file.type, file.content, addedBy, at(now)],
  )
  const [made] = rows.rows
  if (!made) throw new Error('an attachment that was inserted is not there')
  return made
}

/** A file with its bytes; null when there is none, or it was taken off. */
export const contentOf = async (sql: Sql, attachmentId: string) =>
  (
    await sql.query<{ entryId: string; name: string; type: string; content: Buffer }>(
      `select entry_id as "entryId", name, type, content from attachment where id = $1 and removed_at is null`,
      [attachmentId],
    )
  ).rows[0] ?? null

/** A file, also one that was taken off, locked until the transaction ends. */
export const lockAttachment = async (
  sql: Sql,
  attachmentId: string,
): Promise<(Attachment & { entryId: string }) | null> =>
  (
    await sql.query<Attachment & { entryId: string }>(
      'select entry_id as "entryId", id, name, type, size from attachment where id = $1 for update',
      [attachmentId],
    )
  ).rows[0] ?? null

/** Takes a file off its entry at an instant, or puts it back with null. */
export const setAttachmentRemoved = async (
  sql: Sql,
  attachmentId: string,
  removedAt: number | null,
): Promise<void> => {
  await sql.query('update attachment set removed_at = $2 where id = $1', [
    attachmentId,
    removedAt === null ? null : at(removedAt),
  ])
}

/** Forgets files a week after they were taken off. */
export const tidyAttachments = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from attachment where removed_at < $1::timestamptz - interval '7 days'", [at(now)])
}
