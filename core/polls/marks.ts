import { during, type LaneTime, type Span } from '../availability/index.ts'
import { type Instant, zoneTable } from '../time/index.ts'

/** What somebody says to one time of a poll: it suits, it would do, it does not suit. */
export const MARKS = ['yes', 'if-need-be', 'no'] as const
export type Mark = (typeof MARKS)[number]

/** The most times that one poll asks about, and the fewest: one time alone is an invitation. */
export const MOST_TIMES = 40
export const FEWEST_TIMES = 2
/** The most who are asked. */
export const MOST_VOTERS = 200

/**
 * What somebody's time says to `[start, end)`: free is yes, outside their hours or only perhaps taken is if need be, taken
 * is no. Null where nothing is known of it: unknown is never yes.
 */
export const suggestedMark = (time: LaneTime, span: Span): Mark | null => {
  const { state } = during(time, zoneTable(time.zone), span)
  switch (state) {
    case 'unknown':
      return null
    case 'free':
      return 'yes'
    case 'stretch':
    case 'tentative':
    case 'held':
      return 'if-need-be'
    default:
      return 'no'
  }
}

/** By how many minutes the time lies outside what is known of somebody's hours; 0 where nothing is. */
export const stretchIn = (time: LaneTime, span: Span): number => {
  const how = during(time, zoneTable(time.zone), span)
  return how.state === 'unknown' ? 0 : how.stretch
}

/** Somebody who is asked, with what counts for each time by its id: what they marked, else what their time says. */
export interface Counted {
  readonly required: boolean
  readonly marks: ReadonlyMap<string, Mark>
}

/** A time that is asked about. Minutes outside somebody's hours are added up over all whose hours are known. */
export interface AskedTime {
  readonly id: string
  readonly start: Instant
  readonly stretch: number
}

/** How many say what to a time; `open` have said nothing. */
export interface Count {
  readonly yes: number
  readonly ifNeedBe: number
  readonly no: number
  readonly open: number
}

/** How a time stands, once all marks are counted. */
export interface Standing {
  readonly timeId: string
  /** 1 for the best; times that stand equal have the same. */
  readonly rank: number
  readonly all: Count
  /** Those alone who have to be there. */
  readonly required: Count
  /** Whether nobody who has to be there says no or has said nothing, and as many can come as are needed. */
  readonly suits: boolean
}

const countOf = (voters: readonly Counted[], timeId: string): Count => {
  const said = (mark: Mark) => voters.filter((voter) => voter.marks.get(timeId) === mark).length
  const [yes, ifNeedBe, no] = [said('yes'), said('if-need-be'), said('no')]
  return { yes, ifNeedBe, no, open: voters.length - yes - ifNeedBe - no }
}

/** What two times are compared by, in this order; less is better. */
const keyOf = ({ required, all }: Pick<Standing, 'required' | 'all'>, { stretch }: AskedTime): number[] => [
  required.no,
  -(required.yes + required.ifNeedBe),
  -required.yes,
  -all.yes,
  -all.ifNeedBe,
  stretch,
]

const compare = (a: readonly number[], b: readonly number[]): number =>
  a.reduce((order, part, i) => order || part - (b[i] ?? 0), 0)

/**
 * The times, best first: those who have to be there first, then yes, then if need be, then who would be outside their hours for
 * how long. Times that stand equal share a rank, the earlier one first. `needed` is how many have to be able to come.
 */
export const rankTimes = (
  times: readonly AskedTime[],
  voters: readonly Counted[],
  needed: number | null,
): Standing[] => {
  const must = voters.filter((voter) => voter.required)
  const counted = times.map((time) => {
    const all = countOf(voters, time.id)
    const required = countOf(must, time.id)
    return { time, all, required, key: keyOf({ required, all }, time) }
  })
  counted.sort((a, b) => compare(a.key, b.key) || a.time.start - b.time.start)
  let rank = 0
  return counted.map(({ time, all, required, key }, i) => {
    const before = counted[i - 1]
    if (!before || compare(before.key, key) !== 0) rank = i + 1
    return {
      timeId: time.id,
      rank,
      all,
      required,
      suits: required.no === 0 && required.open === 0 && all.yes + all.ifNeedBe >= Math.max(1, needed ?? 0),
    }
  })
}

/** The best times that stand equal: more than one is a tie. */
export const leading = (standings: readonly Standing[]): Standing[] =>
  standings.filter((one) => one.rank === 1)

/** "4 yes, 1 if need be, 1 no, 2 not yet": what is none is left out. */
export const countInWords = ({ yes, ifNeedBe, no, open }: Count): string =>
  [
    [yes, 'yes'],
    [ifNeedBe, 'if need be'],
    [no, 'no'],
    [open, 'not yet'],
  ]
    .flatMap(([n, words]) => (n ? [`${n} ${words}`] : []))
    .join(', ')

/**
 * What is wrong with somebody's marks, or null: times that are not asked about, a time twice, more than one that suits
 * where only one may.
 */
export const marksTrouble = (
  marks: readonly { readonly timeId: string; readonly mark: Mark }[],
  timeIds: ReadonlySet<string>,
  oneMark: boolean,
): 'not-asked' | 'twice' | 'one-only' | null => {
  if (marks.some((one) => !timeIds.has(one.timeId))) return 'not-asked'
  if (new Set(marks.map((one) => one.timeId)).size < marks.length) return 'twice'
  if (oneMark && marks.filter((one) => one.mark !== 'no').length > 1) return 'one-only'
  return null
}
