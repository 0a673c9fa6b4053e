import { randomUUID } from 'node:crypto'
import type { Conversation, conversationEvent } from '@marmot/contract/conversation'
import { namesMeant } from '@marmot/core/conversation'
import { HOUR } from '@marmot/core/time'
import type { z } from 'zod'
import {
  type Asking,
  filesOfMeeting,
  insertAttachment,
  type Present,
  presentAt,
  presentIn,
  typeOfFile,
} from '../entries/index.ts'
import { addMeantNotices } from '../notices/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { aboutEntry, tell, tellMeeting } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import {
  datesOf,
  insertMessage,
  lockMessage,
  readMessages,
  type Speaker,
  saidSince,
  setMessageRemoved,
  setRead,
  unreadIn,
} from './store.ts'

/** So many are shown at once; older ones on request. */
const MOST_AT_ONCE = 60
/** Nobody says more in an hour. */
const MOST_AN_HOUR = 120

/** Who asks, at a date of a meeting, and who they are to the others. */
export interface Talking {
  readonly present: Present
  readonly speaker: Speaker
  /** Whether they may take off what others added: the organizer, and who acts for them. */
  readonly leads: boolean
}

/** Somebody at a date of a meeting, by the ways in which they can come. */
export const talkingAt = async (
  sql: Sql,
  meeting: { readonly entryId: string; readonly recurrence?: string | null | undefined },
  who: Asking & { readonly name?: string },
  now: number,
): Promise<Talking> => {
  const present = await presentAt(sql, meeting, who, now)
  const mine = present.meeting.participants.find((one) => one.id === present.participantId)
  const personId = 'personId' in who ? who.personId : null
  return {
    present,
    speaker: { personId, participantId: present.participantId, name: mine?.name ?? who.name ?? '' },
    leads: mine ? mine.organizer : personId !== null,
  }
}

/** Says that something was said, to those who take part in the date: people, and guests by their ids as participants. */
const tellTalk = async (sql: Sql, { meeting }: Present): Promise<void> => {
  const events: z.input<typeof conversationEvent>[] = aboutEntry(
    'conversation',
    meeting.entryId,
    presentIn(meeting).map((one) => one.personId ?? one.id),
  )
  await tell(sql, events)
}

/** What was said about a meeting, as far as it is theirs who ask, and its files. */
export const conversationFor = async (
  sql: Sql,
  { present, speaker, leads }: Talking,
  before: number | null,
): Promise<Conversation> => {
  const { meeting, participantId } = present
  const dates = await datesOf(sql, meeting.entryId, participantId)
  const [messages, unread, files] = await together([
    readMessages(sql, dates, before, MOST_AT_ONCE + 1),
    participantId === null ? Promise.resolve(0) : unreadIn(sql, dates, participantId),
    filesOfMeeting(sql, meeting.entryId, dates),
  ])
  const itself = (one: { readonly personId: string | null; readonly participantId: string | null }) =>
    one.personId === null
      ? one.participantId !== null && one.participantId === participantId
      : one.personId === speaker.personId
  // Whoever takes part in one date alone does not learn that there are others.
  const dated = meeting.repeats && dates.length > 1
  return {
    messages: messages
      .slice(0, MOST_AT_ONCE)
      .reverse()
      .map((one) => ({
        id: one.id,
        who: one.who,
        mine: itself(one),
        text: one.text,
        at: one.at.toISOString(),
        recurrence: dated ? one.recurrence : null,
        files: [...one.files],
      })),
    more: messages.length > MOST_AT_ONCE,
    unread,
    files: files.map((file) => ({
      id: file.id,
      name: file.name,
      type: file.type,
      size: file.size,
      who: file.who,
      at: file.at.toISOString(),
      mayRemove: leads || itself({ personId: file.addedBy, participantId: file.participantId }),
      recurrence: dated ? file.recurrence : null,
    })),
    names: presentIn(meeting).map((one) => one.name),
  }
}

/** Says something at a date; whoever is meant by name gets a notice, and nobody else. */
export const sayAt = async (
  sql: Sql,
  { present, speaker }: Talking,
  { text, files }: { readonly text: string; readonly files: readonly string[] },
  now: number,
): Promise<string> => {
  const { meeting, occurrenceId } = present
  if (text === '' && files.length === 0)
    throw new ProblemError(422, 'nothing-said', 'There is nothing to send yet.', {
      fields: [{ path: 'text', message: 'is missing' }],
    })
  if ((await saidSince(sql, speaker, now - HOUR)) >= MOST_AN_HOUR)
    throw new ProblemError(429, 'too-much-said', 'That was a lot within an hour. Go on a little later.')
  const messageId = await insertMessage(sql, occurrenceId, speaker, { text, files }, now)
  const others = presentIn(meeting).filter((one) => one.id !== speaker.participantId)
  const meant = namesMeant(
    text,
    others.map((one) => one.name),
  )
  const people = others.flatMap((one) => (meant.includes(one.name) && one.personId) || [])
  if (people.length)
    await addMeantNotices(
      sql,
      {
        entryId: meeting.entryId,
        occurrenceId,
        people,
        actorId: speaker.personId,
        participantId: speaker.participantId,
      },
      now,
    )
  await tellTalk(sql, present)
  if (people.length) await tellMeeting(sql, meeting.entryId, people)
  return messageId
}

/** Takes out what somebody said themselves, or puts it back. */
export const setRemoved = async (
  sql: Sql,
  messageId: string,
  who: Asking,
  removed: boolean,
  now: number,
): Promise<void> => {
  const said = await lockMessage(sql, messageId)
  if (!said) throw notFound('message')
  const talking = await talkingAt(sql, said, who, now)
  const own =
    said.personId === null
      ? said.participantId !== null && said.participantId === talking.speaker.participantId
      : said.personId === talking.speaker.personId
  if (!own) throw notFound('message of yours')
  await setMessageRemoved(sql, messageId, removed ? now : null)
  await tellTalk(sql, talking.present)
}

/** Adds a file to a date of a meeting. */
export const addFileAt = async (
  sql: Sql,
  { present, speaker }: Talking,
  { name, content }: { readonly name: string; readonly content: Buffer },
  now: number,
): Promise<{ id: string; name: string }> => {
  const type = await typeOfFile(name, content)
  const made = await insertAttachment(
    sql,
    { entryId: present.meeting.entryId, occurrenceId: present.occurrenceId },
    { id: randomUUID(), name, type, content },
    { personId: speaker.personId, participantId: speaker.participantId, guestName: speaker.name },
    now,
  )
  await tellTalk(sql, present)
  return { id: made.id, name: made.name }
}

/** Notes that somebody has read what was said so far. */
export const noteReadAt = async (sql: Sql, { present }: Talking, now: number): Promise<void> => {
  if (present.participantId && (await setRead(sql, present.participantId, now))) await tellTalk(sql, present)
}
