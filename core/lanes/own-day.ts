import {
  type BusySpan,
  during,
  groundOf,
  type LaneTime,
  type Span,
  STATE_WORDS,
  stateInWords,
} from '../availability/index.ts'
import {
  clockText,
  type Day,
  dayInWords,
  dayOf,
  instantOf,
  lengthInWords,
  MINUTE,
  minuteOf,
  toWall,
  wallOf,
  weekdayOf,
  type ZoneTable,
} from '../time/index.ts'
import { ALONE, blockWords, freeUntil, inDrawingOrder, type Share, sharesOf, wordsAt } from './blocks.ts'

/** Hours shown before and after a time, so that one sees where in the day it lies. */
const AROUND = 6 * 60
const MORNING = 7 * 60
const EVENING = 19 * 60
const LATEST = 1440 + 360

/** The day of a time, and the minutes of it worth showing around that. */
export const hoursAround = (zone: ZoneTable, { start }: Span): { day: Day; from: number; to: number } => {
  const wall = toWall(zone, start)
  const first = minuteOf(wall)
  return {
    day: dayOf(wall),
    from: Math.max(0, Math.min(MORNING, first - AROUND)),
    to: Math.min(LATEST, Math.max(EVENING, first + AROUND)),
  }
}

const clockOf = (zone: ZoneTable) => (at: number) => clockText(minuteOf(toWall(zone, at)))

/** What touches a day on a lane, but for what takes no time. */
const onDay = (lane: LaneTime, zone: ZoneTable, day: Day): BusySpan[] => {
  const [from, to] = [instantOf(zone, wallOf(day)), instantOf(zone, wallOf(day + 1))]
  return lane.spans.filter((span) => span.end > from && span.start < to && span.state !== 'listed')
}

/** When something is on a day: its hours, or as much of them as lie on it. */
const whenOn = (zone: ZoneTable, day: Day, { start, end }: Span): string => {
  const [from, to] = [instantOf(zone, wallOf(day)), instantOf(zone, wallOf(day + 1))]
  const clock = clockOf(zone)
  if (start <= from && end >= to) return 'all day,'
  if (start < from) return `until ${clock(end)}`
  return end > to ? `from ${clock(start)}` : `${clock(start)} to ${clock(end)}`
}

/** In a sentence to whoever's lane it is, how a time lies in it; with a sign where something stands in its way. */
export const mineInWords = (lane: LaneTime, zone: ZoneTable, chosen: Span): string => {
  const how = during(lane, zone, chosen)
  if (how.state === 'free') {
    const before = onDay(lane, zone, dayOf(toWall(zone, chosen.start)))
      .filter((span) => span.end <= chosen.start)
      .sort((one, other) => other.end - one.end)[0]
    return before
      ? `You are free then; ${blockWords(before)} ends at ${clockOf(zone)(before.end)}.`
      : 'You are free then, with nothing before it that day.'
  }
  if (how.state === 'stretch')
    return how.stretch > 0
      ? `You are free then, but it lies ${lengthInWords(how.stretch)} outside your hours.`
      : `You are free then, but it takes ${lengthInWords(how.lunch)} of your lunch.`
  if (how.state === 'unknown') return 'Nothing is known of your own time then.'
  return `⚠ You have ${how.blocker?.title ?? 'something'} then${how.state === 'busy' ? '' : ` (${stateInWords(how)})`}.`
}

/** The colours of a drawing, as the screens have them by day. */
export const INKS = {
  ground: '#f4f1ea',
  open: '#ffffff',
  openEdge: '#77756a',
  busy: '#35504c',
  busyInk: '#f6f3ec',
  ink: '#1e2b2a',
  soft: '#505b59',
  line: '#d6cfbf',
  chosen: '#5a3e9b',
  chosenInk: '#ffffff',
} as const
export type Ink = keyof typeof INKS

/** A part of a drawing; everything in pixels from its upper left. Words that are longer than `most` end in an ellipsis. */
export type Mark =
  | {
      readonly kind: 'box'
      readonly x: number
      readonly y: number
      readonly width: number
      readonly height: number
      readonly fill: Ink | null
      readonly edge: Ink | null
      readonly thick?: number
    }
  | {
      readonly kind: 'line'
      readonly x: number
      readonly y: number
      readonly width: number
      readonly height: number
      readonly ink: Ink
      readonly dotted?: boolean
    }
  | {
      readonly kind: 'words'
      readonly x: number
      readonly y: number
      readonly text: string
      readonly most: number
      readonly ink: Ink
      readonly bold: boolean
      readonly middle?: boolean
    }

export interface Drawing {
  readonly width: number
  readonly height: number
  readonly marks: readonly Mark[]
}

/** Somebody's own day around a time, to be told where there are no screens: in words, and as a drawing. */
export interface OwnDay {
  /** How the time lies in their day. */
  readonly sentence: string
  /** What is on that day, in order, the time itself among it. */
  readonly lines: readonly string[]
  readonly drawing: Drawing
  /** The drawing in words. */
  readonly alt: string
}

const MOST_LINES = 12
const WIDTH = 600
const RULER = 24
const LANE = 46
/** So wide is the label over the time. */
const LABEL = 84
const BELOW = 10
const SIDE = 14
/** So much of a block is enough to be seen. */
const LEAST = 12
/** The words of a block stand so far below its top. */
const BASE = 17

const box = (
  x: number,
  width: number,
  more: { y?: number; height?: number; fill: Ink | null; edge?: Ink | null; thick?: number },
): Mark => ({ kind: 'box', x, width, y: RULER, height: LANE, edge: null, ...more })

const isHalf = ({ state }: BusySpan): boolean => state === 'tentative' || state === 'held'

/** How far below the lane's upper edge a block begins, which tells its state; lower where it leaves a part of it to others. */
const topOf = (span: BusySpan, { at, of }: Share): number => {
  const from = isHalf(span) ? LANE / 2 : 0
  return from + ((LANE - from) * at) / of
}

const blockMark = (span: BusySpan, share: Share, x: number, width: number): Mark => {
  if (span.state === 'listed') return box(x, width, { height: 5, fill: 'busy' })
  const top = topOf(span, share)
  // Where parts lie on one another there is an edge between them.
  return box(x, width, {
    y: RULER + top,
    height: LANE - top,
    fill: 'busy',
    edge: share.at > 0 ? 'busyInk' : null,
  })
}

/** The hours of a drawing: working hours and an hour around the time, so that blocks are wide enough for words. */
const hoursDrawn = (
  lane: LaneTime,
  zone: ZoneTable,
  chosen: Span,
): { day: Day; from: number; to: number } => {
  const { day, ...usual } = hoursAround(zone, chosen)
  const parts = lane.hours.filter((part) => part.weekday === weekdayOf(day))
  const minute = (at: number) => (toWall(zone, at) - wallOf(day)) / MINUTE
  const around = [minute(chosen.start) - 60, minute(chosen.end) + 60] as const
  const from = parts.length ? Math.min(...parts.map((part) => part.from), around[0]) : usual.from
  const to = parts.length ? Math.max(...parts.map((part) => part.to), around[1]) : usual.to
  return { day, from: Math.max(0, Math.floor(from / 60) * 60), to: Math.min(LATEST, Math.ceil(to / 60) * 60) }
}

/** A day as a drawing in lanes: the height of what is open says how available it is; the time is a frame across it. */
const drawDay = (lane: LaneTime, zone: ZoneTable, chosen: Span, title: string): Drawing => {
  const { day, from, to } = hoursDrawn(lane, zone, chosen)
  const midnight = wallOf(day)
  const xOfMinute = (minute: number) => SIDE + ((minute - from) / (to - from)) * (WIDTH - 2 * SIDE)
  const x = (at: number) => {
    const minute = (toWall(zone, at) - midnight) / MINUTE
    return xOfMinute(Math.max(from, Math.min(to, minute)))
  }
  const first = instantOf(zone, midnight + from * MINUTE)
  const last = instantOf(zone, midnight + to * MINUTE)
  const hours = Array.from(
    { length: Math.floor(to / 60) - Math.ceil(from / 60) + 1 },
    (_, i) => i + Math.ceil(from / 60),
  )
  const step = hours.length > 12 ? 2 : 1
  const [left, right] = [x(chosen.start), x(chosen.end)]
  const label = Math.max(0, Math.min(WIDTH - LABEL, (left + right - LABEL) / 2))
  /** Whether an hour's name would stand beneath the label. */
  const hidden = (at: number) => at > label - 20 && at < label + LABEL + 20
  const ruler = hours.flatMap((hour): Mark[] => [
    { kind: 'line', x: xOfMinute(hour * 60), y: RULER, width: 0, height: LANE, ink: 'line' },
    ...(hour % step === 0 && !hidden(xOfMinute(hour * 60))
      ? [
          {
            kind: 'words' as const,
            x: xOfMinute(hour * 60),
            y: RULER - 6,
            text: clockText((hour * 60) % 1440),
            most: 60,
            ink: 'soft' as const,
            bold: false,
            middle: true,
          },
        ]
      : []),
  ])
  const ground = groundOf(lane, zone, first, last).flatMap((part): Mark[] => {
    const [left, right] = [x(part.start), x(part.end)]
    if (part.state === 'open') return [box(left, right - left, { fill: 'open', edge: 'openEdge' })]
    const middle = { x: left, y: RULER + LANE / 2, width: right - left, height: 0, ink: 'openEdge' as const }
    return [{ kind: 'line', ...middle, ...(part.state === 'unknown' ? { dotted: true } : {}) }]
  })
  const blocks = lane.spans.filter((span) => span.end > first && span.start < last).sort(inDrawingOrder)
  const shares = sharesOf(blocks, ((last - first) / WIDTH) * LEAST)
  const beside = (i: number, end: number) => {
    const until = freeUntil(blocks, i, last)
    // The frame of the time has the title of its own.
    return Math.max(0, x(until > chosen.start && end <= chosen.start ? chosen.start : until) - x(end))
  }
  const drawn = blocks.flatMap((span, i): Mark[] => {
    const [left, right] = [x(span.start), x(span.end)]
    const words = blockWords(span)
    const room = { inside: right - left, beside: beside(i, span.end) }
    const where = wordsAt({ words, note: '', listed: span.state === 'listed', roomy: false, ...room })
    const share = shares[i] ?? ALONE
    const y = RULER + topOf(span, share) + (isHalf(span) || share.of > 1 ? BASE - 2 : BASE)
    const text = { kind: 'words' as const, text: words, bold: true }
    return [
      blockMark(span, share, left, right - left),
      ...(where === 'inside'
        ? [
            {
              ...text,
              x: left + 5,
              y,
              most: right - left - 8,
              ink: 'busyInk' as const,
            },
          ]
        : where === 'beside'
          ? [{ ...text, x: right + 5, y, most: room.beside - 8, ink: 'ink' as const }]
          : []),
    ]
  })
  const clock = clockOf(zone)
  const frame: Mark[] = [
    box(left - 2, right - left + 4, { y: RULER - 3, height: LANE + 6, fill: null, edge: 'open', thick: 6 }),
    box(left - 1, right - left + 2, { y: RULER - 2, height: LANE + 4, fill: null, edge: 'chosen', thick: 3 }),
    box(label, LABEL, { y: 0, height: RULER - 5, fill: 'chosen' }),
    {
      kind: 'words',
      x: label + LABEL / 2,
      y: RULER - 10,
      text: `${clock(chosen.start)}–${clock(chosen.end)}`,
      most: LABEL,
      ink: 'chosenInk',
      bold: true,
      middle: true,
    },
  ]
  const clear = !lane.spans.some((span) => span.end > chosen.start && span.start < chosen.end)
  const named: Mark = {
    kind: 'words',
    x: left + 6,
    y: RULER + LANE - 9,
    text: title,
    most: right - left - 10,
    ink: 'chosen',
    bold: true,
  }
  return {
    width: WIDTH,
    height: RULER + LANE + BELOW,
    // Its title only where nothing stands beneath it: nobody reads words across others.
    marks: [...ground, ...ruler, ...drawn, ...frame, ...(clear && right - left > LABEL ? [named] : [])],
  }
}

/**
 * Somebody's own day around a time that they are asked for, without what they are asked to itself. `title` is how that is
 * called.
 */
export const ownDay = (lane: LaneTime, zone: ZoneTable, chosen: Span, title: string): OwnDay => {
  const day = dayOf(toWall(zone, chosen.start))
  const spans = [...onDay(lane, zone, day), { ...chosen, state: 'busy' as const, title, itself: true }]
    .filter((span) => !('gap' in span && span.gap))
    .sort((one, other) => one.start - other.start)
  const all = spans.map(
    (span) =>
      `${whenOn(zone, day, span)} ${'itself' in span ? 'this meeting' : blockWords(span)}${isHalf(span) ? ` (${STATE_WORDS[span.state]})` : ''}`,
  )
  const more = all.length - MOST_LINES
  const lines = more > 0 ? [...all.slice(0, MOST_LINES), `and ${more} more`] : all
  return {
    sentence: mineInWords(lane, zone, chosen),
    lines,
    drawing: drawDay(lane, zone, chosen, title),
    alt: `Your ${dayInWords(day, day)}: ${lines.join('; ')}`,
  }
}
