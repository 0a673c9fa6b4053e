import { textOfNote } from '@marmot/core/entries'
import { seriesInWords } from '@marmot/core/invitations'
import type { Drawing, OwnDay } from '@marmot/core/lanes'
import { nextTold, type ToldTime, toldOf, writeLetter } from '@marmot/core/letters'
import { oneLine } from '@marmot/core/text'
import { DAY, instantOf, MINUTE, wallFromText, zoneTable } from '@marmot/core/time'
import { createTransport, type Transporter } from 'nodemailer'
import type pg from 'pg'
import { z } from 'zod'
import { agendaTexts } from '../agenda/index.ts'
import { presentIn, readMeetings, type WholeMeeting } from '../entries/index.ts'
import { makeLinks } from '../links/index.ts'
import type { Clock } from '../platform/clock.ts'
import { type Sql, together, transaction } from '../platform/database.ts'
import type { Mailer } from '../platform/house.ts'
import { addJob } from '../platform/jobs.ts'
import { tellMeeting } from '../platform/live.ts'
import type { Threads } from '../platform/threads.ts'
import { BACK_TASK, sendBackTask } from './back.ts'
import { type CalendarPart, calendarWriter } from './calendars.ts'
import { OWED_TASK, SEND_TASK, writeOwed } from './owed.ts'
import { readOwnDay } from './own-day.ts'
import { type KeptLetter, readerKey, readerOf, setLetterState, startSending } from './store.ts'

/** A guest's link outlives the meeting by this much, so that a late answer still arrives. */
const LINK_AFTER = 7 * DAY

/** Sends a letter that was sent already once more, with a new link for a guest. */
export const sendAgain = (sql: Sql, letterId: string, now: number): Promise<void> =>
  addJob(sql, SEND_TASK, { letterIds: [letterId], again: now }, `mail:${letterId}:again`)

/** What the jobs that write and send need. `url` is where people reach Marmot. */
interface Post {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly threads: Threads
  readonly transport: Mailer
  readonly url: string
  /** The address of Marmot's own that letters come from; answers go to the organizer. */
  readonly from: string
}

export const openTransport = (smtpUrl: string): Transporter =>
  createTransport({
    url: smtpUrl,
    pool: true,
    maxConnections: 4,
    connectionTimeout: 5000,
    greetingTimeout: 5000,
  })

const wallOf = (text: string): number => wallFromText(text) ?? 0

/** Somebody as a letter names them. */
interface Addressee {
  readonly name: string
  readonly address: string
  readonly zone: string | null
  readonly required: boolean
}

/** All that a letter is made of. */
interface Prepared {
  readonly kept: KeptLetter
  readonly meeting: WholeMeeting
  readonly recipient: Addressee
  readonly link: string | null
  /** What the agenda of the date says that it is about; empty where it says nothing, or where they are not there. */
  readonly agenda: string
  /** Of a colleague who is asked, their own day around the time. */
  readonly day: OwnDay | null
  readonly from: string
  readonly now: number
  /** When it was asked for once more. */
  readonly again: number | null
}

/** How a series repeats, in the words of what a letter tells. */
const repeatsOf = ({ about }: KeptLetter): string[] =>
  seriesInWords({
    rule: about.rule,
    starts: wallOf(about.starts),
    changes: about.changes.map(({ recurrence, starts, place }) => ({
      recurrence: wallOf(recurrence),
      starts: starts === null ? null : wallOf(starts),
      place,
    })),
    off: [...about.excepted, ...about.cancelled].map(wallOf),
    added: about.added.map(wallOf),
  })

const isSame = (one: WholeMeeting['participants'][number], kept: KeptLetter): boolean =>
  readerKey(readerOf(one)) === readerKey(kept)

/** The time that a letter names first: the date that it is about, else the next one. */
const timeOf = (kept: KeptLetter, now: number): ToldTime =>
  toldOf(kept.about, kept.recurrence ?? nextTold(kept.about, now))

/** The same, of a series that goes on otherwise the date from which it does. */
const timeSaid = (kept: KeptLetter, now: number): ToldTime =>
  kept.splitAt === null ? timeOf(kept, now) : toldOf(kept.about, kept.about.starts)

/** Whether it tells whoever owns a meeting of it: what they have reserved. */
const isOwn = ({ kept, meeting }: Pick<Prepared, 'kept' | 'meeting'>): boolean =>
  kept.personId !== null && kept.personId === meeting.organizerId

/** Whether what is cancelled for somebody takes place all the same. */
const isLetOff = ({ kept, meeting }: Prepared): boolean => {
  const { method, recurrence } = kept
  if (method !== 'CANCEL' || meeting.cancelled) return false
  const itself = meeting.participants.find((one) => isSame(one, kept))
  return (
    itself === undefined ||
    (recurrence !== null &&
      itself.otherwise.includes(recurrence) &&
      !meeting.cancelledDates.includes(recurrence))
  )
}

const wordsOf = (prepared: Prepared, picture: string | null) => {
  const { kept, meeting, recipient, link, now } = prepared
  const { about, before, recurrence, splitAt } = kept
  const time = timeSaid(kept, now)
  const declined =
    kept.proposedStart === null || kept.proposedEnd === null
      ? null
      : { start: kept.proposedStart, end: kept.proposedEnd }
  const was = before && toldOf(before, splitAt ?? recurrence ?? nextTold(before, now))
  const dated = recurrence !== null
  return writeLetter({
    ...time,
    kind: kept.method,
    own: isOwn(prepared),
    actor: kept.actor,
    organizer: kept.actor ? `${kept.actor} for ${meeting.organizer}` : meeting.organizer,
    recipient: recipient.name,
    required: about.required,
    rsvp: about.rsvp,
    zone: recipient.zone ?? meeting.organizerZone,
    organizerZone: meeting.organizerZone,
    repeats: dated ? [] : repeatsOf(kept),
    oneDate: dated,
    fromDate: splitAt !== null,
    before: was && { ...was, askAgain: kept.asksAgain },
    letOff: isLetOff(prepared),
    reason: kept.reason,
    nudges: kept.nudges,
    declined,
    note: textOfNote(time.note),
    agenda: prepared.agenda,
    joining: about.conference,
    others: presentIn(meeting, recurrence)
      .filter((one) => !isSame(one, kept) && !one.organizer)
      .map((one) => one.name),
    link,
    needsAccount: kept.personId !== null,
    ownDay: prepared.day && { ...prepared.day, picture },
    now,
  })
}

const calendarOf = ({ kept, meeting, recipient, agenda }: Prepared): CalendarPart => {
  const { about, recurrence } = kept
  // What all dates have in common stands in the first component; what one has of its own, in one of its own.
  const start = instantOf(zoneTable(about.zone), wallOf(about.starts))
  const all = { ...about, start, end: start + about.minutes * MINUTE }
  const { title, note, place, ...span } = recurrence === null ? all : toldOf(about, recurrence)
  const present = presentIn(meeting, recurrence)
  const itself = meeting.participants.find((one) => isSame(one, kept))
  const known = present.some((one) => isSame(one, kept))
  const own = isOwn({ kept, meeting })
  return {
    method: own && kept.method === 'REQUEST' ? 'PUBLISH' : kept.method,
    message: {
      uid: meeting.uid,
      sequence: kept.sequence,
      stamp: kept.writtenAt.getTime(),
      start: span.start,
      end: span.end,
      zone: about.zone,
      title,
      // What is of one date alone is not said of all of a series.
      description: [textOfNote(note), ...(meeting.repeats && recurrence === null ? [] : [agenda])]
        .filter(Boolean)
        .join('\n\n'),
      place,
      comment: kept.reason,
      joining: about.conference,
      rsvp: about.rsvp,
      series:
        about.rule === null && about.added.length === 0
          ? null
          : {
              rule: about.rule,
              starts: wallOf(about.starts),
              added: about.added.map(wallOf),
              changes: about.changes.map((change) => ({
                recurrence: wallOf(change.recurrence),
                starts: change.starts === null ? null : wallOf(change.starts),
                minutes: change.minutes,
                title: change.title,
                description: change.note === null ? null : textOfNote(change.note),
                place: change.place,
              })),
              cancelled: [...about.excepted, ...about.cancelled].map(wallOf),
            },
      date: recurrence === null ? null : wallOf(recurrence),
      organizer: { name: meeting.organizer, address: meeting.organizerAddress },
      // Nobody is asked anything (RFC 5546 section 3.2.1).
      participants: own
        ? []
        : known
          ? present
          : [...present, { ...recipient, answer: itself?.answer ?? ('needs-action' as const) }],
    },
  }
}

const compose = (
  prepared: Prepared,
  method: CalendarPart['method'],
  calendar: string,
  picture: Uint8Array | null,
) => {
  const { kept, meeting, recipient, from, again } = prepared
  const own = isOwn(prepared)
  const cid = picture ? `day.${kept.id}@${from.split('@').pop()}` : null
  const letter = wordsOf(prepared, cid)
  return {
    // The same letter keeps its id however often it is tried, so that a mail store can tell a repetition.
    messageId: `<${kept.id}${again === null ? '' : `.${again}`}@${from.split('@').pop()}>`,
    from: { name: own ? 'Marmot' : `${oneLine(meeting.organizer)} (Marmot)`, address: from },
    replyTo: { name: oneLine(meeting.organizer), address: meeting.organizerAddress },
    to: { name: oneLine(recipient.name), address: recipient.address },
    subject: letter.subject,
    text: letter.text,
    html: letter.html,
    icalEvent: { method, content: calendar, filename: own ? 'reservation.ics' : 'invitation.ics' },
    ...(picture && cid
      ? {
          attachments: [
            {
              filename: 'your-day.png',
              content: Buffer.from(picture),
              contentType: 'image/png',
              contentDisposition: 'inline' as const,
              cid,
            },
          ],
        }
      : {}),
  }
}

/** The day around what a colleague is asked to, where they are asked: what is told them otherwise needs none. */
const dayFor = async (
  sql: Sql,
  { entryId, organizerId, organizerZone }: WholeMeeting,
  kept: KeptLetter,
  now: number,
): Promise<OwnDay | null> => {
  const { personId, method, zone, about } = kept
  if (!personId || personId === organizerId || method !== 'REQUEST' || !about.rsvp) return null
  const { start, end, title } = timeSaid(kept, now)
  return readOwnDay(sql, { personId, zone: zone ?? organizerZone, entryId, title, start, end }, now)
}

/** Thrown where a letter has to wait for another to the same reader, so that its job comes again. */
class NotYet extends Error {}

/** What is to be sent of some letters about one meeting; from here on each may have left. */
const prepare = (
  { pool, clock, url, from }: Post,
  letterIds: readonly string[],
  again: number | null,
): Promise<{ prepared: Prepared[]; waits: boolean }> =>
  transaction(
    pool,
    async (sql) => {
      const now = clock()
      const { letters, waits } = await startSending(sql, letterIds, again !== null, now)
      const [first] = letters
      if (!first) return { prepared: [], waits }
      const [meeting] = await readMeetings(sql, [first.entryId], now, { deletedToo: true })
      if (!meeting) return { prepared: [], waits }
      const asked = letters.map((kept) => ({
        kept,
        participant: meeting.participants.find((one) => isSame(one, kept)),
      }))
      // Links are kept before the letters leave, so that they open however soon they are pressed.
      const guests = asked.flatMap(({ kept, participant }) =>
        kept.method !== 'CANCEL' && kept.personId === null && participant ? participant.id : [],
      )
      const agendas = await agendaTexts(
        sql,
        meeting.entryId,
        letters.flatMap((one) => one.recurrence ?? meeting.recurrence ?? []),
      )
      const agendaOf = ({ kept, participant }: (typeof asked)[number]): string => {
        const date = kept.recurrence ?? meeting.recurrence
        const there = date !== null && presentIn(meeting, date).some((one) => one === participant)
        return there && kept.method === 'REQUEST' ? (agendas.get(date) ?? '') : ''
      }
      const tokens = await makeLinks(sql, 'answer', guests, meeting.lastEnd + LINK_AFTER, now)
      const linkOf = ({ kept, participant }: (typeof asked)[number]): string | null => {
        if (kept.method === 'CANCEL') return null
        const token = participant && tokens.get(participant.id)
        return token ? `${url}/i/${token}` : `${url}/now?meeting=${meeting.entryId}`
      }
      const days = await together(asked.map(({ kept }) => dayFor(sql, meeting, kept, now)))
      const prepared = asked.map((one, i): Prepared => {
        const { kept } = one
        const address = kept.personAddress ?? kept.address ?? ''
        const recipient = {
          name: kept.name ?? (kept.guestName || address),
          address,
          zone: kept.zone,
          required: kept.about.required,
        }
        return {
          kept,
          meeting,
          recipient,
          link: linkOf(one),
          agenda: agendaOf(one),
          day: days[i] ?? null,
          from,
          now,
          again,
        }
      })
      return { prepared, waits }
    },
    { onePlan: true },
  )

/** True when the mail server has refused a letter for good; anything else is trouble that passes (RFC 5321 section 4.2.1). */
export const isRefused = (error: unknown): boolean =>
  error instanceof Error && 'responseCode' in error && Number(error.responseCode) >= 500

/** True when a letter cannot have left: nobody was reached, or the mail server said that it did not take it. */
const isStillHere = (error: unknown): boolean =>
  error instanceof Error &&
  ('responseCode' in error || ('command' in error && (error.command === 'CONN' || error.command === 'EHLO')))

/**
 * Sends one letter. A failure is kept for the organizer to see, and thrown. Should the server die between the mail
 * server's yes and our own note of it, the letter is sent again under the same Message-ID, which is how a mail store
 * knows a repetition.
 */
const sendLetter = async (
  { pool, clock, transport, threads }: Post,
  prepared: Prepared,
  write: ReturnType<typeof calendarWriter>,
): Promise<void> => {
  const { kept, meeting } = prepared
  const note = (state: 'waiting' | 'sent' | 'failed', error: string | null, stayed = false) =>
    transaction(pool, (sql) =>
      together([
        setLetterState(sql, kept.id, state, error, clock(), stayed),
        tellMeeting(sql, meeting.entryId, meeting.organizerId ? [meeting.organizerId] : []),
      ]),
    )
  const part = calendarOf(prepared)
  const [calendar, picture] = await Promise.all([
    write(part),
    // The words say the same: no letter waits for its picture, or stays behind for want of it.
    prepared.day
      ? threads.run<Drawing, Uint8Array>('drawPicture', prepared.day.drawing).catch(() => null)
      : null,
  ])
  const mail = compose(prepared, part.method, calendar, picture)
  try {
    await transport.sendMail(mail)
  } catch (error) {
    const words = error instanceof Error ? error.message : 'unknown'
    await note(isRefused(error) ? 'failed' : 'waiting', words, isStillHere(error))
    throw error
  }
  await note('sent', null)
}

const sending = z.object({ letterIds: z.array(z.uuid()), again: z.number().nullish() })
/** Jobs that were added by an older Marmot. */
const olderSending = z.union([
  z.object({ mailIds: z.array(z.uuid()) }).transform((job) => ({ letterIds: job.mailIds, again: null })),
  z.object({ mailId: z.uuid() }).transform((job) => ({ letterIds: [job.mailId], again: null })),
])
const owing = z.object({ entryId: z.uuid(), actorId: z.uuid().nullable() })

/** The jobs of this domain. The queue gives each to one worker at a time, and tries again what has thrown. */
export const letterTasks = (post: Post) => ({
  [OWED_TASK]: async (payload: unknown) => {
    const { entryId, actorId } = owing.parse(payload)
    await transaction(post.pool, (sql) => writeOwed(sql, entryId, actorId, post.clock()))
  },
  [SEND_TASK]: async (payload: unknown) => {
    const { letterIds, again } = z.union([sending, olderSending]).parse(payload)
    const { prepared, waits } = await prepare(post, letterIds, again ?? null)
    const write = calendarWriter(post.threads)
    await together(prepared.map((one) => sendLetter(post, one, write)))
    if (waits) throw new NotYet('A letter waits for the one before it.')
  },
  [BACK_TASK]: sendBackTask(post.transport),
})
