import { createHash, randomBytes } from 'node:crypto'
import { at, type Sql, wallSql } from '../platform/database.ts'

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

/** Writes one message for each invited participant and gives their ids. Written twice, it stays one. */
export const insertMessages = async (
  sql: Sql,
  entryId: string,
  method: 'REQUEST' | 'CANCEL',
  actorId: string | null,
  recurrence: string | null,
  now: number,
): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      // A message about one date counts on for that date alone: the others' SEQUENCE stays.
      `insert into mail (entry_id, participant_id, method, sequence, written_at, actor_id, recurrence)
       select p.entry_id, p.id, $2, e.sequence + ($5::timestamp is not null)::integer, $3, $4, $5
         from participant p join entry e on e.id = p.entry_id
        where p.entry_id = $1 and not p.organizer
       on conflict do nothing returning id`,
      [entryId, method, at(now), actorId, recurrence],
    )
  ).rows.map((row) => row.id)

export interface MailRow {
  readonly id: string
  readonly entryId: string
  readonly participantId: string
  readonly method: 'REQUEST' | 'CANCEL'
  readonly sequence: number
  readonly state: string
  readonly writtenAt: Date
  readonly newest: boolean
  /** The one date of a series that it is about. */
  readonly recurrence: string | null
  /** A stand-in who had it sent in the organizer’s name. */
  readonly actor: string | null
}

/** Messages; `newest` is false when a later one to the same person makes it moot. */
export const findMails = async (sql: Sql, mailIds: readonly string[]): Promise<MailRow[]> =>
  (
    await sql.query<MailRow>(
      `select m.id, m.entry_id as "entryId", m.participant_id as "participantId", m.method, m.sequence, m.state,
              m.written_at as "writtenAt", ${wallSql('m.recurrence')} as recurrence,
              m.sequence >= e.sequence as newest,
              (select a.name from person a where a.id = m.actor_id) as actor
         from mail m join entry e on e.id = m.entry_id where m.id = any($1)`,
      [mailIds],
    )
  ).rows

export const setMailState = async (
  sql: Sql,
  mailId: string,
  state: 'waiting' | 'sent' | 'failed',
  error: string | null,
  now: number,
) => {
  await sql.query('update mail set state = $2, error = $3, sent_at = $4 where id = $1', [
    mailId,
    state,
    error,
    state === 'sent' ? at(now) : null,
  ])
}

/**
 * Makes a link for each of some guests, good until an instant, and gives its token by the participant, kept only as a
 * hash. Links from before stay good: a letter that is sent again after a crash may have arrived the first time too.
 */
export const makeGuestLinks = async (
  sql: Sql,
  participantIds: readonly string[],
  expires: number,
  now: number,
): Promise<Map<string, string>> => {
  const tokens = new Map(participantIds.map((id) => [id, randomBytes(32).toString('base64url')]))
  if (tokens.size > 0)
    await sql.query(
      `insert into guest_link (token_hash, participant_id, expires_at, made_at)
       select hash, participant, $3, $4 from unnest($1::bytea[], $2::uuid[]) d(hash, participant)`,
      [[...tokens.values()].map(hashOf), [...tokens.keys()], at(expires), at(now)],
    )
  return tokens
}

/** How many links a participant was given since an instant. */
export const linksSince = async (sql: Sql, participantId: string, since: number): Promise<number> =>
  (
    await sql.query<{ n: number }>(
      'select count(*) as n from guest_link where participant_id = $1 and made_at > $2',
      [participantId, at(since)],
    )
  ).rows[0]?.n ?? 0

/** The newest invitation that was written to a participant. */
export const invitationTo = async (sql: Sql, participantId: string): Promise<string | null> =>
  (
    await sql.query<{ id: string }>(
      `select id from mail where participant_id = $1 and method = 'REQUEST' and recurrence is null
        order by sequence desc limit 1`,
      [participantId],
    )
  ).rows[0]?.id ?? null

export const findGuestLink = async (sql: Sql, token: string) =>
  (
    await sql.query<{ participantId: string; entryId: string; expiresAt: Date; revokedAt: Date | null }>(
      `select l.participant_id as "participantId", p.entry_id as "entryId", l.expires_at as "expiresAt",
              l.revoked_at as "revokedAt"
         from guest_link l join participant p on p.id = l.participant_id where l.token_hash = $1`,
      [hashOf(token)],
    )
  ).rows[0] ?? null

export const noteGuestLook = async (sql: Sql, participantId: string, now: number): Promise<void> => {
  await sql.query('update participant set seen_at = coalesce(seen_at, $2) where id = $1', [
    participantId,
    at(now),
  ])
}

/** The id of a meeting by its UID, its rows locked so that two answers to it come one after the other. */
export const lockMeetingByUid = async (sql: Sql, uid: string): Promise<string | null> =>
  (await sql.query<{ id: string }>('select id from entry where uid = $1 for update', [uid])).rows[0]?.id ??
  null

export const lockMeeting = async (sql: Sql, entryId: string): Promise<void> => {
  await sql.query('select 1 from entry where id = $1 for update', [entryId])
}
