import type { Category } from '@marmot/contract/entries'
import type { Sql } from '../platform/database.ts'

/** A person's categories. */
export const listCategories = async (sql: Sql, personId: string): Promise<Category[]> =>
  (
    await sql.query<Category>('select id, name, tone from category where person_id = $1 order by name', [
      personId,
    ])
  ).rows

/** The name PostgreSQL gives the refusal of a second category of one name. */
export const NAME_TAKEN = 'category_person_id_name_key'

/**
 * Makes a category of a person's, or changes it; one that was deleted gets back what was in it and was not sorted
 * otherwise since. Null when it is somebody else's. The database refuses a name that they have already (`NAME_TAKEN`).
 */
export const putCategory = async (sql: Sql, personId: string, given: Category): Promise<Category | null> => {
  const rows = await sql.query<Category>(
    `insert into category (id, person_id, name, tone) values ($1, $2, $3, $4)
     on conflict (id) do update set name = excluded.name, tone = excluded.tone where category.person_id = $2
     returning id, name, tone`,
    [given.id, personId, given.name, given.tone],
  )
  const [category] = rows.rows
  if (!category) return null
  await sql.query(
    `update participant set category_id = coalesce(category_id, $1), former_category_id = null
      where former_category_id = $1 and person_id = $2`,
    [category.id, personId],
  )
  return category
}

/** Deletes a category of a person's; what was in it has none. False when there is none such. */
export const deleteCategory = async (sql: Sql, personId: string, categoryId: string): Promise<boolean> => {
  await sql.query(
    `update participant p set former_category_id = p.category_id from category c
      where p.category_id = c.id and c.id = $1 and c.person_id = $2`,
    [categoryId, personId],
  )
  const gone = await sql.query('delete from category where id = $1 and person_id = $2', [
    categoryId,
    personId,
  ])
  return (gone.rowCount ?? 0) > 0
}

/** The owner's categories by name; those that are missing are made. */
export const categoriesFor = async (
  sql: Sql,
  ownerId: string,
  names: readonly string[],
): Promise<Map<string, string>> => {
  await sql.query(
    `insert into category (person_id, name, tone)
     select $1, name, (row_number() over (order by name) - 1) % 10 from unnest($2::text[]) name
     on conflict (person_id, name) do nothing`,
    [ownerId, [...new Set(names)]],
  )
  const rows = await sql.query<{ id: string; name: string }>(
    'select id, name from category where person_id = $1 and name = any($2)',
    [ownerId, names],
  )
  return new Map(rows.rows.map((row) => [row.name, row.id]))
}
