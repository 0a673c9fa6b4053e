import { isZone } from '@marmot/core/time'
import type { Sql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { type ContactState, colleaguesAt, holdersOf } from './store.ts'

const refused = (code: string, path: string, words: string, message: string, more = {}): ProblemError =>
  new ProblemError(422, code, words, { fields: [{ path, message }], more })

/** Refuses what no contact can be: a zone that is none, an address of a colleague's or of another contact. */
export const checkContact = async (
  sql: Sql,
  personId: string,
  state: ContactState,
  contactId: string | null,
): Promise<void> => {
  if (state.zone !== null && !isZone(state.zone))
    throw refused('unknown-zone', 'zone', `There is no time zone called "${state.zone}".`, 'is no time zone')
  if (new Set(state.addresses).size < state.addresses.length)
    throw refused('twice', 'addresses', 'One of the addresses is there twice.', 'has one twice')
  const [colleague] = await colleaguesAt(sql, state.addresses)
  if (colleague)
    throw refused(
      'is-a-colleague',
      'addresses',
      `${colleague.address} is ${colleague.name}, who works here: you find them under People.`,
      'is a colleague’s',
    )
  const other = (await holdersOf(sql, personId, state.addresses)).find((one) => one.contactId !== contactId)
  if (other)
    throw refused(
      'address-taken',
      'addresses',
      `${other.address} is with ${other.name} already. Open that contact, or leave the address out here.`,
      'is another contact’s',
      { contactId: other.contactId },
    )
}
