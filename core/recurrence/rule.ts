import { type Wall, wallFromText, wallOf, wallText } from '../time/days.ts'

export const FREQUENCIES = ['SECONDLY', 'MINUTELY', 'HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'] as const
export type Frequency = (typeof FREQUENCIES)[number]

/** A weekday (1 is Monday), and which of them: 2 the second, -1 the last, null every one. */
export interface NthDay {
  readonly nth: number | null
  readonly weekday: number
}

/** An RFC 5545 recurrence rule (section 3.3.10) as data. Lists that the rule does not name are empty. */
export interface Rule {
  readonly frequency: Frequency
  readonly interval: number
  readonly count: number | null
  /** The last wall time it may give; `utc` when it was written in UTC and has to be turned to the series' zone. */
  readonly until: { readonly wall: Wall; readonly utc: boolean } | null
  readonly seconds: readonly number[]
  readonly minutes: readonly number[]
  readonly hours: readonly number[]
  readonly days: readonly NthDay[]
  readonly monthDays: readonly number[]
  readonly yearDays: readonly number[]
  readonly weekNumbers: readonly number[]
  readonly months: readonly number[]
  readonly positions: readonly number[]
  /** The day on which a week begins, 1 is Monday. */
  readonly weekStart: number
}

/** A rule that cannot be read, that nobody meant, or that never gives a date. */
export class BadRule extends Error {}

export const DAY_CODES = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const

const DAY_NUMBERS: ReadonlyMap<string, number> = new Map(DAY_CODES.map((code, i) => [code, i + 1]))

const isFrequency = (text: string): text is Frequency => FREQUENCIES.some((each) => each === text)

const numbers = (name: string, text: string, least: number, most: number, signed: boolean): number[] =>
  text.split(',').map((part) => {
    const value = Number(part)
    const size = signed ? Math.abs(value) : value
    if (!/^[+-]?\d+$/.test(part) || size < least || size > most)
      throw new BadRule(`${name} cannot be "${part.slice(0, 20)}".`)
    return value
  })

const readDays = (text: string): NthDay[] =>
  text.split(',').map((part) => {
    const found = /^([+-]?\d{1,2})?(MO|TU|WE|TH|FR|SA|SU)$/.exec(part)
    const nth = found?.[1] === undefined ? null : Number(found[1])
    if (!found || nth === 0 || Math.abs(nth ?? 1) > 53)
      throw new BadRule(`BYDAY cannot be "${part.slice(0, 20)}".`)
    return { nth, weekday: DAY_NUMBERS.get(found[2] ?? '') ?? 1 }
  })

const readUntil = (text: string): { wall: Wall; utc: boolean } => {
  const found = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d)(Z?))?$/.exec(text)
  const [, year, month, date, hour, minute, second, zulu] = found ?? []
  const wall = wallFromText(
    `${year}-${month}-${date}T${hour ?? '23'}:${minute ?? '59'}:${hour ? (second ?? '00') : '59'}`,
  )
  if (wall === null) throw new BadRule(`UNTIL cannot be "${text.slice(0, 20)}".`)
  return { wall, utc: zulu === 'Z' }
}

const MOST_INTERVAL = 10_000

/** Reads the value of an RRULE, as `FREQ=WEEKLY;BYDAY=TH`. Throws `BadRule` naming the part at fault. */
export const readRule = (text: string): Rule => {
  const parts = new Map<string, string>()
  for (const part of text
    .trim()
    .replace(/^RRULE:/i, '')
    .toUpperCase()
    .split(';')
    .filter(Boolean)) {
    const [name = '', value = ''] = part.split('=')
    if (!value) throw new BadRule(`"${part.slice(0, 40)}" is no part of a repetition rule.`)
    if (parts.has(name)) throw new BadRule(`${name} is there twice.`)
    parts.set(name, value)
  }
  const take = (name: string): string | undefined => {
    const value = parts.get(name)
    parts.delete(name)
    return value
  }
  const list = (name: string, least: number, most: number, signed = false): number[] => {
    const value = take(name)
    return value === undefined ? [] : numbers(name, value, least, most, signed)
  }
  const one = (name: string, most: number): number | null => {
    const [value] = list(name, 1, most)
    return value ?? null
  }
  const frequency = take('FREQ') ?? ''
  if (!isFrequency(frequency))
    throw new BadRule('A repetition rule says how often: FREQ=DAILY, WEEKLY, MONTHLY or YEARLY.')
  const count = one('COUNT', 1_000_000_000)
  const until = take('UNTIL')
  if (count !== null && until !== undefined)
    throw new BadRule('A rule ends by UNTIL or by COUNT, not by both.')
  const days = take('BYDAY')
  const weekStart = take('WKST')
  const rule: Rule = {
    frequency,
    interval: one('INTERVAL', MOST_INTERVAL) ?? 1,
    count,
    until: until === undefined ? null : readUntil(until),
    seconds: list('BYSECOND', 0, 60),
    minutes: list('BYMINUTE', 0, 59),
    hours: list('BYHOUR', 0, 23),
    days: days === undefined ? [] : readDays(days),
    monthDays: list('BYMONTHDAY', 1, 31, true),
    yearDays: list('BYYEARDAY', 1, 366, true),
    weekNumbers: list('BYWEEKNO', 1, 53, true),
    months: list('BYMONTH', 1, 12),
    positions: list('BYSETPOS', 1, 366, true),
    weekStart: weekStart === undefined ? 1 : (readDays(weekStart)[0]?.weekday ?? 1),
  }
  const [unknown] = [...parts.keys()]
  if (unknown !== undefined) throw new BadRule(`"${unknown.slice(0, 40)}" is no part of a repetition rule.`)
  const nth = rule.days.some((day) => day.nth !== null)
  if (nth && !['MONTHLY', 'YEARLY'].includes(frequency))
    throw new BadRule('BYDAY can name a first or last weekday only by month or by year.')
  return rule
}

const compact = (wall: Wall): string => new Date(wall).toISOString().slice(0, 19).replace(/[-:]/g, '')

const dayCode = ({ nth, weekday }: NthDay): string => `${nth ?? ''}${DAY_CODES[weekday - 1] ?? ''}`

/** Writes a rule as the value of an RRULE; `readRule` gives the same rule back. */
export const writeRule = (rule: Rule): string => {
  const parts: [string, string | number | null][] = [
    ['FREQ', rule.frequency],
    ['INTERVAL', rule.interval === 1 ? null : rule.interval],
    ['COUNT', rule.count],
    ['UNTIL', rule.until === null ? null : `${compact(rule.until.wall)}${rule.until.utc ? 'Z' : ''}`],
    ['BYMONTH', rule.months.join()],
    ['BYWEEKNO', rule.weekNumbers.join()],
    ['BYYEARDAY', rule.yearDays.join()],
    ['BYMONTHDAY', rule.monthDays.join()],
    ['BYDAY', rule.days.map(dayCode).join()],
    ['BYHOUR', rule.hours.join()],
    ['BYMINUTE', rule.minutes.join()],
    ['BYSECOND', rule.seconds.join()],
    ['BYSETPOS', rule.positions.join()],
    ['WKST', rule.weekStart === 1 ? null : (DAY_CODES[rule.weekStart - 1] ?? null)],
  ]
  return parts
    .filter(([, value]) => value !== null && value !== '')
    .map(([name, value]) => `${name}=${value}`)
    .join(';')
}

/** A rule of a frequency with nothing else said. */
export const plainRule = (frequency: Frequency): Rule => readRule(`FREQ=${frequency}`)

/** The same rule ending with the end of a day, or without an end. */
export const endingOn = (rule: Rule, day: number | null): Rule => ({
  ...rule,
  count: null,
  until: day === null ? null : { wall: wallOf(day + 1) - 1000, utc: false },
})

/** Whether a rule (RRULE's value; null gives the first date alone) is another as it goes on, but ends sooner. */
export const endsSooner = (before: string | null, after: string | null): boolean => {
  if (before === null || before === after) return false
  if (after === null) return true
  const [was, is] = [readRule(before), readRule(after)]
  const endless = (rule: Rule) => writeRule({ ...rule, count: null, until: null })
  if (is.until === null || endless(was) !== endless(is)) return false
  // A series that was counted is cut by an end: by another count it is not.
  return was.until === null || is.until.wall < was.until.wall
}

/** The last wall time that a rule may give, as text; null where it has no such end. */
export const lastOf = (rule: string | null): string | null => {
  const until = rule === null ? null : readRule(rule).until
  return until && wallText(until.wall)
}
