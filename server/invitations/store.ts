import { createHash, randomBytes } from 'node:crypto'
import { at, type Sql } from '../platform/database.ts'

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

/** Writes one message for each invited participant and gives their ids. Written twice, it stays one. */
export const insertMessages = async (
  sql: Sql,
  entryId: string,
  method: 'REQUEST' | 'CANCEL',
  actorId: string | null,
  now: number,
): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `insert into mail (entry_id, participant_id, method, sequence, written_at, actor_id)
       select p.entry_id, p.id, $2, e.sequence, $3, $4 from participant p join entry e on e.id = p.entry_id
        where p.entry_id = $1 and not p.organizer
       on conflict do nothing returning id`,
      [entryId, method, at(now), actorId],
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
  /** A stand-in who had it sent in the organizer’s name. */
  readonly actor: string | null
}

/** A message; `newest` is false when a later one to the same person makes it moot. */
export const findMail = async (sql: Sql, mailId: string): Promise<MailRow | null> =>
  (
    await sql.query<MailRow>(
      `select m.id, m.entry_id as "entryId", m.participant_id as "participantId", m.method, m.sequence, m.state,
              m.written_at as "writtenAt", m.sequence = e.sequence as newest,
              (select a.name from person a where a.id = m.actor_id) as actor
         from mail m join entry e on e.id = m.entry_id where m.id = $1`,
      [mailId],
    )
  ).rows[0] ?? null

export const setMailState = async (
  sql: Sql,
  mailId: string,
  state: 'sent' | 'failed',
  error: string | null,
  now: number,
) => {
  await sql.query('update mail set state = $2, error = $3, sent_at = $4 where id = $1', [
    mailId,
    state,
    error,
    at(now),
  ])
}

/**
 * Makes a guest's link, good until an instant, and gives its token, kept only as a hash. Links from before stay good:
 * a letter that is sent again after a crash may have arrived the first time too.
 */
export const makeGuestLink = async (sql: Sql, participantId: string, expires: number): Promise<string> => {
  const token = randomBytes(32).toString('base64url')
  await sql.query('insert into guest_link (token_hash, participant_id, expires_at) values ($1, $2, $3)', [
    hashOf(token),
    participantId,
    at(expires),
  ])
  return token
}

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
