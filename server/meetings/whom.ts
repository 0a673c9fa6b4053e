import type { Invited } from '../entries/index.ts'
import { peopleByAddress, peopleByIds } from '../people/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'

/** Colleagues and guests, as they were chosen. */
export interface Chosen {
  readonly people: readonly { id: string; required: boolean; everyDate?: boolean | undefined }[]
  readonly guests: readonly {
    address: string
    name: string
    required: boolean
    everyDate?: boolean | undefined
  }[]
}

/** Everybody to invite, each once; the organizer, where one is given, is there already. Throws when somebody does not exist. */
export const whomToInvite = async (
  sql: Sql,
  chosen: Chosen,
  organizerId: string | null,
): Promise<Invited[]> => {
  if (chosen.people.length + chosen.guests.length === 0) return []
  const [known, colleagues] = await together([
    peopleByIds(
      sql,
      chosen.people.map((person) => person.id),
    ),
    peopleByAddress(
      sql,
      chosen.guests.map((guest) => guest.address),
    ),
  ])
  const missing = chosen.people.findIndex((person) => !known.some((one) => one.id === person.id))
  if (missing >= 0)
    throw new ProblemError(
      422,
      'no-such-person',
      'One of the people is not in the directory any more. Nothing was sent or changed.',
      {
        fields: [{ path: `people.${missing}`, message: 'is not in the directory' }],
      },
    )
  const invited = new Map<string, Invited>()
  for (const { id, ...how } of chosen.people)
    if (id !== organizerId) invited.set(id, { personId: id, address: null, name: '', ...how })
  for (const guest of chosen.guests) {
    const colleague = colleagues.find((one) => one.address === guest.address)?.id
    if ((colleague && colleague === organizerId) || (colleague && invited.has(colleague))) continue
    invited.set(colleague ?? guest.address, {
      personId: colleague ?? null,
      address: colleague ? null : guest.address,
      name: colleague ? '' : guest.name,
      required: guest.required,
      everyDate: guest.everyDate,
    })
  }
  return [...invited.values()]
}
