import { at, endMs, msSql, type Sql, startMs, wallSql } from '../platform/database.ts'

/** A proposal as it is kept. Instants in milliseconds. */
export interface KeptProposal {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
  readonly repeats: boolean
  readonly participantId: string
  readonly personId: string | null
  readonly name: string
  readonly start: number
  readonly end: number
  readonly message: string
  readonly at: Date
}

/**
 * SQL: a proposal is open while the date is at the time that it is to leave, whatever became of it otherwise: one that was
 * taken is open again when that is taken back.
 */
const OPEN = `x.state in ('open', 'taken') and x.instead = o.span and o.gone_at is null and lower(x.span) > $2`

const PROPOSAL = `x.id, o.entry_id as "entryId", ${wallSql('o.recurrence')} as recurrence, e.rule is not null as repeats, p.id as "participantId",
  p.person_id as "personId", coalesce(w.name, nullif(p.guest_name, ''), p.guest_address) as name,
  ${startMs('x.span')} as start, ${endMs('x.span')} as end, x.message, x.made_at as at`

const FROM = `from proposal x join occurrence o on o.id = x.occurrence_id join entry e on e.id = o.entry_id
  join participant p on p.id = x.participant_id and p.entry_id = o.entry_id left join person w on w.id = p.person_id`

/** The open proposals for some meetings, oldest first. */
export const openProposals = async (
  sql: Sql,
  entryIds: readonly string[],
  now: number,
): Promise<KeptProposal[]> =>
  (
    await sql.query<KeptProposal>(
      `select ${PROPOSAL} ${FROM} where o.entry_id = any($1) and ${OPEN} order by x.made_at, x.id`,
      [entryIds, at(now)],
    )
  ).rows

/** The meeting that a proposal is for, whatever became of it. */
export const entryOfProposal = async (sql: Sql, proposalId: string): Promise<string | null> =>
  (
    await sql.query<{ entryId: string }>(
      'select o.entry_id as "entryId" from proposal x join occurrence o on o.id = x.occurrence_id where x.id = $1',
      [proposalId],
    )
  ).rows[0]?.entryId ?? null

/** When somebody last proposed another time for a date, by their clock, and how often they did since an instant. */
export const lastProposal = async (
  sql: Sql,
  participantId: string,
  occurrenceId: string,
  since: number,
): Promise<{ made: number | null; often: number }> =>
  (
    await sql.query<{ made: number | null; often: number }>(
      `select max(${msSql('stamp')}) filter (where occurrence_id = $2) as made,
              count(*) filter (where made_at > $3) as often
         from proposal where participant_id = $1`,
      [participantId, occurrenceId, at(since)],
    )
  ).rows[0] ?? { made: null, often: 0 }

/** Keeps a proposal for a date as it stands, in the place of one that the same participant made for it before. */
export const insertProposal = async (
  sql: Sql,
  given: {
    readonly participantId: string
    readonly occurrenceId: string
    readonly start: number
    readonly end: number
    readonly message: string
    readonly stamp: number
  },
  now: number,
): Promise<string> => {
  await sql.query(
    `update proposal set state = 'withdrawn' where participant_id = $1 and occurrence_id = $2 and state = 'open'`,
    [given.participantId, given.occurrenceId],
  )
  const rows = await sql.query<{ id: string }>(
    `insert into proposal (participant_id, occurrence_id, span, instead, message, made_at, stamp)
     select $1, o.id, tstzrange($3, $4), o.span, $5, $6, $7 from occurrence o where o.id = $2 returning id`,
    [
      given.participantId,
      given.occurrenceId,
      at(given.start),
      at(given.end),
      given.message,
      at(now),
      at(given.stamp),
    ],
  )
  return rows.rows[0]?.id ?? ''
}

export const setProposalState = async (
  sql: Sql,
  proposalId: string,
  state: 'taken' | 'refused' | 'withdrawn',
): Promise<void> => {
  await sql.query('update proposal set state = $2 where id = $1', [proposalId, state])
}

/** Closes what was proposed for a meeting elsewhere: whoever organizes it keeps the time that it has. */
export const closeProposals = async (sql: Sql, entryId: string): Promise<void> => {
  await sql.query(
    `update proposal x set state = 'refused' from occurrence o
      where o.id = x.occurrence_id and o.entry_id = $1 and x.state = 'open'`,
    [entryId],
  )
}
