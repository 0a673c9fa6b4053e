import ICAL from 'ical.js'
import { textOf } from '../feeds/index.ts'
import { manyLines, oneLine } from '../text/index.ts'
import { type Instant, isZone } from '../time/index.ts'

/** Somebody outside, as vCard has them (RFC 6350). */
export interface Card {
  readonly uid: string
  readonly name: string
  readonly organisation: string
  /** E-mail addresses in lower case, the preferred first. */
  readonly addresses: readonly string[]
  readonly telephone: string
  readonly zone: string | null
  readonly note: string
  /** Where their free/busy times can be read (FBURL). */
  readonly freeBusy: string | null
  /** When it was last changed where it is from (REV). */
  readonly changedAt: Instant | null
}

/** What of a file was not taken: on which line it begins, who it is, and why. */
export interface RefusedCard {
  readonly line: number
  readonly title: string
  readonly reason: string
}

export interface ReadCards {
  readonly cards: readonly Card[]
  readonly refused: readonly RefusedCard[]
}

/** A file that is none of vCards. The message is for a person. */
export class BadCards extends Error {}

/** More than these nobody has to do with. */
export const MOST_CARDS = 20_000
/** Nobody has more addresses; what a file has beyond them is told. */
export const MOST_ADDRESSES = 10
export const MOST_CARD_NOTE = 5000
const MOST_NAME = 200

/** Pictures, sounds and keys are not read: they are most of many files, and a line of one can have megabytes. */
const PASSED_OVER = /^(?:[\w-]+\.)?(?:PHOTO|LOGO|SOUND|KEY)[;:]/i
const EDGE = /^(BEGIN|END):VCARD\s*$/i
const ADDRESS = /^[^\s@<>]{1,64}@[^\s@<>]+\.[^\s@<>]+$/

interface Piece {
  readonly line: number
  readonly lines: readonly string[]
}

/** The cards of a text, each by itself, so that a broken one spoils no other. `open` says on which line one begins that does not end. */
const piecesOf = (text: string): { pieces: Piece[]; open: number | null } => {
  const pieces: Piece[] = []
  let open: { line: number; lines: string[] } | null = null
  let passing = false
  let number = 0
  for (const raw of text.split(/\r\n|\n|\r/)) {
    number++
    // A line that goes on (RFC 6350 section 3.2).
    if (/^[ \t]/.test(raw)) {
      if (open && !passing && open.lines.length > 0)
        open.lines.push(`${open.lines.pop() ?? ''}${raw.slice(1)}`)
      continue
    }
    passing = PASSED_OVER.test(raw)
    const edge = EDGE.exec(raw)?.[1]?.toUpperCase()
    if (edge === 'BEGIN') open = { line: number, lines: [] }
    else if (edge === 'END') {
      if (open) pieces.push(open)
      open = null
    } else if (open && !passing && raw.trim() !== '') open.lines.push(raw)
  }
  return { pieces, open: open?.line ?? null }
}

/**
 * Stands for an escaped semicolon while a card is written or read, since the parser leaves those alone: bare it would part an
 * organisation, and other programs part any value there (RFC 6350 section 3.4). Nobody's name has it, and it is no shorter than what
 * takes its place.
 */
const STAND_IN = '\uE000'

/** A line with its escaped semicolons stood in for. */
const stoodIn = (line: string): string =>
  line.replaceAll(STAND_IN, '').replace(/\\([\\;])/g, (both, sign) => (sign === ';' ? STAND_IN : both))

/** A value as it was meant. */
const meant = (value: unknown): string => String(value).replaceAll(STAND_IN, ';')

const textsOf = (card: ICAL.Component, name: string): string[] =>
  card.getAllProperties(name).flatMap((property) => property.getValues().flat().map(meant))

/** The text of a property, the one that is preferred where there are several (PREF, RFC 6350 section 5.3). */
const preferred = (card: ICAL.Component, name: string): ICAL.Property[] => {
  const rank = (property: ICAL.Property) => {
    const types = [property.getParameter('type') ?? []].flat().map((type) => type.toLowerCase())
    return types.includes('pref') ? 0 : Number(property.getParameter('pref') ?? 101)
  }
  return card.getAllProperties(name).toSorted((one, other) => rank(one) - rank(other))
}

const firstText = (card: ICAL.Component, name: string): string =>
  meant(preferred(card, name)[0]?.getFirstValue() ?? '').trim()

const nameOf = (card: ICAL.Component): string => {
  const whole = oneLine(firstText(card, 'fn')).trim()
  if (whole) return whole.slice(0, MOST_NAME)
  // Of a name in parts the given one comes first where people say it.
  const [family = '', given = ''] = textsOf(card, 'n')
  return oneLine(`${given} ${family}`).trim().slice(0, MOST_NAME)
}

const webAddress = (text: string): string | null => {
  try {
    const url = new URL(text)
    return url.protocol === 'https:' || url.protocol === 'http:' ? url.href : null
  } catch {
    return null
  }
}

const instantOf = (text: string): Instant | null => {
  const at = Date.parse(text.replace(/^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)/, '$1-$2-$3T$4:$5:$6'))
  // Another year is a mistake, and none that a database keeps.
  return at >= Date.UTC(1900, 0, 1) && at < Date.UTC(2200, 0, 1) ? at : null
}

/** One card, and in words what of it was not taken; or why all of it was not. */
const readCard = ({
  lines,
}: Piece): { card: Card; partly: string | null } | { refused: string; title: string } => {
  const version = /^VERSION(?:;[^:]*)?:\s*(\S+)/im.exec(lines.join('\n'))?.[1] ?? ''
  const title = oneLine(/^FN(?:;[^:]*)?:(.*)$/im.exec(lines.join('\n'))?.[1] ?? '').slice(0, MOST_NAME)
  if (version === '2.1')
    return { refused: 'It is of version 2.1, which is from 1996. Save it as version 3 or 4 there.', title }
  if (version !== '3.0' && version !== '4.0')
    return { refused: 'It says no version that is read (3.0 or 4.0).', title }
  const card = new ICAL.Component(
    ICAL.parse(['BEGIN:VCARD', ...lines.map(stoodIn), 'END:VCARD', ''].join('\r\n')),
  )
  const written = preferred(card, 'email').map((one) =>
    oneLine(String(one.getFirstValue() ?? ''))
      .trim()
      .replace(/^mailto:/i, '')
      .toLowerCase(),
  )
  const good = [...new Set(written.filter((one) => ADDRESS.test(one)))]
  const name = nameOf(card) || (good[0] ?? '')
  if (!name) return { refused: 'It has neither a name nor an address.', title }
  const note = manyLines(textsOf(card, 'note').join('\n\n')).trim()
  const zone = firstText(card, 'tz')
  const troubles = [
    good.length > MOST_ADDRESSES
      ? `Of its ${good.length} addresses the first ${MOST_ADDRESSES} were taken.`
      : '',
    good.length < new Set(written).size ? 'One of its addresses is none.' : '',
    note.length > MOST_CARD_NOTE ? 'Its notes are longer than can be kept: their beginning was taken.' : '',
  ].filter(Boolean)
  return {
    card: {
      // Without a UID the same card is known again by who it is.
      uid: oneLine(firstText(card, 'uid')).slice(0, 500) || `card:${good[0] ?? name.toLowerCase()}`,
      name,
      organisation: oneLine(textsOf(card, 'org').filter(Boolean).join(', ')).trim().slice(0, MOST_NAME),
      addresses: good.slice(0, MOST_ADDRESSES),
      telephone: oneLine(firstText(card, 'tel').replace(/^tel:/i, '')).slice(0, 60),
      zone: isZone(zone) ? zone : null,
      note: note.slice(0, MOST_CARD_NOTE),
      freeBusy: webAddress(firstText(card, 'fburl')),
      changedAt: instantOf(firstText(card, 'rev')),
    },
    partly: troubles.length ? troubles.join(' ') : null,
  }
}

/** Reads a file of vCards of version 3 or 4. Of two with one UID the later in the file counts. Throws `BadCards`. */
export const readCards = (text: string): ReadCards => {
  if (!/^\uFEFF?\s*BEGIN:VCARD\s*(?:\r|\n)/i.test(text.slice(0, 1000)))
    throw new BadCards('This is no file of contacts: it does not begin with BEGIN:VCARD.')
  const { pieces, open } = piecesOf(text)
  const cards = new Map<string, Card>()
  const refused: RefusedCard[] = []
  for (const piece of pieces.slice(0, MOST_CARDS)) {
    const { line } = piece
    try {
      const read = readCard(piece)
      if ('refused' in read) refused.push({ line, title: read.title, reason: read.refused })
      else {
        cards.set(read.card.uid, read.card)
        if (read.partly) refused.push({ line, title: read.card.name, reason: read.partly })
      }
    } catch {
      refused.push({ line, title: '', reason: 'It cannot be read.' })
    }
  }
  if (open !== null) refused.push({ line: open, title: '', reason: 'The file ends in the middle of it.' })
  if (pieces.length > MOST_CARDS)
    refused.push({
      line: pieces[MOST_CARDS]?.line ?? 0,
      title: '',
      reason: `Only the first ${MOST_CARDS} are read.`,
    })
  return { cards: [...cards.values()], refused }
}

/** Whether two cards say the same of somebody. */
export const sameCard = (one: Card, other: Card): boolean => {
  const said = ({ uid: _, changedAt: __, addresses, ...card }: Card) =>
    JSON.stringify({ ...card, addresses }, [...Object.keys(card), 'addresses'].sort())
  return said(one) === said(other) && one.addresses.join() === other.addresses.join()
}

/** Cards as a file of version 4.0 (RFC 6350). */
export const writeCards = (cards: readonly Card[]): string =>
  cards
    .map((card) => {
      const component = new ICAL.Component('vcard')
      const add = (name: string, value: string) => {
        if (value) component.addPropertyWithValue(name, value)
      }
      const addText = (name: string, value: string) =>
        add(name, value.replaceAll(STAND_IN, '').replaceAll(';', STAND_IN))
      add('version', '4.0')
      add('uid', card.uid)
      addText('fn', card.name)
      addText('org', card.organisation)
      for (const address of card.addresses) add('email', address)
      addText('tel', card.telephone)
      add('tz', card.zone ?? '')
      addText('note', card.note)
      add('fburl', card.freeBusy ?? '')
      if (card.changedAt !== null)
        add('rev', new Date(card.changedAt).toISOString().replace(/[-:]|\.\d+/g, ''))
      return textOf(component).replaceAll(STAND_IN, '\\;')
    })
    .join('')
