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
import { todosEvent } from '@marmot/contract/todo'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import type { z } from 'zod'
import { call, upload } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'
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

/** Makes, changes and deletes contacts, each with a way back. */
export const useContactWrites = () => {
  const say = useUndo()
  const queries = useQueryClient()
  const refresh = () => queries.invalidateQueries({ queryKey: contactsKey() })
  const remove = async ({ id, name }: Contact) => {
    await call(deleteContact, { params: { contactId: id } })
    say({
      words: `${name} is deleted from your contacts`,
      undo: async () => {
        await call(restoreContact, { params: { contactId: id } })
        await refresh()
      },
    })
    await refresh()
  }
  return {
    remove,
    make: async (body: ContactBody, key: string): Promise<Contact> => {
      const made = await call(createContact, { body, key })
      say({
        words: `${made.name} is among your contacts`,
        undo: async () => {
          await call(deleteContact, { params: { contactId: made.id } })
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
      say({
        words: `${changed.name} is changed`,
        undo: async () => {
          await put(before, changed.version)
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
