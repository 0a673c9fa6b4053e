import { type ListColumn, listOfReservations } from '@marmot/contract/reservations'
import { reservationsEvent } from '@marmot/contract/resources'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'

/** What of reservations is listed, and how. */
export interface ListAsked {
  readonly whose: 'mine' | 'cared'
  readonly from: string
  readonly to: string
  readonly find: string
  readonly kind?: 'room' | 'lab' | 'desk' | 'equipment'
  readonly site?: string
  readonly sort: ListColumn
  readonly down: boolean
  readonly group?: ListColumn
}

export const PAGE = 50

/** What is asked, as the contract has it in an address. */
export const askedQuery = ({ down, ...asked }: ListAsked) => ({
  ...asked,
  down: down ? ('true' as const) : ('false' as const),
})

/** A page of reservations. */
export const useReservationList = (asked: ListAsked, page: number) =>
  useQuery({
    queryKey: ['reservations', 'list', asked, page],
    queryFn: ({ signal }) =>
      call(listOfReservations, { query: { ...askedQuery(asked), first: page * PAGE, many: PAGE }, signal }),
    placeholderData: keepPreviousData,
    meta: { heeds: [heed(reservationsEvent)] },
  })
