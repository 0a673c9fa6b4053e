import {
  datesWithin,
  endingOn,
  nextDates,
  type Override,
  readRule,
  repeats,
  type Series,
  writeRule,
} from '../recurrence/index.ts'
import {
  civilOf,
  DAY,
  type Day,
  dayFromCivil,
  dayOf,
  type Wall,
  weekdayOf,
  type ZoneTable,
} from '../time/index.ts'
import type { Scope } from './scope.ts'

/** What the repetition becomes: as given here, or as it was when null. */
export interface NewRepetition {
  readonly rule: string | null
  readonly added: readonly Wall[]
  readonly excepted: readonly Wall[]
}

/** A change to a series, seen from one of its dates. */
export interface SeriesChange {
  readonly scope: Exclude<Scope, 'this'>
  /** The date from which it is made, as the rule gave it. */
  readonly recurrence: Wall
  /** That date's new wall time, in the series' new zone. */
  readonly starts: Wall
  readonly minutes: number
  readonly allDay: boolean
  readonly repetition: NewRepetition | null
}

/** What becomes of a series: `head` keeps the earlier dates (null when none are left), `tail` is what changed. */
export interface SeriesPlan<O extends Override> {
  readonly head: { readonly series: Series; readonly overrides: readonly O[] } | null
  readonly tail: { readonly series: Series; readonly overrides: readonly O[] }
  /** Dates that had been changed by themselves and stay so. */
  readonly kept: readonly O[]
  /** Dates that had been changed by themselves and fall away, because the new repetition does not give them. */
  readonly dropped: readonly O[]
}

/** True for the series' first date: "this and the following" is then all of it. */
const isFirst = (series: Series, table: ZoneTable, recurrence: Wall): boolean => {
  const [first] = datesWithin(series, table, Math.min(series.starts, ...series.added), recurrence + 1)
  return first === undefined || first >= recurrence
}

/** A series as far as it goes before a date; null when nothing is left of it. */
export const headOf = (series: Series, table: ZoneTable, recurrence: Wall): Series | null => {
  const before = datesWithin(series, table, Math.min(series.starts, ...series.added), recurrence)
  if (before.length === 0) return null
  const rule =
    series.rule === null
      ? null
      : { ...endingOn(readRule(series.rule), null), until: { wall: recurrence - 1000, utc: false } }
  return {
    ...series,
    rule: rule && writeRule(rule),
    added: series.added.filter((wall) => wall < recurrence),
    excepted: series.excepted.filter((wall) => wall < recurrence),
  }
}

/** The rule for the dates from `recurrence` on: a COUNT is less what came before. */
const ruleFrom = (series: Series, table: ZoneTable, recurrence: Wall): string | null => {
  if (series.rule === null) return null
  const rule = readRule(series.rule)
  if (rule.count === null) return series.rule
  const whole = { ...series, added: [], excepted: [] }
  const before = datesWithin(whole, table, series.starts, recurrence).length
  return writeRule({ ...rule, count: Math.max(1, rule.count - before) })
}

/** Which weekday of its month a day is, as BYDAY counts: 2 for the second; -1 for the last if `fromEnd`. */
const nthOf = (day: Day, fromEnd: boolean): number => {
  const { year, month, date } = civilOf(day)
  if (!fromEnd) return Math.floor((date - 1) / 7) + 1
  const next = dayFromCivil(month === 12 ? year + 1 : year, month === 12 ? 1 : month + 1, 1) ?? day
  return -(Math.floor((next - 1 - day) / 7) + 1)
}

/**
 * A rule after its dates were moved from one day to another: Tuesdays become Wednesdays, the 3rd becomes the 5th. Rules
 * that name more than one such day by month or year stay as they are.
 */
export const movedRule = (text: string | null, from: Day, to: Day): string | null => {
  if (text === null || from === to) return text
  const rule = readRule(text)
  const turned = (weekday: number) => ((((weekday - 1 + to - from) % 7) + 7) % 7) + 1
  if (rule.frequency === 'WEEKLY')
    return writeRule({ ...rule, days: rule.days.map((day) => ({ ...day, weekday: turned(day.weekday) })) })
  const { month, date } = civilOf(to)
  const [nth] = rule.days
  const months = rule.months.length === 1 ? [month] : rule.months
  if (rule.days.length === 1 && nth?.nth && !rule.monthDays.length && rule.frequency === 'MONTHLY')
    return writeRule({ ...rule, days: [{ nth: nthOf(to, nth.nth < 0), weekday: weekdayOf(to) }] })
  if (rule.monthDays.length === 1 && !rule.days.length)
    return writeRule({ ...rule, months, monthDays: [date] })
  return writeRule({ ...rule, months })
}

/**
 * Works out a change to all of a series, or to one date and those that follow. Dates that had been changed by
 * themselves keep their own times as long as the new repetition still gives them; all move along when the series does.
 */
export const planChange = <O extends Override>(
  series: Series,
  overrides: readonly O[],
  table: ZoneTable,
  change: SeriesChange,
): SeriesPlan<O> => {
  const all = change.scope === 'all' || isFirst(series, table, change.recurrence)
  const by = change.starts - change.recurrence
  const shifted = (walls: readonly Wall[]) => walls.map((wall) => wall + by)
  const concerned = all ? [...overrides] : overrides.filter((one) => one.recurrence >= change.recurrence)
  const later = (walls: readonly Wall[]) => (all ? walls : walls.filter((wall) => wall >= change.recurrence))
  const tail: Series = {
    starts: all ? series.starts + by : change.starts,
    minutes: change.minutes,
    allDay: change.allDay,
    rule: change.repetition
      ? change.repetition.rule
      : movedRule(
          all ? series.rule : ruleFrom(series, table, change.recurrence),
          dayOf(change.recurrence),
          dayOf(change.starts),
        ),
    added: change.repetition ? change.repetition.added : shifted(later(series.added)),
    excepted: change.repetition ? change.repetition.excepted : shifted(later(series.excepted)),
  }
  // A date that one changed by itself, or called off, is found again where the series has moved it.
  const moved = concerned.map((one) => ({ one, recurrence: one.recurrence + by }))
  const last = Math.max(tail.starts, ...moved.map((each) => each.recurrence)) + DAY
  const dates = new Set(datesWithin(tail, table, Math.min(tail.starts, ...tail.added), last))
  // The date in hand is what the others become like, so it differs from them no more.
  const stays = ({ one, recurrence }: (typeof moved)[number]) =>
    dates.has(recurrence) && one.recurrence !== change.recurrence
  const kept = moved.filter(stays)
  return {
    head: all
      ? null
      : {
          series: headOf(series, table, change.recurrence) ?? series,
          overrides: overrides.filter((one) => one.recurrence < change.recurrence),
        },
    tail: {
      series: tail,
      overrides: kept.map(({ one, recurrence }) => ({
        ...one,
        recurrence,
        // One that differs in its words only moves along.
        starts: one.starts === one.recurrence ? null : one.starts,
      })),
    },
    kept: kept.map(({ one }) => one),
    dropped: moved
      .filter((each) => !stays(each) && each.one.recurrence !== change.recurrence)
      .map(({ one }) => one),
  }
}

/** The next six dates of a series from a wall time on, for showing while its rule is made. */
export const sixDates = (series: Series, table: ZoneTable, from: Wall): number[] =>
  repeats(series) ? nextDates(series, table, from, 6).map(dayOf) : []
