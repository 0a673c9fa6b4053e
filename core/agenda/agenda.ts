/** One point of an agenda: what is talked about, who leads it, and how long it takes. */
export interface AgendaItem {
  readonly id: string
  readonly title: string
  /** Whoever leads it, by name; empty for everybody. */
  readonly who: string
  /** In minutes; null where nobody has said. */
  readonly minutes: number | null
}

/** An agenda as it reads: its points in their order, and the notes below as text. */
export interface Agenda {
  readonly items: readonly AgendaItem[]
  readonly notes: string
}

/** Points beyond these are not shown; nobody talks about more in one meeting. */
export const MOST_ITEMS = 100
/** Longest of a point's words, and of a name. In characters. */
export const MOST_TITLE = 300
export const MOST_NAME = 100
const MOST_MINUTES = 24 * 60

/** So many minutes, if it is a number of them from 1 to a day; else null. */
export const minutesIn = (value: unknown): number | null => {
  const minutes = typeof value === 'string' && /^\d{1,4}$/.test(value.trim()) ? Number(value) : value
  return typeof minutes === 'number' && Number.isInteger(minutes) && minutes >= 1 && minutes <= MOST_MINUTES
    ? minutes
    : null
}

/** How long the points of an agenda take together, in minutes; those without a length take none. */
export const minutesOf = (items: readonly AgendaItem[]): number =>
  items.reduce((sum, one) => sum + (one.minutes ?? 0), 0)

/** What the points take beside the length of their meeting, in words. Both in minutes. */
export const sumInWords = (items: readonly AgendaItem[], length: number): string => {
  const sum = minutesOf(items)
  if (sum === 0) return ''
  if (sum > length) return `${sum} min planned, ${sum - length} min longer than the meeting`
  return sum === length ? `${sum} min planned, the whole meeting` : `${sum} of ${length} min planned`
}

/** A point in one line. */
const itemInWords = ({ title, who, minutes }: AgendaItem): string =>
  [title.trim() || '(no title)', who.trim(), minutes === null ? '' : `${minutes} min`]
    .filter(Boolean)
    .join(', ')

/** An agenda as plain text, for letters and for finding it: numbered points, then the notes. */
export const agendaText = ({ items, notes }: Agenda): string =>
  [items.map((item, i) => `${i + 1}. ${itemInWords(item)}`).join('\n'), notes.trim()]
    .filter(Boolean)
    .join('\n\n')

const MINUTES = /^(\d{1,4})\s*(min|mins|minutes|m|')?$/i

/**
 * Points of an agenda as they are typed, a line each: what is talked about, then, after commas, who leads it and how long it
 * takes, as in "Drill sites, Tashi, 20 min". `names` are those who take part: what is none of them is no name.
 */
export const itemsIn = (text: string, names: readonly string[]): Omit<AgendaItem, 'id'>[] =>
  text
    .split('\n')
    .map((line) => line.replace(/^\s*(?:[-–•*]|\d+[.)])\s+/, '').trim())
    .filter(Boolean)
    .slice(0, MOST_ITEMS)
    .map((line) => {
      const parts = line.split(',').map((part) => part.trim())
      const minutes = parts.length > 1 ? minutesIn(MINUTES.exec(parts.at(-1) ?? '')?.[1]) : null
      if (minutes !== null) parts.pop()
      const last = (parts.at(-1) ?? '').toLowerCase()
      const who =
        parts.length > 1
          ? (names.find((name) => name.toLowerCase() === last || name.toLowerCase().split(' ')[0] === last) ??
            '')
          : ''
      if (who) parts.pop()
      return { title: parts.join(', ').slice(0, MOST_TITLE), who: who.slice(0, MOST_NAME), minutes }
    })
