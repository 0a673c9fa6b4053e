import type { Category } from '@marmot/contract/entries'
import { deleteCategory, listCategories, putCategory } from '@marmot/contract/entries'
import { isRefusedBy, type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'

/** Puts back into a category what was in it when it was deleted, and was not sorted otherwise since. */
const takeBackInto = (sql: Sql, categoryId: string, personId: string) =>
  sql.query(
    `update participant set category_id = coalesce(category_id, $1), former_category_id = null
      where former_category_id = $1 and person_id = $2`,
    [categoryId, personId],
  )

export const categoryRoutes = ({ mount, deps }: Routes): void => {
  const { pool } = deps

  mount(listCategories, async ({ asker }) => {
    const rows = await pool.query<Category>(
      'select id, name, tone from category where person_id = $1 order by name',
      [asker.id],
    )
    return { categories: rows.rows }
  })

  mount(putCategory, async ({ params, body, asker }) => {
    try {
      return await transaction(pool, async (sql) => {
        const rows = await sql.query<Category>(
          `insert into category (id, person_id, name, tone) values ($1, $2, $3, $4)
           on conflict (id) do update set name = excluded.name, tone = excluded.tone where category.person_id = $2
           returning id, name, tone`,
          [params.categoryId, asker.id, body.name, body.tone],
        )
        const [category] = rows.rows
        if (!category) throw notFound('category of yours')
        await takeBackInto(sql, category.id, asker.id)
        await tellTime(sql, [asker.id])
        return category
      })
    } catch (error) {
      if (!isRefusedBy(error, 'category_person_id_name_key')) throw error
      throw new ProblemError(409, 'name-taken', `You have a category called "${body.name}" already.`, {
        fields: [{ path: 'name', message: 'is there already' }],
      })
    }
  })

  mount(deleteCategory, async ({ params, asker }) => {
    await transaction(pool, async (sql) => {
      await sql.query(
        `update participant p set former_category_id = p.category_id from category c
          where p.category_id = c.id and c.id = $1 and c.person_id = $2`,
        [params.categoryId, asker.id],
      )
      const gone = await sql.query('delete from category where id = $1 and person_id = $2', [
        params.categoryId,
        asker.id,
      ])
      if (!gone.rowCount) throw notFound('category of yours')
      await tellTime(sql, [asker.id])
    })
    return {}
  })
}
