import { type CalendarEntry, isNewer } from '@marmot/core/feeds'
import { BadMessage, type Outside, timesOf, withDateFrom } from '@marmot/core/letters'
import { DAY, wallText } from '@marmot/core/time'
import {
  askInvited,
  insertEntries,
  isOurUid,
  lockOutside,
  markCancelled,
  nextVersion,
  noteAsked,
  type OutsideEntry,
  outsideSince,
  replaceOverrides,
  revive,
  setAnswer,
  updateEntry,
  writeOccurrences,
} from '../entries/index.ts'
import { entriesOf, fitting, overridesFrom, stateFrom } from '../feeds/index.ts'
import { addMeetingNotices } from '../notices/index.ts'
import { peopleByAddress, peopleByIds } from '../people/index.ts'
import type { Sql } from '../platform/database.ts'
import { tellMeeting, tellTime } from '../platform/live.ts'
import { closeProposals } from '../proposals/index.ts'

/** Nobody is invited more often by one and the same; whoever does it is a program. */
const MOST_A_DAY = 100

/** To so many of ours at once a meeting is sent; more have it by a list of their own. */
const MOST_RECIPIENTS = 50

type Person = Awaited<ReturnType<typeof peopleByIds>>[number]

/** A mail from outside that was read, as far as it is taken in. */
interface FromOutside {
  /** What it says, by the zones of those to whom it was sent. */
  readonly read: ReadonlyMap<string, readonly Outside[]>
  /** Whoever sent it: the organizer, or nobody. */
  readonly from: string
  /** Those of ours to whom it was sent. */
  readonly people: readonly Person[]
}

/** Those of ours among the addresses to which a mail was sent. Throws where there are too many, or none. */
export const oursAmong = async (sql: Sql, recipients: readonly string[]): Promise<Person[]> => {
  if (recipients.length > MOST_RECIPIENTS)
    throw new BadMessage(
      'too-many',
      `An invitation is sent to ${MOST_RECIPIENTS} of ours at once at the most.`,
    )
  const found = await peopleByAddress(
    sql,
    recipients.map((one) => one.toLowerCase()),
  )
  const people = await peopleByIds(
    sql,
    found.map((one) => one.id),
  )
  if (people.length === 0) throw nobodyOfOurs()
  return people
}

const nobodyOfOurs = () =>
  new BadMessage('not-an-invitation', 'Nobody to whom this was sent here is among those invited.')

/** Throws where a message claims what its sender may not: another’s meeting, or one of ours. */
const refuseForged = async (sql: Sql, messages: readonly Outside[], from: string): Promise<void> => {
  if (messages.some((one) => one.organizer.address !== from))
    throw new BadMessage(
      'not-from-them',
      'An invitation counts when it comes from whoever organizes the meeting.',
    )
  const ours = await peopleByAddress(sql, [from])
  const uids = messages.map((one) => one.uid)
  if (ours.length > 0 || (await isOurUid(sql, uids)))
    throw new BadMessage('not-from-them', 'Meetings of ours are changed here, and not by mail.')
}

/**
 * Takes in what somebody outside sends about a meeting of theirs to some of ours: an invitation, its changes and its
 * cancellation, in the order in which they were written (RFC 5546 section 2.1.5), however they arrive. It stands on the
 * lane of whoever was invited, under their own answer. In the caller's transaction; throws `BadMessage`.
 */
export const takeOutside = async (
  sql: Sql,
  { read, from, people }: FromOutside,
  now: number,
): Promise<void> => {
  const [messages = []] = read.values()
  await refuseForged(sql, messages, from)
  const named = new Set(messages.flatMap((one) => one.attendees.map((each) => each.address)))
  const invited = people.filter((one) => named.has(one.address))
  if (invited.length === 0) throw nobodyOfOurs()
  for (const person of invited)
    for (const message of read.get(person.zone) ?? []) await takeOne(sql, person, message, now)
}

/** What a meeting is after a message, cleaned of what may not be kept: in its text, and in that of each date. */
const fittedFrom = (before: CalendarEntry | null, message: Outside): CalendarEntry | null => {
  const next = withDateFrom(before, message)
  return next && fitting(next)
}

const mayReplace = (known: OutsideEntry, { organizer }: Outside): boolean =>
  known.organizerAddress === organizer.address ||
  // One that was imported before its organizer wrote.
  (known.organizerAddress === null &&
    known.contacts.some((one) => one.organizer && one.address === organizer.address))

const takeOne = async (sql: Sql, person: Person, message: Outside, now: number): Promise<void> => {
  const known = await lockOutside(sql, person.id, message.uid)
  if (known && !mayReplace(known, message))
    throw new BadMessage('not-from-them', 'Somebody else organizes the meeting of this UID.')
  if (message.method === 'DECLINECOUNTER') {
    if (!known) return
    await closeProposals(sql, known.id)
    await tellOf(sql, person, known.id, 'kept', message, now)
    return
  }
  // What was written earlier, and took longer, changes nothing; nor does what is here already.
  if (known && known.organizerAddress !== null && !isNewer(message, known)) return
  if (message.method === 'CANCEL') await callOff(sql, person, known, message, now)
  else await invite(sql, person, known, message, now)
}

/** The entry that somebody has, as it went out last, also where they declined it. */
const entryKnown = async (sql: Sql, person: Person, uid: string): Promise<CalendarEntry | null> => {
  const [known] = await entriesOf(sql, person.id, { uids: [uid], declinedToo: true })
  return known?.entry ?? null
}

const callOff = async (
  sql: Sql,
  person: Person,
  known: OutsideEntry | null,
  message: Outside,
  now: number,
): Promise<void> => {
  if (!known || known.cancelled) return
  if (message.date) {
    const before = await entryKnown(sql, person, message.uid)
    const next = before && fittedFrom(before, message)
    if (next) await put(sql, known, before, next, message, now)
  } else {
    await markCancelled(sql, known.id, person.id, message.comment, now)
    await updateEntry(sql, known.id, revisionOf(message))
    await writeOccurrences(sql, known.id, now)
  }
  await tellOf(sql, person, known.id, 'cancelled', message, now)
}

const invite = async (
  sql: Sql,
  person: Person,
  known: OutsideEntry | null,
  message: Outside,
  now: number,
): Promise<void> => {
  const before = known ? await entryKnown(sql, person, message.uid) : null
  const next = message.entry && fittedFrom(before, message)
  if (!next)
    throw new BadMessage(
      'not-an-invitation',
      'This invitation repeats in a way, or lies at a time, that cannot be kept. Nothing was changed.',
    )
  const asked = message.attendees.find((one) => one.address === person.address)
  if (!known) {
    if ((await outsideSince(sql, person.id, message.organizer.address, now - DAY)) >= MOST_A_DAY)
      throw new BadMessage('too-many', 'There were too many invitations from this address today.')
    const entryId = await make(sql, person, next, message, now)
    // Whoever organizes it may know an answer already: one that was given elsewhere.
    const answer = asked?.answer ?? 'needs-action'
    const made = await lockOutside(sql, person.id, message.uid)
    if (made && answer !== 'needs-action')
      await setAnswer(sql, made.participantId, {
        answer,
        message: '',
        answeredBy: null,
        stamp: message.stamp ?? now,
        now,
        version: 1,
        quiet: false,
      })
    else await askInvited(sql, entryId, 'all')
    await tellOf(sql, person, entryId, 'invited', message, now)
    return
  }
  if (known.cancelled) await revive(sql, known.id)
  await put(sql, known, before, next, message, now)
  await tellOf(sql, person, known.id, known.cancelled ? 'invited' : 'changed', message, now)
}

const revisionOf = ({ sequence, stamp }: Outside) => ({
  sourceSequence: sequence,
  sourceStamp: stamp === null ? null : new Date(stamp).toISOString(),
})

/** What an entry from outside is, beside what its calendar part says. */
const stateOf = (entry: CalendarEntry, message: Outside) => ({
  ...stateFrom(entry),
  ...revisionOf(message),
  sourceUid: message.uid,
  organizerAddress: message.organizer.address,
  organizerName: message.organizer.name,
  rsvp: message.attendees.some((one) => one.rsvp),
  // What is said of one date says nothing of how the others are joined, unless it says it.
  ...(message.date && !message.joining
    ? {}
    : { conference: message.joining && { room: '', ...message.joining } }),
})

const make = async (
  sql: Sql,
  person: Person,
  entry: CalendarEntry,
  message: Outside,
  now: number,
): Promise<string> => {
  const state = { ...stateOf(entry, message), sourceDates: message.date !== null }
  const [entryId = ''] = await insertEntries(sql, person.id, [state], now)
  await replaceOverrides(sql, entryId, overridesFrom(entry))
  await writeOccurrences(sql, entryId, now)
  return entryId
}

/** Puts an entry in the place of what it was, and asks again for what was answered to another time or place. */
const put = async (
  sql: Sql,
  known: OutsideEntry,
  before: CalendarEntry | null,
  next: CalendarEntry,
  message: Outside,
  now: number,
): Promise<void> => {
  const { sourceUid: _, ...state } = stateOf(next, message)
  await updateEntry(sql, known.id, {
    ...state,
    // What is said of one date says nothing of who organizes the others, nor of how they are.
    sourceDates: known.dates && message.date !== null,
  })
  await replaceOverrides(sql, known.id, overridesFrom(next))
  await writeOccurrences(sql, known.id, now, before ? next.starts - before.starts : 0)
  await nextVersion(sql, known.id)
  if (before && timesOf(before) === timesOf(next)) return
  await noteAsked(sql, known.id)
  const others =
    before &&
    timesOf({ ...before, overrides: [], added: [] }) === timesOf({ ...next, overrides: [], added: [] })
  if (message.method === 'REQUEST')
    await askInvited(sql, known.id, others ? datesChanged(before, next) : 'all')
}

/** The dates that have another time or place than before, by their names. */
const datesChanged = (before: CalendarEntry, next: CalendarEntry): string[] => {
  const timeOf = (entry: CalendarEntry, recurrence: number) => {
    const own = entry.overrides.find((one) => one.recurrence === recurrence)
    const there = entry.rule !== null || entry.starts === recurrence || entry.added.includes(recurrence)
    return JSON.stringify([
      there,
      own?.cancelled ?? false,
      own?.starts ?? null,
      own?.minutes ?? null,
      own?.place ?? null,
    ])
  }
  const named = new Set([...before.overrides, ...next.overrides].map((one) => one.recurrence))
  return [...named, ...next.added]
    .filter((one) => timeOf(before, one) !== timeOf(next, one))
    .map((one) => wallText(one))
}

const tellOf = async (
  sql: Sql,
  person: Person,
  entryId: string,
  kind: 'invited' | 'changed' | 'cancelled' | 'kept',
  { comment }: Outside,
  now: number,
): Promise<void> => {
  await addMeetingNotices(
    sql,
    entryId,
    [{ personId: person.id, kind, recurrence: null, words: comment }],
    null,
    now,
  )
  await tellTime(sql, [person.id])
  await tellMeeting(sql, entryId, [person.id])
}
