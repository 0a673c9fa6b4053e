import { hoursTrouble, type WorkingHours } from '../availability/index.ts'
import { clockText, lengthInWords, WEEKDAYS } from '../time/index.ts'

/** By which rules a place is reserved. Minutes, unless said otherwise; null is no limit. */
export interface PlaceRules {
  readonly trainedOnly: boolean
  /** The teams whose people may reserve it, by name; everybody where there is none. */
  readonly teams: readonly string[]
  /** Whether its steward decides about each reservation, and after how many hours a request lapses. */
  readonly asksApproval: boolean
  readonly approvalHours: number
  /** When it is open, on the clock of its site. */
  readonly hours: readonly WorkingHours[]
  /** Kept free before and after each use. */
  readonly before: number
  readonly after: number
  readonly shortest: number | null
  readonly longest: number | null
  /** In days. */
  readonly aheadDays: number | null
  readonly notice: number | null
  /** How many reservations to come one person can have. */
  readonly atOnce: number | null
}

const WEEK = 7

/** "Monday to Friday 07:00 to 19:00", "Monday 07:00 to 12:00 and 13:00 to 17:00": days that are alike and follow one another are one. */
export const hoursInWords = (hours: readonly WorkingHours[]): string => {
  const of = (weekday: number): string =>
    hours
      .filter((part) => part.weekday === weekday)
      .sort((a, b) => a.from - b.from)
      .map((part) =>
        part.from === 0 && part.to === 1440 ? 'all day' : `${clockText(part.from)} to ${clockText(part.to)}`,
      )
      .join(' and ')
  const runs: { from: number; to: number; words: string }[] = []
  for (let weekday = 1; weekday <= WEEK; weekday++) {
    const words = of(weekday)
    const last = runs.at(-1)
    if (!words) continue
    if (last && last.to === weekday - 1 && last.words === words) last.to = weekday
    else runs.push({ from: weekday, to: weekday, words })
  }
  const [only] = runs
  if (!only) return 'never'
  if (runs.length === 1 && only.from === 1 && only.to === WEEK)
    return only.words === 'all day' ? 'always' : `every day ${only.words}`
  const name = (weekday: number) => WEEKDAYS[weekday - 1] ?? ''
  return runs
    .map(
      ({ from, to, words }) =>
        `${name(from)}${to === from ? '' : `${to === from + 1 ? ' and ' : ' to '}${name(to)}`} ${words}`,
    )
    .join(', ')
}

/** The rules as sentences for whoever reserves; what is no limit is not said. */
export const rulesInWords = (rules: PlaceRules): string[] => {
  const { shortest, longest, before, after, aheadDays, notice, atOnce } = rules
  const kept = [
    before ? `${lengthInWords(before)} before` : '',
    after ? `${lengthInWords(after)} after` : '',
  ].filter(Boolean)
  const open = hoursInWords(rules.hours)
  return [
    open === 'always' ? '' : `Open ${open}.`,
    rules.teams.length ? `Only for ${rules.teams.join(' and ')}.` : '',
    rules.trainedOnly ? 'Only for people who were trained to use it.' : '',
    rules.asksApproval
      ? `Each use is approved first; what is not decided within ${rules.approvalHours} hours lapses.`
      : '',
    shortest !== null && longest !== null
      ? `For ${lengthInWords(shortest)} to ${lengthInWords(longest)}.`
      : shortest !== null
        ? `For ${lengthInWords(shortest)} at least.`
        : longest !== null
          ? `For ${lengthInWords(longest)} at most.`
          : '',
    aheadDays === null ? '' : `Up to ${aheadDays} ${aheadDays === 1 ? 'day' : 'days'} ahead.`,
    notice === null || notice === 0 ? '' : `At least ${lengthInWords(notice)} before.`,
    atOnce === null ? '' : `${atOnce} to come at once per person, at most.`,
    kept.length
      ? `${kept.join(' and ')} each use ${kept.length === 1 && kept[0]?.startsWith('1 ') ? 'is' : 'are'} kept free.`
      : '',
  ].filter(Boolean)
}

/** What is wrong with rules, in words; null where they are fine. */
export const rulesTrouble = (
  rules: PlaceRules,
): { readonly field: string; readonly message: string } | null => {
  const wrong = hoursTrouble(rules.hours)
  if (wrong !== null)
    return {
      field: 'hours',
      message: `The hours of ${WEEKDAYS[wrong - 1]} overlap, or end before they begin.`,
    }
  if (rules.shortest !== null && rules.longest !== null && rules.shortest > rules.longest)
    return { field: 'longest', message: 'The longest is shorter than the shortest.' }
  if (rules.aheadDays !== null && rules.notice !== null && rules.notice >= rules.aheadDays * 1440)
    return { field: 'notice', message: 'It would have to be reserved sooner than it can be.' }
  return null
}
