import { codeInWords, type Joining } from '../conferences/index.ts'
import { ANSWER_NAMES } from '../invitations/index.ts'
import type { OwnDay } from '../lanes/index.ts'
import { oneLine } from '../text/index.ts'
import {
  clocksInWords,
  dayInWords,
  dayOf,
  type Instant,
  offsetAt,
  offsetInWords,
  shortTime,
  spanInWords,
  toWall,
  zoneTable,
} from '../time/index.ts'

/** What an invitation's letter says, for one recipient. */
export interface Letter {
  readonly kind: 'REQUEST' | 'CANCEL' | 'DECLINECOUNTER'
  readonly title: string
  readonly organizer: string
  /** True where it is its reader's own: places that are reserved for them. */
  readonly own?: boolean
  /** Who did it in the name of whose it is, where somebody did. */
  readonly actor?: string | null
  readonly recipient: string
  readonly required: boolean
  /** Whether an answer is wanted. */
  readonly rsvp: boolean
  readonly start: Instant
  readonly end: Instant
  /** The recipient's own zone, in which the time is said first. */
  readonly zone: string
  readonly organizerZone: string
  readonly place: string
  /** How it repeats, in words, and the dates that differ; empty for a single meeting. */
  readonly repeats?: readonly string[]
  /** True when it is about one date of a series, and the others stay as they are. */
  readonly oneDate?: boolean
  /** Of a cancellation: true where the meeting goes on, and they alone are not expected any more. */
  readonly letOff?: boolean
  /** Why it was cancelled, where it was and somebody said so. */
  readonly reason?: string
  /** True where it tells nothing new, and only asks for an answer once more. */
  readonly nudges?: boolean
  /** The time that its reader proposed, where the meeting keeps the one that it has. */
  readonly declined?: { readonly start: Instant; readonly end: Instant } | null
  /** True when it is about a date of a series and those that follow. */
  readonly fromDate?: boolean
  readonly note: string
  /** What its agenda says; of a series, that of the date that is named. */
  readonly agenda?: string
  /** How one joins it from afar, where one can. */
  readonly joining?: Joining | null
  readonly others: readonly string[]
  /** What they were told before, where this is a change of it; their answer may have to be given again. */
  readonly before?: {
    readonly start: Instant
    readonly end: Instant
    readonly place: string
    readonly title: string
    readonly askAgain: boolean
  } | null
  /** Where to answer, null in a cancellation. */
  readonly link: string | null
  /** True for colleagues, who sign in to answer; false for guests, whose link is all they need. */
  readonly needsAccount: boolean
  /** Of a colleague who is asked: their own day around the time, and by which name its picture is found in the letter, if it is. */
  readonly ownDay?:
    | (Pick<OwnDay, 'sentence' | 'lines' | 'alt' | 'drawing'> & {
        readonly picture: string | null
      })
    | null
  readonly now: Instant
}

export interface LetterParts {
  readonly subject: string
  readonly text: string
  readonly html: string
}

const escapes: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
}

/** Text made safe to stand in HTML. */
export const escapeHtml = (text: string): string => text.replace(/[&<>"']/g, (sign) => escapes[sign] ?? sign)

/** "Europe/Vienna" as "Vienna": the city that a zone is named after. */
export const cityOf = (zone: string): string => (zone.split('/').pop() ?? zone).replace(/_/g, ' ')

/** What somebody is told first of places that are reserved for them. */
const ownOpening = ({ kind, actor, oneDate, fromDate, before }: Letter, several: boolean): string => {
  const which = oneDate ? ' on this one date' : fromDate ? ' from this date on' : ''
  const rest = oneDate ? ' The other dates stay as they are.' : fromDate ? ' The dates before stay.' : ''
  if (kind === 'CANCEL')
    return `${actor ? `${actor} has cancelled your reservation` : 'Your reservation is cancelled'}${which}${several && !oneDate ? ', all dates' : ''}. The places are free again.${rest}`
  if (before)
    return `${actor ? `${actor} has changed your reservation` : 'Your reservation has changed'}${which}.${rest}`
  return `${actor ? `${actor} has reserved this for you` : 'This is reserved for you'}${several ? ', on all its dates' : ''}.`
}

/** Where what is said of each thing begins in a line of plain text. */
const INDENT = 10

/** The address at which an answer is chosen already, and only has to be confirmed: programs that look through mail open every link. */
const saying = (link: string, answer: string): string =>
  `${link}${link.includes('?') ? '&' : '?'}say=${answer}`

const buttons = (link: string, { rsvp, needsAccount }: Pick<Letter, 'rsvp' | 'needsAccount'>): string => {
  const look = (filled: boolean) =>
    `display:inline-block;border:1px solid #5A3E9B;padding:9px 16px;margin:0 8px 8px 0;border-radius:6px;text-decoration:none;${filled ? 'background:#5A3E9B;color:#fff' : 'color:#5A3E9B'}`
  const button = (to: string, words: string, filled: boolean) =>
    `<a href="${escapeHtml(to)}" style="${look(filled)}">${escapeHtml(words)}</a>`
  const see = button(link, needsAccount ? 'See it in your day' : 'See it', !rsvp)
  return `<p>${rsvp ? ANSWER_NAMES.map(({ answer, name }, i) => button(saying(link, answer), name, i === 0)).join('') : ''}${see}</p>`
}

/** The letter's subject, plain text and HTML. The recipient's local time comes first, in words. */
export const writeLetter = (letter: Letter): LetterParts => {
  const table = zoneTable(letter.zone)
  const own = `${spanInWords(letter.start, letter.end, table, letter.now)}`
  const zoneWords = `${cityOf(letter.zone)} time, ${offsetInWords(offsetAt(table, letter.start))}`
  const theirs = zoneTable(letter.organizerZone)
  const day = (zone: typeof table) => dayOf(toWall(zone, letter.start))
  const elsewhere =
    offsetAt(table, letter.start) === offsetAt(theirs, letter.start)
      ? ''
      : `For ${letter.organizer} that is ${day(theirs) === day(table) ? '' : `${dayInWords(day(theirs), day(table))}, `}${clocksInWords(letter.start, letter.end, theirs)} (${cityOf(letter.organizerZone)} time).`
  const several = (letter.repeats ?? []).length > 0
  const title = oneLine(letter.title)
  const which = letter.oneDate ? ', this date only' : several ? ', all dates' : ''
  const { before = null } = letter
  const subject = letter.declined
    ? `The time stays: ${title}, ${shortTime(letter.start, table)}`
    : letter.nudges
      ? `Please answer: ${title}, ${several ? 'next ' : ''}${shortTime(letter.start, table)}`
      : letter.kind === 'CANCEL'
        ? `${letter.letOff ? 'You are not expected' : 'Cancelled'}${which}: ${title}, ${shortTime(letter.start, table)}`
        : before
          ? `Changed${letter.oneDate ? which : letter.fromDate ? ', this date and the following' : ''}: ${title}, ${several && !letter.fromDate ? 'next ' : ''}${shortTime(letter.start, table)}`
          : `${letter.own ? 'Reserved' : 'Invitation'}: ${title}, ${several ? 'first ' : ''}${shortTime(letter.start, table)}`
  const cancelled = letter.letOff
    ? letter.oneDate
      ? 'does not expect you on this one date. On the other dates nothing changes for you.'
      : 'does not expect you at this meeting any more. It takes place without you.'
    : letter.oneDate
      ? 'has cancelled this one date. The other dates stay as they are.'
      : several
        ? 'has cancelled this meeting, on all its dates.'
        : 'has cancelled this meeting.'
  const answerWords = before?.askAgain
    ? letter.rsvp
      ? 'Please answer again.'
      : 'No answer is needed.'
    : 'Your answer stands.'
  const opening = letter.own
    ? ownOpening(letter, several)
    : letter.declined
      ? `${letter.organizer} thanks you for proposing another time, and keeps the one below. Your answer stands; you can change it.`
      : letter.nudges
        ? `${letter.organizer} asks whether you can come${letter.oneDate ? ' on this one date' : ''}: you have not answered yet.`
        : letter.kind === 'CANCEL'
          ? `${letter.organizer} ${cancelled} There is nothing to do.`
          : before
            ? `${letter.organizer} has changed ${letter.oneDate ? 'this one date. The other dates stay as they are.' : letter.fromDate ? 'this meeting from this date on. The dates before stay as they are.' : 'this meeting.'} ${answerWords}`
            : `${letter.organizer} invites you${letter.required ? '' : ', if you can come,'} to a meeting${several ? ' that repeats' : ''}.${letter.rsvp ? '' : ' No answer is needed.'}`
  const rows: [string, string][] = [
    ...(letter.reason ? ([['Why', letter.reason]] as [string, string][]) : []),
    ['What', letter.title],
    ...(before && before.title !== letter.title ? ([['Before', before.title]] as [string, string][]) : []),
    ['When', `${own} (${zoneWords})`],
    ...(before && (before.start !== letter.start || before.end !== letter.end)
      ? ([['Before', spanInWords(before.start, before.end, table, letter.now)]] as [string, string][])
      : []),
    ...(letter.declined
      ? ([['Yours', spanInWords(letter.declined.start, letter.declined.end, table, letter.now)]] as [
          string,
          string,
        ][])
      : []),
    ...(elsewhere ? ([['', elsewhere]] as [string, string][]) : []),
    ...(letter.repeats ?? []).map((words, i): [string, string] => [i === 0 ? 'Repeats' : '', words]),
    ...(letter.place || (before && before.place !== letter.place)
      ? ([['Where', letter.place || 'no place']] as [string, string][])
      : []),
    ...(before && before.place !== letter.place
      ? ([['Before', before.place || 'no place']] as [string, string][])
      : []),
    ...(letter.joining && letter.kind !== 'CANCEL'
      ? ([
          ['Join', letter.joining.link],
          ['', `By telephone ${letter.joining.telephone}, code ${codeInWords(letter.joining.code)}`],
        ] as [string, string][])
      : []),
    ...(letter.others.length ? ([['With', letter.others.join(', ')]] as [string, string][]) : []),
    ...(letter.note ? ([['Note', letter.note]] as [string, string][]) : []),
    ...(letter.agenda ? ([['Agenda', letter.agenda]] as [string, string][]) : []),
    ...(letter.ownDay
      ? ([['Your day', [letter.ownDay.sentence, ...letter.ownDay.lines].join('\n')]] as [string, string][])
      : []),
  ]
  const ask = letter.link
    ? `See it${letter.rsvp ? ' and answer' : ''} here${letter.needsAccount ? '' : ', no account needed'}: ${letter.link}`
    : ''
  const text = [
    `Hello ${letter.recipient},`,
    '',
    opening,
    '',
    ...rows.map(
      ([name, value]) =>
        `${(name ? `${name}:` : '').padEnd(INDENT)}${value.replaceAll('\n', `\n${' '.repeat(INDENT)}`)}`,
    ),
    ...(ask ? ['', ask] : []),
    '',
    'Sent by Marmot.',
    '',
  ].join('\n')
  const cell = (name: string, value: string) =>
    `<tr><td style="padding:2px 14px 2px 0;color:#5b6664;vertical-align:top">${escapeHtml(name)}</td><td style="padding:2px 0;white-space:pre-line">${escapeHtml(value)}</td></tr>`
  const picture = letter.ownDay?.picture
    ? `<p><img src="cid:${escapeHtml(letter.ownDay.picture)}" width="${letter.ownDay.drawing.width}" height="${letter.ownDay.drawing.height}" alt="${escapeHtml(letter.ownDay.alt)}" style="max-width:100%;height:auto"></p>`
    : ''
  const html = `<!doctype html><html lang="en"><body style="font-family:sans-serif;color:#1E2B2A;background:#F4F1EA;padding:24px"><p>Hello ${escapeHtml(letter.recipient)},</p><p>${escapeHtml(opening)}</p><table style="border-collapse:collapse">${rows.map(([name, value]) => cell(name, value)).join('')}</table>${picture}${letter.link ? buttons(letter.link, letter) : ''}<p style="color:#5b6664">Sent by Marmot.</p></body></html>`
  return { subject, text, html }
}
