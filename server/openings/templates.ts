import type { Template } from '@marmot/contract/openings'
import type { Sql } from '../platform/database.ts'

const MOST_TEMPLATES = 100

/** A person's templates, the one used last first. */
export const templatesOf = async (sql: Sql, personId: string): Promise<Template[]> => {
  const rows = await sql.query<Omit<Template, 'usedAt'> & { usedAt: Date }>(
    `select id, name, brief, used_at as "usedAt" from brief_template where person_id = $1
      order by used_at desc limit $2`,
    [personId, MOST_TEMPLATES],
  )
  return rows.rows.map((row) => ({ ...row, usedAt: row.usedAt.toISOString() }))
}

/** Keeps a template of a person's. False when it is somebody else's. */
export const keepTemplate = async (sql: Sql, personId: string, template: Template): Promise<boolean> =>
  ((
    await sql.query(
      `insert into brief_template (id, person_id, name, brief, used_at) values ($1, $2, $3, $4, $5)
       on conflict (id) do update set name = excluded.name, brief = excluded.brief, used_at = excluded.used_at
         where brief_template.person_id = $2`,
      [template.id, personId, template.name, JSON.stringify(template.brief), template.usedAt],
    )
  ).rowCount ?? 0) > 0

/** False when there is no such template of the person's. */
export const removeTemplate = async (sql: Sql, templateId: string, personId: string): Promise<boolean> =>
  ((await sql.query('delete from brief_template where id = $1 and person_id = $2', [templateId, personId]))
    .rowCount ?? 0) > 0
