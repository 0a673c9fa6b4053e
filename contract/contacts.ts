import { MOST_ADDRESSES, MOST_CARD_NOTE } from '@marmot/core/contacts'
import { z } from 'zod'
import { event } from './live.ts'
import { address, id, instant, route, wall } from './route.ts'

const said = {
  name: z.string().trim().min(1, 'is missing').max(200),
  organisation: z.string().trim().max(200).default(''),
  addresses: z.array(address).max(MOST_ADDRESSES).default([]),
  telephone: z.string().trim().max(60).default(''),
  zone: z.string().max(100).nullable().default(null),
  note: z.string().max(MOST_CARD_NOTE).default(''),
  /** Where their free/busy times can be read. */
  freeBusy: z
    .url({ protocol: /^https?$/ })
    .max(2000)
    .nullable()
    .default(null),
}

export const contact = z.object({
  ...said,
  id,
  /** Whether it was made by an invitation, by hand, or came in a file. */
  madeBy: z.enum(['invitation', 'hand', 'file']),
  version: z.number(),
  /** When something was last arranged with them; null where nothing was. */
  lastAt: instant.nullable(),
})
export type Contact = z.infer<typeof contact>

/** A contact as a list has it. It may have thousands, so that nothing of them is checked once more on the way out. */
export const listedContact = z.object({
  id: z.string(),
  name: z.string(),
  organisation: z.string(),
  addresses: z.array(z.string()),
  telephone: z.string(),
  madeBy: contact.shape.madeBy,
  lastAt: z.string().nullable(),
})
export type ListedContact = z.infer<typeof listedContact>

/** Something that was arranged with somebody, or is about them. */
export const arranged = z.object({
  kind: z.enum(['meeting', 'entry', 'todo']),
  /** The entry's id, or the to-do's. */
  id,
  recurrence: wall.nullable(),
  title: z.string(),
  /** Of a to-do when it is due, if at all. */
  start: instant.nullable(),
  end: instant.nullable(),
  done: z.boolean(),
})
export type Arranged = z.infer<typeof arranged>

export const listContacts = route({
  method: 'GET',
  path: '/api/contacts',
  summary: 'The people outside with whom I have to do.',
  who: 'person',
  answer: () => z.object({ contacts: z.array(listedContact), more: z.boolean() }),
})

export const readContact = route({
  method: 'GET',
  path: '/api/contacts/:contactId',
  summary: 'A contact of mine, with everything that was arranged with them or is about them.',
  who: 'person',
  params: () => z.object({ contactId: id }),
  answer: () => z.object({ contact, arranged: z.array(arranged), more: z.boolean() }),
})

export const createContact = route({
  method: 'POST',
  path: '/api/contacts',
  summary: 'Make a contact by hand.',
  who: 'person',
  repeatable: true,
  body: () => z.object(said),
  answer: () => contact,
})

export const changeContact = route({
  method: 'PUT',
  path: '/api/contacts/:contactId',
  summary: 'Change a contact as it was at `version`.',
  who: 'person',
  params: () => z.object({ contactId: id }),
  body: () => z.object({ ...said, version: z.number().int() }),
  answer: () => contact,
})

export const deleteContact = route({
  method: 'DELETE',
  path: '/api/contacts/:contactId',
  summary: 'Delete a contact of mine.',
  who: 'person',
  params: () => z.object({ contactId: id }),
})

export const restoreContact = route({
  method: 'POST',
  path: '/api/contacts/:contactId/restore',
  summary: 'Bring back a contact of mine that was deleted.',
  who: 'person',
  params: () => z.object({ contactId: id }),
  answer: () => contact,
})

export const listAbout = route({
  method: 'GET',
  path: '/api/contacts/about',
  summary: 'Which contacts of mine an entry or a to-do is about.',
  who: 'person',
  query: () => z.object({ kind: z.enum(['entry', 'todo']), id }),
  answer: () => z.object({ contacts: z.array(z.object({ id, name: z.string() })) }),
})

export const setAbout = route({
  method: 'PUT',
  path: '/api/contacts/:contactId/about',
  summary: 'Say that an entry or a to-do of mine is about a contact, or is not.',
  who: 'person',
  params: () => z.object({ contactId: id }),
  body: () =>
    z.object({
      kind: z.enum(['entry', 'todo']),
      id,
      about: z.boolean(),
    }),
})

export const MOST_CARDS_BYTES = 20 * 1024 * 1024

export const importContacts = route({
  method: 'POST',
  path: '/api/contacts/file',
  summary:
    'Look at a file of vCards (the body is its bytes), or with `take` take it in, all of it or nothing.',
  who: 'person',
  rawBytes: MOST_CARDS_BYTES,
  query: () => z.object({ take: z.enum(['yes', 'no']).default('no') }),
  answer: () =>
    z.object({
      made: z.number(),
      changed: z.number(),
      same: z.number(),
      refused: z.array(z.object({ line: z.number(), title: z.string(), reason: z.string() })),
      samples: z.array(z.object({ name: z.string(), change: z.enum(['made', 'changed']) })),
    }),
})

/** What a file of contacts does. */
export type CardsDone = z.infer<(typeof importContacts)['answer']>

export const exportContacts = route({
  method: 'GET',
  path: '/api/contacts/file',
  summary: 'My contacts as vCards of version 4.',
  who: 'person',
  answersFile: true,
})

/** Contacts changed, for those whose they are. */
export const contactsEvent = event('contacts', { people: z.array(id) })
