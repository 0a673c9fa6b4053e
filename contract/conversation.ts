import { MOST_WORDS } from '@marmot/core/conversation'
import { z } from 'zod'
import { MOST_FILE_BYTES } from './entries.ts'
import { event } from './live.ts'
import { id, instant, route, wall } from './route.ts'

/** A file of a meeting: attached to all of it, or to one of its dates. */
export const meetingFile = z.object({
  id,
  name: z.string(),
  type: z.string(),
  size: z.number(),
  /** Who added it. */
  who: z.string(),
  at: instant,
  /** Whether the asker may take it off. */
  mayRemove: z.boolean(),
  /** Of a series: the date that it belongs to; null for all of them. */
  recurrence: wall.nullable(),
})
export type MeetingFile = z.infer<typeof meetingFile>

/** Something that was said about a meeting. */
export const message = z.object({
  id,
  who: z.string(),
  mine: z.boolean(),
  text: z.string(),
  at: instant,
  /** Of a series: the date at which it was said. */
  recurrence: wall.nullable(),
  files: z.array(id),
})
export type Message = z.infer<typeof message>

const conversation = z.object({
  /** Oldest first. */
  messages: z.array(message),
  /** Whether there are older ones. */
  more: z.boolean(),
  /** How many the asker has not read. */
  unread: z.number(),
  files: z.array(meetingFile),
  /** Who can be meant by name. */
  names: z.array(z.string()),
})
export type Conversation = z.infer<typeof conversation>

const said = z.object({
  text: z.string().trim().max(MOST_WORDS, `is longer than ${MOST_WORDS} characters`),
  /** Files of the same date that go with it. */
  files: z.array(id).max(10).default([]),
  /** The date of a series that it is about; the next without. */
  recurrence: wall.optional(),
})
const asked = z.object({
  recurrence: wall.optional(),
  /** Only what was said before this instant. */
  before: instant.optional(),
})
const named = z.object({ name: z.string().trim().min(1).max(200), recurrence: wall.optional() })
const ofMeeting = z.object({ entryId: id })
const token = z.string().min(20).max(100)

export const readConversation = route({
  method: 'GET',
  path: '/api/meetings/:entryId/conversation',
  summary: 'What was said about a meeting that I take part in, the newest of it, and its files.',
  who: 'person',
  params: () => ofMeeting,
  query: () => asked,
  answer: () => conversation,
})

export const say = route({
  method: 'POST',
  path: '/api/meetings/:entryId/conversation',
  summary: 'Say something to those who take part in a meeting; whoever is meant by name gets a notice.',
  who: 'person',
  repeatable: true,
  params: () => ofMeeting,
  body: () => said,
  answer: () => z.object({ messageId: id }),
})

export const noteRead = route({
  method: 'POST',
  path: '/api/meetings/:entryId/conversation/read',
  summary: 'Note that I have read what was said about a meeting so far.',
  who: 'person',
  params: () => ofMeeting,
})

export const removeMessage = route({
  method: 'DELETE',
  path: '/api/messages/:messageId',
  summary: 'Take out what I said.',
  who: 'person',
  params: () => z.object({ messageId: id }),
})

export const restoreMessage = route({
  method: 'POST',
  path: '/api/messages/:messageId/restore',
  summary: 'Put back what I said and took out.',
  who: 'person',
  params: () => z.object({ messageId: id }),
})

export const addFile = route({
  method: 'POST',
  path: '/api/meetings/:entryId/files',
  summary: 'Add a file to a date of a meeting that I take part in: its bytes are the body.',
  who: 'person',
  params: () => ofMeeting,
  query: () => named,
  rawBytes: MOST_FILE_BYTES,
  answer: () => z.object({ id, name: z.string() }),
})

export const readConversationByLink = route({
  method: 'GET',
  path: '/api/invitations/:token/conversation',
  summary: 'What was said about a meeting, by a guest’s link.',
  who: 'guest',
  params: () => z.object({ token }),
  query: () => asked,
  answer: () => conversation,
})

export const sayByLink = route({
  method: 'POST',
  path: '/api/invitations/:token/conversation',
  summary: 'Say something about a meeting by a guest’s link.',
  who: 'guest',
  repeatable: true,
  params: () => z.object({ token }),
  body: () => said,
  answer: () => z.object({ messageId: id }),
})

export const removeMessageByLink = route({
  method: 'DELETE',
  path: '/api/invitations/:token/messages/:messageId',
  summary: 'Take out what I said by a guest’s link.',
  who: 'guest',
  params: () => z.object({ token, messageId: id }),
})

export const addFileByLink = route({
  method: 'POST',
  path: '/api/invitations/:token/files',
  summary: 'Add a file to a meeting by a guest’s link.',
  who: 'guest',
  params: () => z.object({ token }),
  query: () => named,
  rawBytes: MOST_FILE_BYTES,
  answer: () => z.object({ id, name: z.string() }),
})

export const readFileByLink = route({
  method: 'GET',
  path: '/api/invitations/:token/files/:attachmentId',
  summary: 'A file of a meeting, by a guest’s link.',
  who: 'guest',
  params: () => z.object({ token, attachmentId: id }),
  answersFile: true,
})

export const invitationEvents = route({
  method: 'GET',
  path: '/api/invitations/:token/events',
  summary: 'Server-sent events for a guest’s page: that something was said, or written in the agenda.',
  who: 'guest',
  params: () => z.object({ token }),
})

/** Something was said about a meeting, or a file came or went; for those who take part in it, guests by their participant’s id. */
export const conversationEvent = event('conversation', { entryId: id, people: z.array(id) })
