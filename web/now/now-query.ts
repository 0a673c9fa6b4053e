import { listNow } from '@marmot/contract/now'
import { queryOptions } from '@tanstack/react-query'
import { call } from '../platform/api.ts'

/** What needs me now. */
export const nowQuery = queryOptions({ queryKey: ['now'], queryFn: () => call(listNow) })
