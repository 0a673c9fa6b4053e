import type { Attachment } from '@marmot/contract/entries'
import { MOST_FILES_BYTES } from '@marmot/contract/entries'
import type { Context } from 'koa'
import { at, type Sql, wallSql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'

export const readAttachments = async (sql: Sql, entryId: string): Promise<Attachment[]> =>
  (
    await sql.query<Attachment>(
      'select id, name, type, size from attachment where entry_id = $1 and occurrence_id is null and removed_at is null order by at, name',
      [entryId],
    )
  ).rows

/** Files of one entry belong to its continuation too, and the pictures of its description are the continuation's own. */
export const copyAttachments = async (sql: Sql, fromId: string, toId: string): Promise<void> => {
  const copied = await sql.query<{ id: string; copy: string }>(
    `with those as (
       select id, gen_random_uuid() as copy from attachment
        where entry_id = $1 and occurrence_id is null and removed_at is null),
     made as (
       insert into attachment (id, entry_id, name, type, content, added_by, at)
       select t.copy, $2, a.name, a.type, a.content, a.added_by, a.at from those t join attachment a on a.id = t.id)
     select id, copy from those`,
    [fromId, toId],
  )
  for (const { id, copy } of copied.rows)
    await sql.query(`update entry set note = replace(note, $2, $3) where id = $1 and strpos(note, $2) > 0`, [
      toId,
      `data-file="${id}"`,
      `data-file="${copy}"`,
    ])
}

/** How much the files of an entry are together, in bytes. */
const bytesOf = async (sql: Sql, entryId: string): Promise<number> =>
  (
    await sql.query<{ bytes: number }>(
      'select coalesce(sum(size), 0)::bigint as bytes from attachment where entry_id = $1 and removed_at is null',
      [entryId],
    )
  ).rows[0]?.bytes ?? 0

/** A file that is added; its id may be the one that a description already names it by. */
interface NewFile {
  readonly id: string
  readonly name: string
  readonly type: string
  readonly content: Buffer
}

/** The file of an entry that was sent before under the same id, if it is the same. */
const sentBefore = async (sql: Sql, entryId: string, file: NewFile): Promise<Attachment | undefined> =>
  (
    await sql.query<Attachment>(
      'select id, name, type, size from attachment where id = $1 and entry_id = $2 and content = $3 and removed_at is null',
      [file.id, entryId, file.content],
    )
  ).rows[0]

/**
 * Adds a file to an entry, or to one date of it; one that was added under its id before is there once. Throws where its files would
 * be too large together, or the id is another file's.
 */
export const insertAttachment = async (
  sql: Sql,
  { entryId, occurrenceId = null }: { readonly entryId: string; readonly occurrenceId?: string | null },
  file: NewFile,
  by: {
    readonly personId: string | null
    readonly participantId?: string | null
    readonly guestName?: string
  },
  now: number,
): Promise<Attachment> => {
  // Two that are added at once are counted one after the other.
  await sql.query('select 1 from entry where id = $1 for update', [entryId])
  const before = await sentBefore(sql, entryId, file)
  if (before) return before
  if ((await bytesOf(sql, entryId)) + file.content.length > MOST_FILES_BYTES)
    throw new ProblemError(
      413,
      'too-many-files',
      `With ${file.name} the files of this entry would be larger than 25 MB together. It was not attached.`,
    )
  const rows = await sql.query<Attachment>(
    `insert into attachment (id, entry_id, occurrence_id, name, type, content, added_by, participant_id, guest_name, at)
     values ($10, $1, $2, $3, $4, $5, $6, $7, $8, $9) on conflict (id) do nothing returning id, name, type, size`,
    [
      entryId,
      occurrenceId,
      file.name,
      file.type,
      file.content,
      by.personId,
      by.participantId ?? null,
      by.guestName ?? '',
      at(now),
      file.id,
    ],
  )
  const [made] = rows.rows
  if (!made)
    throw new ProblemError(
      409,
      'file-there',
      `A file is kept under that id already. ${file.name} was not attached.`,
    )
  return made
}

/** A file as it is kept: of an entry, or of the one date that is named. */
export interface KeptFile extends Attachment {
  readonly entryId: string
  readonly recurrence: string | null
  readonly addedBy: string | null
}

/** SQL: a file belongs to whichever entry its date does by now. */
const FILE = `a.id, a.name, a.type, a.size, a.added_by as "addedBy", coalesce(o.entry_id, a.entry_id) as "entryId",
  ${wallSql('o.recurrence')} as recurrence`
const FROM = 'from attachment a left join occurrence o on o.id = a.occurrence_id'

/** A file with its bytes; null when there is none, or it was taken off. */
export const contentOf = async (
  sql: Sql,
  attachmentId: string,
): Promise<(KeptFile & { content: Buffer }) | null> =>
  (
    await sql.query<KeptFile & { content: Buffer }>(
      `select ${FILE}, a.content ${FROM} where a.id = $1 and a.removed_at is null`,
      [attachmentId],
    )
  ).rows[0] ?? null

/** Answers with a file. Never shown as a page of ours, whatever it is. */
export const answerFile = (
  context: Context,
  file: { readonly name: string; readonly type: string; readonly content: Buffer },
): Record<string, never> => {
  context.set('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`)
  context.type = file.type
  context.body = file.content
  return {}
}

/** A file, also one that was taken off, locked until the transaction ends. */
export const lockAttachment = async (sql: Sql, attachmentId: string): Promise<KeptFile | null> =>
  (await sql.query<KeptFile>(`select ${FILE} ${FROM} where a.id = $1 for update of a`, [attachmentId]))
    .rows[0] ?? null

/** A file of a meeting, and who added it. */
interface FileOfMeeting extends KeptFile {
  readonly who: string
  readonly at: Date
  readonly participantId: string | null
}

/** The files of a meeting, oldest first: those of all its dates, and of the dates that are given. */
export const filesOfMeeting = async (
  sql: Sql,
  entryId: string,
  occurrenceIds: readonly string[],
): Promise<FileOfMeeting[]> =>
  (
    await sql.query<FileOfMeeting>(
      `select ${FILE}, a.at, a.participant_id as "participantId", coalesce(w.name, a.guest_name) as who
         ${FROM} left join person w on w.id = a.added_by
        where a.removed_at is null
          and (a.entry_id = $1 and a.occurrence_id is null or a.occurrence_id = any($2)) order by a.at, a.name`,
      [entryId, occurrenceIds],
    )
  ).rows

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
