import { at, type Sql, wallSql } from '../platform/database.ts'

/** Somebody who says something: a person, or a guest; the participant that they are, if they are one. */
export interface Speaker {
  readonly personId: string | null
  readonly participantId: string | null
  readonly name: string
}

/** Something that was said. */
export interface KeptMessage {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
  readonly personId: string | null
  readonly participantId: string | null
  readonly who: string
  readonly text: string
  readonly at: Date
  readonly files: readonly string[]
}

const MESSAGE = `m.id, o.entry_id as "entryId", ${wallSql('o.recurrence')} as recurrence, m.person_id as "personId",
  m.participant_id as "participantId", coalesce(w.name, m.guest_name) as who, m.text, m.at,
  coalesce((select array_agg(f.attachment_id order by a.at, a.name) from message_file f join attachment a on a.id = f.attachment_id
             where f.message_id = m.id and a.removed_at is null), '{}') as files`
const FROM =
  'from message m join occurrence o on o.id = m.occurrence_id left join person w on w.id = m.person_id'

/** The dates of a meeting that are somebody's: those in which they take part, or all of them for who acts for its organizer. */
export const datesOf = async (sql: Sql, entryId: string, participantId: string | null): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select o.id from occurrence o
        where o.entry_id = $1 and ($2::uuid is null or exists (
          select 1 from participant p left join participant_date d on d.participant_id = p.id and d.occurrence_id = o.id
           where p.id = $2 and coalesce(d.takes_part, p.every_date)))`,
      [entryId, participantId],
    )
  ).rows.map((row) => row.id)

/** The newest of what was said at some dates, newest first, before an instant. */
export const readMessages = async (
  sql: Sql,
  occurrenceIds: readonly string[],
  before: number | null,
  most: number,
): Promise<KeptMessage[]> =>
  (
    await sql.query<KeptMessage>(
      `select ${MESSAGE} ${FROM}
        where m.occurrence_id = any($1) and m.removed_at is null and ($2::timestamptz is null or m.at < $2)
        order by m.at desc, m.id limit $3`,
      [occurrenceIds, before === null ? null : at(before), most],
    )
  ).rows

/** How much was said at some dates that a participant has not read, apart from what they said themselves. */
export const unreadIn = async (
  sql: Sql,
  occurrenceIds: readonly string[],
  participantId: string,
): Promise<number> =>
  (
    await sql.query<{ n: number }>(
      `select count(*) as n from message m
        where m.occurrence_id = any($1) and m.removed_at is null and m.participant_id is distinct from $2
          and m.at > coalesce((select r.read_at from conversation_read r where r.participant_id = $2), '-infinity')`,
      [occurrenceIds, participantId],
    )
  ).rows[0]?.n ?? 0

/** How much somebody has said since an instant. */
export const saidSince = async (sql: Sql, speaker: Speaker, since: number): Promise<number> =>
  (
    await sql.query<{ n: number }>(
      `select count(*) as n from message where at > $3 and ($1::uuid is not null and person_id = $1 or participant_id = $2)`,
      [speaker.personId, speaker.participantId, at(since)],
    )
  ).rows[0]?.n ?? 0

/** Keeps what was said at a date, with files of that date. */
export const insertMessage = async (
  sql: Sql,
  occurrenceId: string,
  speaker: Speaker,
  { text, files }: { readonly text: string; readonly files: readonly string[] },
  now: number,
): Promise<string> => {
  const rows = await sql.query<{ id: string }>(
    `insert into message (occurrence_id, person_id, guest_name, participant_id, text, at)
     values ($1, $2, $3, $4, $5, $6) returning id`,
    [
      occurrenceId,
      speaker.personId,
      speaker.personId === null ? speaker.name : '',
      speaker.participantId,
      text,
      at(now),
    ],
  )
  const id = rows.rows[0]?.id ?? ''
  if (files.length)
    await sql.query(
      `insert into message_file (message_id, attachment_id)
       select $1, a.id from attachment a where a.id = any($2) and a.occurrence_id = $3 and a.removed_at is null`,
      [id, files, occurrenceId],
    )
  return id
}

/** Something that was said, also what was taken out, locked until the transaction ends. */
export const lockMessage = async (
  sql: Sql,
  messageId: string,
): Promise<(KeptMessage & { readonly occurrenceId: string }) | null> =>
  (
    await sql.query<KeptMessage & { occurrenceId: string }>(
      `select ${MESSAGE}, m.occurrence_id as "occurrenceId" ${FROM} where m.id = $1 for update of m`,
      [messageId],
    )
  ).rows[0] ?? null

/** Takes out what was said at an instant, or puts it back with null. */
export const setMessageRemoved = async (
  sql: Sql,
  messageId: string,
  removedAt: number | null,
): Promise<void> => {
  await sql.query('update message set removed_at = $2 where id = $1', [
    messageId,
    removedAt === null ? null : at(removedAt),
  ])
}

/** Notes up to when a participant has read. */
export const setRead = async (sql: Sql, participantId: string, now: number): Promise<boolean> =>
  ((
    await sql.query(
      `insert into conversation_read (participant_id, read_at) values ($1, $2)
       on conflict (participant_id) do update set read_at = excluded.read_at
        where conversation_read.read_at < excluded.read_at`,
      [participantId, at(now)],
    )
  ).rowCount ?? 0) > 0

/** Forgets a week after it was taken out what was said. */
export const tidyMessages = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from message where removed_at < $1::timestamptz - interval '7 days'", [at(now)])
}
