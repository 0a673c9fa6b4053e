import { cityOf, escapeHtml, type LetterParts } from '../letters/index.ts'
import { oneLine } from '../text/index.ts'
import {
  type Instant,
  lengthInWords,
  offsetAt,
  offsetInWords,
  shortTime,
  spanInWords,
  zoneTable,
} from '../time/index.ts'

/** What a letter about a poll is for: see `tellingOf`; a nudge asks once more. */
export type PollLetterKind = 'ask' | 'more-times' | 'again' | 'nudge' | 'decided' | 'off'

/** A letter about a poll, for one who is asked. Instants in milliseconds. */
export interface PollLetter {
  readonly kind: PollLetterKind
  readonly title: string
  readonly note: string
  /** Who asks, and in whose name where it is another's. */
  readonly organizer: string
  readonly recipient: string
  readonly required: boolean
  readonly minutes: number
  readonly times: readonly { readonly start: Instant; readonly end: Instant }[]
  /** The time that was chosen, once it was. */
  readonly chosen: { readonly start: Instant; readonly end: Instant } | null
  /** Until when marks count. */
  readonly closes: Instant
  /** The zone in which times are said: the recipient's, or the organizer's where that is not known. */
  readonly zone: string
  readonly link: string | null
  /** True for colleagues, who sign in; false for guests, whose link is all they need. */
  readonly needsAccount: boolean
  readonly now: Instant
}

/** More times than that are counted rather than listed. */
const MOST_LISTED = 12

const subjectOf = ({ kind, title, chosen, zone }: PollLetter): string => {
  const about = oneLine(title)
  switch (kind) {
    case 'ask':
      return `Which times suit you? ${about}`
    case 'again':
      return `Asked again, which times suit you? ${about}`
    case 'more-times':
      return `More times to choose from: ${about}`
    case 'nudge':
      return `Please say which times suit you: ${about}`
    case 'decided':
      return `The time is chosen, without you: ${about}${chosen ? `, ${shortTime(chosen.start, zoneTable(zone))}` : ''}`
    case 'off':
      return `Not asked any more: ${about}`
  }
}

const openingOf = (letter: PollLetter): string => {
  const { kind, organizer, required, minutes } = letter
  const who = required ? organizer : `${organizer} (optional for you)`
  switch (kind) {
    case 'ask':
      return `${who} would like to meet for ${lengthInWords(minutes)}, and asks which of these times suit you.`
    case 'again':
      return `${who} asks once more which of these times suit you. What you said before still stands, and you can change it.`
    case 'more-times':
      return `${organizer} has added times. Please say which of them suit you, too; what you said before stands.`
    case 'nudge':
      return `${organizer} would like to know which of these times suit you: you have not said so yet.`
    case 'decided':
      return `${organizer} has chosen a time, and does not expect you then. Thank you for saying what suits you; there is nothing more to do.`
    case 'off':
      return `${organizer} does not ask about these times any more. There is nothing to do.`
  }
}

/** The subject, plain text and HTML of a letter about a poll, its times in the recipient's zone, which is named. */
export const writePollLetter = (letter: PollLetter): LetterParts => {
  const table = zoneTable(letter.zone)
  const asks = letter.kind !== 'decided' && letter.kind !== 'off'
  const first = letter.times[0]?.start ?? letter.now
  const zoneWords = `${cityOf(letter.zone)} time, ${offsetInWords(offsetAt(table, first))}`
  const said = ({ start, end }: { start: Instant; end: Instant }) =>
    spanInWords(start, end, table, letter.now)
  const listed = letter.times.slice(0, MOST_LISTED).map(said)
  const more = letter.times.length - listed.length
  const times = [...listed, ...(more > 0 ? [`and ${more} more`] : [])]
  const opening = openingOf(letter)
  const facts: [string, string][] = [
    ['What', letter.title],
    ...(letter.chosen && letter.kind === 'decided'
      ? ([['When', `${said(letter.chosen)} (${zoneWords})`]] as [string, string][])
      : []),
    ...(asks && letter.note ? ([['Note', letter.note]] as [string, string][]) : []),
    ...(asks ? ([['Until', shortTime(letter.closes, table)]] as [string, string][]) : []),
  ]
  const ask = letter.link
    ? `Say which suit you here${letter.needsAccount ? '' : ', no account needed'}: ${letter.link}`
    : ''
  const yours =
    letter.link && !letter.needsAccount ? 'The link is yours alone: whoever has it answers in your name.' : ''
  const text = [
    `Hello ${letter.recipient},`,
    '',
    opening,
    '',
    ...facts.map(([name, value]) => `${`${name}:`.padEnd(9)}${value.replaceAll('\n', `\n${' '.repeat(9)}`)}`),
    ...(asks ? ['', `The times (${zoneWords}):`, ...times.map((time) => `  - ${time}`)] : []),
    ...(ask ? ['', ask] : []),
    ...(yours ? [yours] : []),
    '',
    'Sent by Marmot.',
    '',
  ].join('\n')
  const cell = ([name, value]: [string, string]) =>
    `<tr><td style="padding:2px 14px 2px 0;color:#5b6664;vertical-align:top">${escapeHtml(name)}</td><td style="padding:2px 0;white-space:pre-line">${escapeHtml(value)}</td></tr>`
  const html = `<!doctype html><html lang="en"><body style="font-family:sans-serif;color:#1E2B2A;background:#F4F1EA;padding:24px"><p>Hello ${escapeHtml(letter.recipient)},</p><p>${escapeHtml(opening)}</p><table style="border-collapse:collapse">${facts.map(cell).join('')}</table>${
    asks
      ? `<p style="color:#5b6664;margin-bottom:4px">${escapeHtml(zoneWords)}</p><ul style="margin-top:0;line-height:1.6">${times.map((time) => `<li>${escapeHtml(time)}</li>`).join('')}</ul>`
      : ''
  }${
    letter.link
      ? `<p><a href="${escapeHtml(letter.link)}" style="display:inline-block;background:#5A3E9B;color:#fff;padding:10px 18px;border-radius:6px;text-decoration:none">Say which suit me</a></p>`
      : ''
  }${yours ? `<p style="color:#5b6664">${escapeHtml(yours)}</p>` : ''}<p style="color:#5b6664">Sent by Marmot.</p></body></html>`
  return { subject: subjectOf(letter), text, html }
}
