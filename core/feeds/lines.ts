/** A text that is no iCalendar object at all. The message is for a person. */
export class BadCalendar extends Error {}

/** A component as it stands in the file: its lines, unread, so that a broken one spoils nothing but itself. */
export interface Block {
  /** Its name, in upper case. */
  readonly kind: string
  /** The line on which it begins, counted from 1. */
  readonly line: number
  readonly text: string
}

export interface Blocks {
  readonly blocks: readonly Block[]
  /** RFC 5546 METHOD, in upper case; empty when there is none. */
  readonly method: string
  /** The component in the middle of which the text ends. */
  readonly open: Block | null
  /** True when the text ends before its calendar does. */
  readonly cut: boolean
}

const LF = 10
const CR = 13

/** Bytes without the folds of RFC 5545 section 3.1, which may stand within a character of several bytes. */
const unfolded = (bytes: Uint8Array): Uint8Array => {
  const out = new Uint8Array(bytes.length)
  let size = 0
  for (let i = 0; i < bytes.length; i++) {
    const feed = bytes[i] === CR && bytes[i + 1] === LF ? 2 : bytes[i] === LF ? 1 : 0
    const next = bytes[i + feed]
    if (feed && (next === 32 || next === 9)) i += feed
    else {
      out[size] = bytes[i] ?? 0
      size++
    }
  }
  return out.subarray(0, size)
}

const decoded = (bytes: Uint8Array, charset: string): string | null => {
  try {
    return new TextDecoder(charset, { fatal: true }).decode(bytes)
  } catch {
    return null
  }
}

/**
 * The text of a file that came as bytes. A byte order mark decides, then the charset that was named with it (the
 * header's), then UTF-8; what is no UTF-8 is read as windows-1252, which has every byte of Latin-1's letters.
 */
export const decodeText = (bytes: Uint8Array, charset: string | null): string => {
  const [first, second] = bytes
  if (first === 0xff && second === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (first === 0xfe && second === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  const named = charset && !/^utf-?8$/i.test(charset) ? decoded(bytes, charset) : null
  return (
    named ??
    decoded(bytes, 'utf-8') ??
    decoded(unfolded(bytes), 'utf-8') ??
    new TextDecoder('windows-1252').decode(bytes)
  )
}

/** A line's end: RFC 5545 has CR LF, files have all three. */
const LINE_END = /\r\n|\n|\r/g

/**
 * Cuts a calendar's text into its components, unread. They are pieces of the text itself, so that a large file is not
 * there twice. Throws `BadCalendar` when it is none.
 */
export const blocksOf = (text: string): Blocks => {
  const begin = text.startsWith('\uFEFF') ? 1 : 0
  if (!/^\s*BEGIN:VCALENDAR\s*(?:\r|\n|$)/i.test(text.slice(begin, begin + 1000)))
    throw new BadCalendar('This is no iCalendar file: it does not begin with BEGIN:VCALENDAR.')
  const blocks: Block[] = []
  let open: { kind: string; line: number; at: number } | null = null
  let within = false
  let method = ''
  let line = 0
  LINE_END.lastIndex = begin
  for (let at = begin; at <= text.length; ) {
    const found = LINE_END.exec(text)
    const end = found ? found.index : text.length
    line++
    // Most lines are none that matter here: those begin with BEGIN, END or METHOD.
    const first = text.charCodeAt(at) & ~32
    if (first === 66 || first === 69 || first === 77) {
      const words = text.slice(at, Math.min(end, at + 80))
      const edge = /^(BEGIN|END):([A-Z0-9-]+)\s*$/i.exec(words)
      const kind = edge?.[2]?.toUpperCase() ?? ''
      const begins = edge?.[1]?.toUpperCase() === 'BEGIN'
      if (open) {
        if (edge && !begins && kind === open.kind) {
          blocks.push({ kind, line: open.line, text: text.slice(open.at, end) })
          open = null
        }
      } else if (kind === 'VCALENDAR') within = begins
      else if (edge && begins) open = { kind, line, at }
      else method ||= /^METHOD(?:;[^:]*)?:\s*([A-Z]+)\s*$/i.exec(words)?.[1]?.toUpperCase() ?? ''
    }
    if (!found) break
    at = end + found[0].length
  }
  return {
    blocks,
    method,
    open: open && { kind: open.kind, line: open.line, text: text.slice(open.at) },
    cut: open !== null || within,
  }
}

/** A component's lines, unfolded (RFC 5545 section 3.1). */
export const linesOf = (block: Block): string[] =>
  block.text.replace(/(?:\r\n|\n|\r)[ \t]/g, '').split(LINE_END)
