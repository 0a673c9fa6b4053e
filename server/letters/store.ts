import { at, type Sql, wallSql } from '../platform/database.ts'

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

/** The newest invitation that was written to a participant. */
export const invitationTo = async (sql: Sql, participantId: string): Promise<string | null> =>
  (
    await sql.query<{ id: string }>(
      `select id from mail where participant_id = $1 and method = 'REQUEST' and recurrence is null
        order by sequence desc limit 1`,
      [participantId],
    )
  ).rows[0]?.id ?? null

/** What became of the last letter to each participant of some entries, by the participant's id. */
export interface LetterState {
  readonly mail: 'waiting' | 'sent' | 'failed'
  readonly mailMethod: 'REQUEST' | 'CANCEL'
}

export const lettersOf = async (sql: Sql, entryIds: readonly string[]): Promise<Map<string, LetterState>> => {
  const rows = await sql.query<LetterState & { participantId: string }>(
    `select distinct on (participant_id) participant_id as "participantId", state as mail, method as "mailMethod"
       from mail where entry_id = any($1) and recurrence is null
      order by participant_id, sequence desc, written_at desc`,
    [entryIds],
  )
  return new Map(rows.rows.map(({ participantId, ...state }) => [participantId, state]))
}
