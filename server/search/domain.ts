import type { Domain } from '../platform/house.ts'
import { searchRoutes } from './routes.ts'

export const domain: Domain = { routes: searchRoutes }
