import { deleteCategory, listCategories, putCategory } from '@marmot/contract/entries'
import { isRefusedBy, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import * as store from './categories.ts'

export const categoryRoutes = ({ mount, deps }: Routes): void => {
  const { pool } = deps

  mount(listCategories, async ({ asker }) => ({ categories: await store.listCategories(pool, asker.id) }))

  mount(putCategory, async ({ params, body, asker }) => {
    try {
      return await transaction(pool, async (sql) => {
        const category = await store.putCategory(sql, asker.id, { ...body, id: params.categoryId })
        if (!category) throw notFound('category of yours')
        await tellTime(sql, [asker.id])
        return category
      })
    } catch (error) {
      if (!isRefusedBy(error, store.NAME_TAKEN)) throw error
      throw new ProblemError(409, 'name-taken', `You have a category called "${body.name}" already.`, {
        fields: [{ path: 'name', message: 'is there already' }],
      })
    }
  })

  mount(deleteCategory, ({ params, asker }) =>
    transaction(pool, async (sql) => {
      if (!(await store.deleteCategory(sql, asker.id, params.categoryId))) throw notFound('category of yours')
      await tellTime(sql, [asker.id])
      return {}
    }),
  )
}
