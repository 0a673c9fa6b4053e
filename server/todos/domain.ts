import { todosEvent } from '@marmot/contract/todo'
import type { Domain } from '../platform/house.ts'
import { todosRoutes } from './routes.ts'

export const domain: Domain = {
  routes: todosRoutes,
  events: [{ event: todosEvent }],
}
