import { contactsEvent } from '@marmot/contract/contacts'
import type { Domain } from '../platform/house.ts'
import { contactsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: contactsRoutes,
  events: [{ event: contactsEvent }],
}
