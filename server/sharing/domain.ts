import { sharingEvent } from '@marmot/contract/sharing'
import type { Domain } from '../platform/house.ts'
import { sharingRoutes } from './routes.ts'

export const domain: Domain = {
  routes: sharingRoutes,
  events: [{ event: sharingEvent }],
  notices: ['shared'],
}
