import {
  type Conversation,
  conversationEvent,
  noteRead,
  readConversation,
  readConversationByLink,
  removeMessage,
  removeMessageByLink,
  restoreMessage,
  say,
  sayByLink,
} from '@marmot/contract/conversation'
import { z } from 'zod'
import { call, upload } from '../platform/api.ts'
import { heed } from '../platform/live.ts'

const added = z.object({ id: z.string(), name: z.string() })

/** How somebody comes to what is said about a meeting: signed in, or by a guest's link. */
export interface Way {
  readonly key: readonly (string | null)[]
  /** The meeting's address on the server. */
  readonly path: string
  readonly recurrence: string | null
  /** What was said, the newest of it, or what was said before an instant. */
  readonly read: (before?: string) => Promise<Conversation>
  readonly say: (text: string, files: readonly string[], key: string) => Promise<unknown>
  readonly remove: (messageId: string) => Promise<unknown>
  /** Puts back what was taken out; not by a guest's link. */
  readonly restore: ((messageId: string) => Promise<unknown>) | null
  /** Notes that all of it was read. */
  readonly seen: () => Promise<unknown>
  readonly addFile: (file: File) => Promise<{ readonly id: string; readonly name: string }>
  readonly fileAddress: (id: string) => string
  readonly heeds: readonly ReturnType<typeof heed>[]
}

const addTo = async (path: string, file: File, date: { readonly recurrence?: string }) =>
  added.parse(await upload(`${path}/files?${new URLSearchParams({ name: file.name, ...date })}`, file))

/** The way of somebody who is signed in. */
export const asPerson = (entryId: string, recurrence: string | null): Way => {
  const date = recurrence ? { recurrence } : {}
  const params = { entryId }
  const path = `/api/meetings/${entryId}`
  return {
    key: ['conversation', entryId, recurrence],
    path,
    recurrence,
    read: (before) => call(readConversation, { params, query: { ...date, ...(before ? { before } : {}) } }),
    say: (text, files, key) => call(say, { params, body: { text, files: [...files], ...date }, key }),
    remove: (messageId) => call(removeMessage, { params: { messageId } }),
    restore: (messageId) => call(restoreMessage, { params: { messageId } }),
    seen: () => call(noteRead, { params }),
    addFile: (file) => addTo(path, file, date),
    fileAddress: (id) => `/api/attachments/${id}`,
    heeds: [heed(conversationEvent, (event) => event.entryId === entryId)],
  }
}

/** The way of a guest. */
export const byLink = (token: string, recurrence: string | null): Way => {
  const date = recurrence ? { recurrence } : {}
  const params = { token }
  const path = `/api/invitations/${token}`
  return {
    key: ['conversation', token, recurrence],
    path,
    recurrence,
    read: (before) =>
      call(readConversationByLink, { params, query: { ...date, ...(before ? { before } : {}) } }),
    say: (text, files, key) => call(sayByLink, { params, body: { text, files: [...files], ...date }, key }),
    remove: (messageId) => call(removeMessageByLink, { params: { token, messageId } }),
    restore: null,
    seen: async () => undefined,
    addFile: (file) => addTo(path, file, date),
    fileAddress: (id) => `${path}/files/${id}`,
    heeds: [],
  }
}
