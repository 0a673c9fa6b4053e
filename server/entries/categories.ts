import type { Category } from '@marmot/contract/entries'
import { deleteCategory, listCategories, putCategory } from '@marmot/contract/entries'
import { isRefusedBy } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'

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
      const rows = await pool.query<Category>(
        `insert into category (id, person_id, name, tone) values ($1, $2, $3, $4)
         on conflict (id) do update set name = excluded.name, tone = excluded.tone where category.person_id = $2
         returning id, name, tone`,
        [params.categoryId, asker.id, body.name, body.tone],
      )
      const [category] = rows.rows
      if (!category) throw notFound('category of yours')
      await tellTime(pool, [asker.id])
      return category
    } catch (error) {
      if (!isRefusedBy(error, 'category_person_id_name_key')) throw error
      throw new ProblemError(409, 'name-taken', `You have a category called "${body.name}" already.`, {
        fields: [{ path: 'name', message: 'is there already' }],
      })
    }
  })

  mount(deleteCategory, async ({ params, asker }) => {
    const gone = await pool.query('delete from category where id = $1 and person_id = $2', [
      params.categoryId,
      asker.id,
    ])
    if (!gone.rowCount) throw notFound('category of yours')
    await tellTime(pool, [asker.id])
    return {}
  })
}
