import type { ReservationOnWire } from '@marmot/contract/resources'
import type { Holding } from '@marmot/core/reservations'

/** A reservation as core judges by it. */
export const instantsOf = ({ start, end, by }: ReservationOnWire): Holding => ({
  start: Date.parse(start),
  end: Date.parse(end),
  by,
})
