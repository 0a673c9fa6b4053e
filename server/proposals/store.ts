import { at, endMs, msSql, type Sql, startMs, wallSql } from '../platform/database.ts'

/** A proposal as it is kept. Instants in milliseconds. */
export interface KeptProposal {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
  readonly repeats: boolean
  /** Who proposes it as one who is invited; null where the steward of a place that is asked for does. */
  readonly participantId: string | null
  /** The place whose steward proposes it. */
  readonly place: { readonly id: string; readonly name: string } | null
  readonly personId: string | null
  readonly name: string
  readonly start: number
  readonly end: number
  readonly message: string
  readonly at: Date
}

/**
 * SQL: a proposal is open while the date is at the time that it is to leave, whatever became of it otherwise: one that was
 * taken is open again when that is taken back. A steward's is open while their place is still asked for.
 */
const OPEN = `x.state in ('open', 'taken') and x.instead = o.span and o.gone_at is null and lower(x.span) > $2
  and (x.resource_id is null or l.steward_id = x.steward_id and exists (
    select 1 from reservation r where r.occurrence_id = o.id and r.resource_id = x.resource_id and r.state = 'requested'))`

const PROPOSAL = `x.id, o.entry_id as "entryId", ${wallSql('o.recurrence')} as recurrence, e.rule is not null as repeats, p.id as "participantId",
  case when x.resource_id is not null then json_build_object('id', x.resource_id, 'name', l.name) end as place,
  w.id as "personId", coalesce(w.name, nullif(p.guest_name, ''), p.guest_address) as name,
  ${startMs('x.span')} as start, ${endMs('x.span')} as end, x.message, x.made_at as at`

const FROM = `from proposal x join occurrence o on o.id = x.occurrence_id join entry e on e.id = o.entry_id
  left join participant p on p.id = x.participant_id left join resource l on l.id = x.resource_id
  left join person w on w.id = coalesce(p.person_id, x.steward_id)`
/** SQL: one that belongs to somebody who was taken out of the meeting does not count. */
const STANDS = '(x.participant_id is null or p.entry_id = o.entry_id)'

/** The open proposals for some meetings, oldest first. */
export const openProposals = async (
  sql: Sql,
  entryIds: readonly string[],
  now: number,
): Promise<KeptProposal[]> =>
  (
    await sql.query<KeptProposal>(
      `select ${PROPOSAL} ${FROM} where o.entry_id = any($1) and ${STANDS} and ${OPEN} order by x.made_at, x.id`,
      [entryIds, at(now)],
    )
  ).rows

/**
 * The open proposals of stewards that somebody has to do with: for what they themselves reserve, or those that they made; what
 * comes first, first.
 */
export const openOfStewards = async (
  sql: Sql,
  personId: string,
  now: number,
  most: number,
): Promise<KeptProposal[]> =>
  (
    await sql.query<KeptProposal>(
      `select ${PROPOSAL} ${FROM}
        where x.resource_id is not null and (e.owner_id = $1 or x.steward_id = $1) and ${OPEN} order by lower(x.span), x.id limit $3`,
      [personId, at(now), most],
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

/** Who proposes: somebody who is invited, or the steward of a place that is asked for. */
export type Proposer =
  | { readonly participantId: string }
  | { readonly resourceId: string; readonly stewardId: string }

/** SQL that finds what a proposer made before, by the id at `$1`. */
const madeBy = (who: Proposer): string =>
  'participantId' in who ? 'participant_id = $1' : 'resource_id = $1'
const idOf = (who: Proposer): string => ('participantId' in who ? who.participantId : who.resourceId)

/** When somebody last proposed another time for a date, by their clock, and how often they did since an instant. */
export const lastProposal = async (
  sql: Sql,
  who: Proposer,
  occurrenceId: string,
  since: number,
): Promise<{ made: number | null; often: number }> =>
  (
    await sql.query<{ made: number | null; often: number }>(
      `select max(${msSql('stamp')}) filter (where occurrence_id = $2) as made,
              count(*) filter (where made_at > $3) as often
         from proposal where ${madeBy(who)}`,
      [idOf(who), occurrenceId, at(since)],
    )
  ).rows[0] ?? { made: null, often: 0 }

/** Keeps a proposal for a date as it stands, in the place of one that the same proposer made for it before. */
export const insertProposal = async (
  sql: Sql,
  who: Proposer,
  given: {
    readonly occurrenceId: string
    readonly start: number
    readonly end: number
    readonly message: string
    readonly stamp: number
  },
  now: number,
): Promise<string> => {
  await sql.query(
    `update proposal set state = 'withdrawn' where ${madeBy(who)} and occurrence_id = $2 and state = 'open'`,
    [idOf(who), given.occurrenceId],
  )
  const rows = await sql.query<{ id: string }>(
    `insert into proposal (participant_id, occurrence_id, span, instead, message, made_at, stamp, resource_id, steward_id)
     select $1, o.id, tstzrange($3, $4), o.span, $5, $6, $7, $8, $9 from occurrence o where o.id = $2 returning id`,
    [
      'participantId' in who ? who.participantId : null,
      given.occurrenceId,
      at(given.start),
      at(given.end),
      given.message,
      at(now),
      at(given.stamp),
      'resourceId' in who ? who.resourceId : null,
      'resourceId' in who ? who.stewardId : null,
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
