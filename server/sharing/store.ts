import { type Does, type Grant, levelFor, type Sees } from '@marmot/core/sharing'
import type { Sql } from '../platform/database.ts'

type Level = { readonly sees: Sees; readonly does: Does }

/** The level at which a viewer looks at each owner's time, decided by core. Every owner asked for has one. */
export const levelsFor = async (
  sql: Sql,
  viewerId: string,
  ownerIds: readonly string[],
  now: number,
): Promise<Map<string, Level>> => {
  const teams = await sql.query<{ team_id: string }>('select team_id from team_member where person_id = $1', [
    viewerId,
  ])
  const rows = await sql.query<
    { owner_id: string; team_id: string | null; person_id: string | null } & Level & { until: Date | null }
  >('select owner_id, team_id, person_id, sees, does, until from sharing where owner_id = any($1)', [
    ownerIds,
  ])
  const grants = new Map<string, Grant[]>()
  for (const row of rows.rows) {
    const to = row.person_id ? 'person' : row.team_id ? 'team' : 'organisation'
    const grant: Grant = {
      to,
      id: row.person_id ?? row.team_id,
      sees: row.sees,
      does: row.does,
      until: row.until?.getTime() ?? null,
    }
    grants.set(row.owner_id, [...(grants.get(row.owner_id) ?? []), grant])
  }
  const viewer = { id: viewerId, teams: teams.rows.map((row) => row.team_id) }
  return new Map(ownerIds.map((owner) => [owner, levelFor(owner, viewer, grants.get(owner) ?? [], now)]))
}
