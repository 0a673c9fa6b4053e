import { randomUUID } from 'node:crypto'
import { sendMeeting } from '@marmot/contract/meetings'
import { bookVisit } from '@marmot/contract/visits'
import { noteOfText } from '@marmot/core/entries'
import { DAY, HOUR, isZone, MINUTE, spanInWords, toWall, wallText, zoneTable } from '@marmot/core/time'
import { answersInWords, answerTrouble, changeableUntil, nextInTurn } from '@marmot/core/visits'
import type { z } from 'zod'
import { type Conference, datesToMake, keepGaps, setAnswer, setGuestZone } from '../entries/index.ts'
import { findLink, keepLink, useUp } from '../links/index.ts'
import { cancel as cancelMeeting, change, send } from '../meetings/index.ts'
import { addVisitNotices } from '../notices/index.ts'
import { dropHold, keepHold } from '../openings/index.ts'
import { peopleByAddress } from '../people/index.ts'
import type { Sql } from '../platform/database.ts'
import { addJob } from '../platform/jobs.ts'
import { tell, timeChanged, visitPageChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { hostsOf, offer } from './offering.ts'
import {
  hadSince,
  insertVisit,
  insertWish,
  type KeptHost,
  type KeptKind,
  type KeptVisit,
  kindAt,
  kindOf,
  lockHosts,
  lockWish,
  participantsOf,
  setWishDone,
  visitOf,
} from './store.ts'

/** How far back counts whose turn it is, and how long a visitor's link works after the visit. */
const LATELY = 84 * DAY
const LINK_AFTER = 30 * DAY
/** How long a time is kept for somebody who has to prove their address. */
const KEPT = HOUR / 2
export const PROOF_TASK = 'send-visit-proof'

/** Nothing here: the same words whether it is off or never was, so that nobody finds out what there is. */
export const notHere = (): ProblemError =>
  new ProblemError(
    404,
    'not-offered',
    'Nothing is offered at this address just now. Write to whoever sent you here; your time was not taken.',
  )

/** A kind that is offered, by its address. Throws where there is none, or it is off. */
export const offeredKind = async (sql: Sql, page: string, slug: string): Promise<KeptKind> => {
  const kind = await kindAt(sql, page, slug)
  if (!kind?.on) throw notHere()
  return kind
}

/** Throws unless a link that works once is for this kind, where it can be had by such alone; gives its hash. */
export const onceOrProblem = async (
  sql: Sql,
  kind: KeptKind,
  token: string | undefined,
  now: number,
): Promise<void> => {
  if (!kind.terms.byLinkOnly) return
  const link = token ? await findLink(sql, 'visit', token) : null
  if (!link || link.revoked || link.expiresAt <= now || link.subjectId !== kind.id) throw notHere()
}

type Body = z.output<(typeof bookVisit)['body']>

const refused = (code: string, path: string, message: string, detail: string) =>
  new ProblemError(422, code, detail, { fields: [{ path, message }] })

/** Throws for the first thing that is wrong with what a visitor typed. */
const checkTyped = ({ terms }: KeptKind, body: Body): void => {
  if (!terms.lengths.includes(body.minutes))
    throw refused('no-such-length', 'minutes', 'is not offered', 'That length is not offered.')
  if (!isZone(body.zone))
    throw refused('bad-zone', 'zone', 'does not exist', `There is no time zone called “${body.zone}”.`)
  if (body.guests.length > terms.mostGuests)
    throw refused(
      'too-many-guests',
      'guests',
      'are too many',
      terms.mostGuests === 0
        ? 'Nobody else can be brought along.'
        : `${terms.mostGuests} others can be brought along at most.`,
    )
  const wrong = terms.questions
    .map((question) => ({ question, trouble: answerTrouble(question, body.answers[question.id]) }))
    .filter(({ trouble }) => trouble !== null)
  if (wrong.length > 0)
    throw new ProblemError(
      422,
      'answers',
      `Something is not answered yet: ${wrong.map(({ question, trouble }) => `${question.words} ${trouble}`).join('; ')}. What you typed is kept.`,
      {
        fields: wrong.map(({ question, trouble }) => ({
          path: `answers.${question.id}`,
          message: trouble ?? '',
        })),
      },
    )
  if (terms.where === 'theirs' && !body.place)
    throw refused(
      'no-place',
      'place',
      'is missing',
      'Say where you would like to meet. What you typed is kept.',
    )
  if (terms.where === 'asked' && !placesToChoose(terms.place).includes(body.place))
    throw refused('no-place', 'place', 'is missing', 'Choose where to meet. What you typed is kept.')
}

/** What can be chosen of where, a line each. */
export const placesToChoose = (place: string): string[] =>
  place
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)

/** A name by which a host is chosen on a page: none of ours. */
export const hostName = (kind: KeptKind, personId: string): string =>
  String(kind.hosts.findIndex((host) => host.id === personId) + 1)

const hostBy = (kind: KeptKind, name: string | undefined): string | null =>
  (name && kind.hosts[Number(name) - 1]?.id) || null

/** The hosts among whom a time is looked for: one who was chosen, or all who can be visited. */
export const lookedAmong = (kind: KeptKind, name: string | undefined): string[] => {
  const can = hostsOf(kind)
  const chosen = kind.terms.together === 'choose' ? hostBy(kind, name) : null
  return chosen ? can.filter((id) => id === chosen) : can
}

const takenMeanwhile = (near: readonly number[]): ProblemError =>
  new ProblemError(
    409,
    'time-taken',
    'That time was taken a moment ago, or is not offered any more. What you typed is kept; choose another.',
    { more: { near } },
  )

const whereOf = ({ terms }: KeptKind, body: Pick<Body, 'place'>): string =>
  terms.where === 'mine' ? terms.place : terms.where === 'theirs' || terms.where === 'asked' ? body.place : ''

/** Says for everybody of a visit that they come: the visitor chose the time, and the hosts offered it. */
const allCome = async (sql: Sql, entryId: string, version: number, now: number): Promise<void> => {
  for (const { id } of await participantsOf(sql, entryId))
    await setAnswer(sql, id, {
      answer: 'accepted',
      message: '',
      answeredBy: null,
      stamp: now,
      now,
      version,
      quiet: false,
    })
}

/** A time that can be taken, with whose it is. */
interface Found {
  readonly kind: KeptKind
  readonly start: number
  readonly end: number
  readonly hosts: readonly string[]
  readonly first: KeptHost
  readonly places: readonly string[]
}

/** The time that a visitor would like, where it is offered, with nobody else at it until the transaction ends. Throws where it is not. */
const findTime = async (
  sql: Sql,
  { page, kind: slug }: { readonly page: string; readonly kind: string },
  body: Body,
  now: number,
): Promise<Found> => {
  const kind = await offeredKind(sql, page, slug)
  await onceOrProblem(sql, kind, body.once, now)
  checkTyped(kind, body)
  const among = lookedAmong(kind, body.host)
  await lockHosts(sql, hostsOf(kind))
  const start = Date.parse(body.start)
  const end = start + body.minutes * MINUTE
  const { terms } = kind
  const looking = { minutes: body.minutes, from: start - DAY, to: end + DAY, hosts: among, moving: null }
  const { times, placesAt } = await offer(sql, kind, looking, now)
  const time = times.find((one) => one.start === start)
  if (!time)
    throw takenMeanwhile(
      times
        .map((one) => one.start)
        .sort((a, b) => Math.abs(a - start) - Math.abs(b - start))
        .slice(0, 5),
    )
  const firstId =
    terms.together === 'turn'
      ? nextInTurn(time.hosts, await hadSince(sql, kind.id, now - LATELY))
      : (time.hosts[0] ?? null)
  const first = kind.hosts.find((one) => one.id === firstId)
  if (!first) throw takenMeanwhile([])
  const hosts = terms.together === 'together' ? [...time.hosts] : [first.id]
  return { kind, start, end, hosts, first, places: placesAt(hosts, start) }
}

/** What is said of a time that was taken, or is kept. */
const saidOf = ({ kind, start, end, hosts }: Found, body: Body, proof: boolean) => ({
  start: new Date(start).toISOString(),
  end: new Date(end).toISOString(),
  host: hosts.map((id) => kind.hosts.find((one) => one.id === id)?.name ?? '').join(', '),
  where: whereOf(kind, body),
  words: proof ? '' : kind.terms.words,
  goOn: proof ? '' : kind.terms.goOn,
  proof,
})

/**
 * Keeps a time that is offered for a visitor until they have proved by letter that their address is theirs, in the caller's
 * transaction. Throws where it is not offered (any more).
 */
export const keepForProof = async (
  sql: Sql,
  address: { readonly page: string; readonly kind: string },
  body: Body,
  now: number,
) => {
  const found = await findTime(sql, address, body, now)
  const { kind, start, end, hosts, first, places } = found
  const until = Math.min(now + KEPT, start)
  const holds = hosts.map((hostId) => ({ id: randomUUID(), hostId }))
  for (const { id, hostId } of holds)
    await keepHold(
      sql,
      {
        id,
        askerId: hostId,
        title: `${kind.terms.title}: ${body.name}, not confirmed`.slice(0, 200),
        starts: wallText(toWall(zoneTable(first.zone), start)),
        minutes: body.minutes,
        zone: first.zone,
        places: hostId === first.id ? places : [],
        span: { start, end },
        until,
      },
      now,
    )
  // The secret of the link that will be theirs is made anew when they come by the letter.
  const { own: _, ...typed } = body
  const wishId = await insertWish(sql, { kindId: kind.id, body: typed, holds, until })
  await addJob(sql, PROOF_TASK, { wishId }, `visit-proof:${wishId}`)
  await tell(sql, [...timeChanged(hosts), ...visitPageChanged(kind.pageId)])
  return saidOf(found, body, true)
}

/** Takes what is kept for a visitor who came by the letter; come again, they read the same. Throws where it is not kept any more. */
export const prove = async (
  sql: Sql,
  token: string,
  own: string,
  now: number,
  conferenceOf: (kind: KeptKind) => Promise<Conference | null>,
) => {
  const link = await findLink(sql, 'visit', token)
  const wish = link && !link.revoked ? await lockWish(sql, link.subjectId) : null
  const kind = wish && (await kindOf(sql, wish.kindId))
  if (!wish || !kind) throw notHere()
  if (wish.answer) return bookVisit.answer.parse(wish.answer)
  if (wish.lapses <= now)
    throw new ProblemError(
      410,
      'link-expired',
      'The time was kept for half an hour, and that is over. Choose a time again; nothing was taken.',
    )
  const body = bookVisit.body.parse({ ...Object(wish.body), own })
  for (const { id, hostId } of wish.holds) await dropHold(sql, id, hostId)
  const address = { page: kind.pageSlug, kind: kind.terms.slug }
  const answer = await book(sql, address, body, { now, conference: await conferenceOf(kind) })
  await setWishDone(sql, link?.subjectId ?? '', answer)
  return answer
}

/**
 * Gives a time that is offered to a visitor, in the caller's transaction: the meeting with its hosts, guests and places, what is kept
 * free around it, and the link that is the visitor's. Throws where it is not offered (any more); nothing is taken then.
 */
export const book = async (
  sql: Sql,
  address: { readonly page: string; readonly kind: string },
  body: Body,
  { now, conference }: { readonly now: number; readonly conference: Conference | null },
) => {
  const found = await findTime(sql, address, body, now)
  const { kind, start, end, hosts, first, places } = found
  const { terms } = kind
  const answers = answersInWords(terms.questions, body.answers)
  const meeting = sendMeeting.body.parse({
    title: `${terms.title}: ${body.name}`.slice(0, 200),
    note: noteOfText([terms.about, answers.join('\n')].filter(Boolean).join('\n\n')),
    starts: wallText(toWall(zoneTable(first.zone), start)),
    minutes: body.minutes,
    zone: first.zone,
    people: hosts.filter((id) => id !== first.id).map((id) => ({ id, required: true })),
    guests: [
      { address: body.address, name: body.name, required: true },
      ...body.guests.map((guest) => ({ ...guest, required: false })),
    ],
    places: [...places],
    rsvp: false,
  })
  const sent = await send(sql, meeting, datesToMake(meeting, now), {
    askerId: first.id,
    now,
    momentMs: 0,
    conference,
    place: whereOf(kind, body),
  })
  const participants = await participantsOf(sql, sent.entryId)
  if (participants.length === 0)
    throw refused(
      'own-address',
      'address',
      'cannot be used here',
      'That address cannot be used here. Give your own; what you typed is kept.',
    )
  await allCome(sql, sent.entryId, 1, now)
  await setGuestZone(sql, sent.entryId, body.zone)
  await keepGaps(sql, sent.entryId, hosts, terms)
  await linkFor(sql, participants, body, end, now)
  await insertVisit(
    sql,
    {
      kindId: kind.id,
      entryId: sent.entryId,
      hosts,
      name: body.name,
      address: body.address,
      zone: body.zone,
      guests: body.guests.length,
      answers,
      start,
      end,
    },
    now,
  )
  if (terms.byLinkOnly && !(await useUp(sql, 'visit', body.once ?? '', now))) throw notHere()
  await tellHosts(sql, kind, { hosts, entryId: sent.entryId }, 'visit-taken', {
    name: body.name,
    start,
    end,
    now,
  })
  await tell(sql, visitPageChanged(kind.pageId))
  return saidOf(found, body, false)
}

/** Makes a secret the visitor's link. */
const linkFor = async (
  sql: Sql,
  participants: readonly {
    readonly id: string
    readonly personId: string | null
    readonly address: string | null
  }[],
  body: Pick<Body, 'address' | 'own'>,
  end: number,
  now: number,
): Promise<void> => {
  // Whoever gives an address of ours has a link like anybody: that theirs did not open would tell whose it is.
  const [colleague] = await peopleByAddress(sql, [body.address])
  const visitor = participants.find(
    (one) => one.address === body.address || (colleague !== undefined && one.personId === colleague.id),
  )
  if (!visitor) return
  const link = { purpose: 'answer' as const, subjectId: visitor.id, token: body.own }
  await keepLink(sql, { ...link, expires: end + LINK_AFTER }, now)
}

/** Says to the hosts of a visit what the visitor did, each in their own zone. */
const tellHosts = async (
  sql: Sql,
  of: KeptKind,
  visit: { readonly hosts: readonly string[]; readonly entryId: string },
  kind: 'visit-taken' | 'visit-moved' | 'visit-cancelled',
  what: { readonly name: string; readonly start: number; readonly end: number; readonly now: number },
): Promise<void> => {
  await addVisitNotices(
    sql,
    visit.entryId,
    visit.hosts.map((personId) => {
      const zone = of.hosts.find((one) => one.id === personId)?.zone ?? of.zone
      return { personId, kind, words: spanInWords(what.start, what.end, zoneTable(zone), what.now) }
    }),
    { actorId: null, name: what.name },
    what.now,
  )
}

/** A visit with what may still be done about it; null where the meeting is none, or it is over. */
export const visitInHand = async (
  sql: Sql,
  entryId: string,
  now: number,
): Promise<{
  readonly visit: KeptVisit
  readonly kind: KeptKind
  readonly moveUntil: number | null
  readonly cancelUntil: number | null
} | null> => {
  const visit = await visitOf(sql, entryId)
  const kind = visit && (await kindOf(sql, visit.kindId))
  if (!visit || !kind || visit.end <= now) return null
  const until = (minutes: number | null) => {
    const last = changeableUntil(visit.start, minutes)
    return last !== null && last > now ? last : null
  }
  return { visit, kind, moveUntil: until(kind.terms.moveBefore), cancelUntil: until(kind.terms.cancelBefore) }
}

const tooLate = (what: 'moved' | 'cancelled', host: string): ProblemError =>
  new ProblemError(
    409,
    'too-late',
    `It cannot be ${what} from here any more. Write to ${host}, who can; nothing was changed.`,
  )

/** A visit of whoever comes by its link. Throws where the meeting is none. */
const inHand = async (sql: Sql, entryId: string, now: number) => {
  const found = await visitInHand(sql, entryId, now)
  if (!found) throw notFound('visit')
  return found
}

/** Moves a visit to another time that is offered, in the caller's transaction: with the same hosts, and a room that is free then. */
export const move = async (
  sql: Sql,
  who: { readonly entryId: string; readonly participantId: string },
  start: number,
  now: number,
): Promise<{ start: string; end: string }> => {
  const seen = await inHand(sql, who.entryId, now)
  await lockHosts(sql, seen.visit.hosts)
  const { visit, kind, moveUntil } = await inHand(sql, who.entryId, now)
  if (moveUntil === null) throw tooLate('moved', visit.host)
  const minutes = (visit.end - visit.start) / MINUTE
  const end = start + minutes * MINUTE
  const moving = { visitId: visit.id, occurrenceId: visit.occurrenceId }
  const looking = { minutes, from: start - DAY, to: end + DAY, hosts: visit.hosts, moving }
  const { times, placesAt } = await offer(sql, kind, looking, now)
  const fits = times.some(
    (one) => one.start === start && visit.hosts.every((host) => one.hosts.includes(host)),
  )
  if (!fits) throw takenMeanwhile(times.map((one) => one.start).slice(0, 5))
  const places = kind.terms.where === 'room' ? { places: placesAt(visit.hosts, start) } : {}
  const host = kind.hosts.find((one) => one.id === visit.hosts[0])
  const zone = host?.zone ?? kind.zone
  await change(sql, {
    entryId: visit.entryId,
    askerId: visit.hosts[0] ?? '',
    given: {
      scope: 'all',
      version: visit.version,
      starts: wallText(toWall(zoneTable(zone), start)),
      zone,
      ...places,
    },
    now,
    momentMs: 0,
    accepting: who.participantId,
  })
  const after = await visitOf(sql, visit.entryId)
  await allCome(sql, visit.entryId, after?.version ?? visit.version + 1, now)
  await tellHosts(sql, kind, visit, 'visit-moved', { name: visit.name, start, end, now })
  await tell(sql, visitPageChanged(kind.pageId))
  return { start: new Date(start).toISOString(), end: new Date(end).toISOString() }
}

/** Cancels a visit for its visitor, in the caller's transaction. */
export const cancel = async (sql: Sql, entryId: string, reason: string, now: number): Promise<void> => {
  const { visit, kind, cancelUntil } = await inHand(sql, entryId, now)
  if (cancelUntil === null) throw tooLate('cancelled', visit.host)
  await cancelMeeting(
    sql,
    visit.entryId,
    {
      recurrence: null,
      following: false,
      reason: `${visit.name} cancelled it${reason ? `: ${reason}` : '.'}`,
    },
    { askerId: visit.hosts[0] ?? '', now, momentMs: 0 },
  )
  await tellHosts(sql, kind, visit, 'visit-cancelled', {
    name: visit.name,
    start: visit.start,
    end: visit.end,
    now,
  })
  await tell(sql, visitPageChanged(kind.pageId))
}
