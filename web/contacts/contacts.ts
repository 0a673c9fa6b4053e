import {
  type Contact,
  type createContact as CreateContact,
  changeContact,
  contactsEvent,
  createContact,
  deleteContact,
  importContacts,
  listAbout,
  listContacts,
  readContact,
  restoreContact,
  setAbout,
} from '@marmot/contract/contacts'
import { deleteFeed, putFeed } from '@marmot/contract/feeds'
import { todosEvent } from '@marmot/contract/todo'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import type { z } from 'zod'
import { call, upload } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'

const contactsKey = (...asked: readonly string[]) => ['contacts', ...asked]

/** The people outside with whom I have to do, by name. */
export const useContacts = () =>
  useQuery({
    queryKey: contactsKey('all'),
    queryFn: ({ signal }) => call(listContacts, { signal }),
    meta: { heeds: [heed(contactsEvent), ...ON_MY_TIME] },
  })

/** One of them, with everything that was arranged with them. */
export const useContact = (contactId: string | null) =>
  useQuery({
    queryKey: contactsKey('one', contactId ?? ''),
    queryFn: ({ signal }) => call(readContact, { params: { contactId: contactId ?? '' }, signal }),
    enabled: contactId !== null,
    meta: { heeds: [heed(contactsEvent), heed(todosEvent), ...ON_MY_TIME] },
  })

/** Something that can be about somebody. */
export interface Subject {
  readonly kind: 'entry' | 'todo'
  readonly id: string
}

/** Whom something is about. */
export const useAbout = ({ kind, id }: Subject) =>
  useQuery({
    queryKey: contactsKey('about', kind, id),
    queryFn: ({ signal }) => call(listAbout, { query: { kind, id }, signal }),
    meta: { heeds: [heed(contactsEvent)] },
  })

export type ContactBody = z.input<(typeof CreateContact)['body']>

/** How often somebody's free/busy times are read, in minutes. */
const EVERY = 60

/** What of a contact decides whether, and where, their free/busy times are read. */
const readFrom = (contact: Contact | null): string =>
  contact?.freeBusy && contact.addresses[0] ? `${contact.freeBusy} ${contact.addresses[0]}` : ''

/** A contact's free/busy times count when one arranges something with them: they are read as a feed that has the contact's own id. */
const readTheirTime = async (next: Contact | null, before: Contact | null): Promise<void> => {
  const contact = next ?? before
  if (!contact || readFrom(next) === readFrom(before)) return
  const feedId = contact.id
  const [guest] = contact.addresses
  if (!next || !readFrom(next)) {
    await call(deleteFeed, { params: { feedId } }).catch(() => undefined)
    return
  }
  const failed = (words: string) =>
    toast.error(`The free/busy times of ${next.name} cannot be read: ${words}`)
  try {
    const body = { name: next.name, address: next.freeBusy ?? '', everyMinutes: EVERY, beside: false }
    const read = await call(putFeed, {
      params: { feedId },
      body: { ...body, whose: 'guest' as const, guest: guest ?? null },
    })
    if (read.trouble) failed(read.trouble)
  } catch (error) {
    failed(problemWords(error))
  }
}

/** Makes, changes and deletes contacts, each with a way back. */
export const useContactWrites = () => {
  const say = useUndo()
  const queries = useQueryClient()
  const refresh = () => queries.invalidateQueries({ queryKey: contactsKey() })
  const remove = async (contact: Contact) => {
    const { id, name } = contact
    await call(deleteContact, { params: { contactId: id } })
    await readTheirTime(null, contact)
    say({
      words: `${name} is deleted from your contacts`,
      undo: async () => {
        await readTheirTime(await call(restoreContact, { params: { contactId: id } }), null)
        await refresh()
      },
    })
    await refresh()
  }
  return {
    remove,
    make: async (body: ContactBody, key: string): Promise<Contact> => {
      const made = await call(createContact, { body, key })
      await readTheirTime(made, null)
      say({
        words: `${made.name} is among your contacts`,
        undo: async () => {
          await call(deleteContact, { params: { contactId: made.id } })
          await readTheirTime(null, made)
          await refresh()
        },
      })
      await refresh()
      return made
    },
    change: async (before: Contact, body: ContactBody): Promise<Contact> => {
      const put = (next: ContactBody, version: number) =>
        call(changeContact, { params: { contactId: before.id }, body: { ...next, version } })
      const changed = await put(body, before.version)
      await readTheirTime(changed, before)
      say({
        words: `${changed.name} is changed`,
        undo: async () => {
          await readTheirTime(await put(before, changed.version), changed)
          await refresh()
        },
      })
      await refresh()
      return changed
    },
    setAbout: async (contactId: string, { kind, id }: Subject, about: boolean) => {
      await call(setAbout, { params: { contactId }, body: { kind, id, about } })
      await refresh()
    },
    /** Has somebody's free/busy times count from now on. */
    readTime: (contact: Contact) => readTheirTime(contact, null),
    /** Looks at a file of contacts, or takes it in. */
    file: async (bytes: Blob, take: boolean) => {
      const path = `${importContacts.path}?take=${take ? 'yes' : 'no'}`
      const done = importContacts.answer.parse(await upload(path, bytes))
      if (take) await refresh()
      return done
    },
  }
}

/** Which contact is open beside the screen, or a new one. */
export const useContactInAddress = () => {
  const [search, setSearch] = useSearchParams()
  return {
    open: search.get('contact'),
    show: (which: string | null) =>
      setSearch((before) => {
        const next = new URLSearchParams(before)
        for (const name of ['meeting', 'date', 'change', 'todo']) next.delete(name)
        if (which) next.set('contact', which)
        else next.delete('contact')
        return next
      }),
  }
}
