import { contactsEvent } from '@marmot/contract/contacts'
import { transaction } from '../platform/database.ts'
import type { Domain } from '../platform/house.ts'
import { contactsRoutes } from './routes.ts'
import { settleContacts } from './store.ts'

export const domain: Domain = {
  routes: contactsRoutes,
  minutely: {
    contacts: ({ pool, clock }) => transaction(pool, (sql) => settleContacts(sql, null, clock())),
  },
  events: [{ event: contactsEvent }],
}
