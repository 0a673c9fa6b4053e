import type { ListedReservation } from '@marmot/contract/reservations'
import { stringify } from 'csv-stringify/sync'
import type { ThreadWork } from '../platform/threads.ts'
import { type Listing, listReservationsFor } from './listing.ts'

const COLUMNS = [
  { key: 'start', header: 'Start' },
  { key: 'end', header: 'End' },
  { key: 'place', header: 'Place' },
  { key: 'kind', header: 'Kind' },
  { key: 'site', header: 'Site' },
  { key: 'by', header: 'Reserved by' },
  { key: 'title', header: 'What for' },
  { key: 'purpose', header: 'Purpose' },
  { key: 'headCount', header: 'How many' },
  { key: 'contact', header: 'Contact' },
  { key: 'state', header: 'State' },
]

/**
 * Reservations as CSV (RFC 4180), a line each. What a spreadsheet would take for a formula is marked as text, and what comes first
 * says that it is UTF-8, since some read nothing else right.
 */
const csvOf = (reservations: readonly ListedReservation[]): string =>
  stringify(
    reservations.map(({ contact, state, ...one }) => ({
      ...one,
      contact: contact ? [contact.name, contact.telephone, contact.address].filter(Boolean).join(', ') : '',
      state: { held: 'held', requested: 'to be approved', taken: 'reserved' }[state],
    })),
    { header: true, columns: COLUMNS, bom: true, escape_formulas: true, record_delimiter: '\r\n' },
  )

/** Which reservations are written, for whom. */
export interface Listed {
  readonly askerId: string
  readonly listing: Listing
  readonly now: number
}

/** Reads a list of reservations and writes it as CSV; in a thread of its own, since it may have thousands of lines. */
export const csvInThread: ThreadWork<Listed, string> = async ({ askerId, listing, now }, { pool }) =>
  csvOf((await listReservationsFor(pool, askerId, listing, now)).reservations)
