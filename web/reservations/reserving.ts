import type { Repetition } from '@marmot/contract/entries'
import type { SeenDate } from '@marmot/contract/reservations'
import type { Run } from '@marmot/contract/runs'
import { dayOf, type Instant, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import { namesInWords } from '../ui/names.ts'

/** How a date is to be otherwise than its rule has it, by the wall time that names it. */
export type Repairs = Readonly<
  Record<string, { readonly starts: string; readonly places: readonly string[] }>
>

/** What is typed of a reservation beside its time and places. */
export interface Words {
  readonly title: string
  readonly purpose: string
  readonly headCount: number | null
  readonly note: string
  readonly categoryId: string | null
  /** Whether it takes its person's time. */
  readonly takesTime: boolean
  readonly private: boolean
  /** For whom, when it is for somebody whom one acts for. */
  readonly of: string
}

export const NO_WORDS: Words = {
  title: '',
  purpose: '',
  headCount: null,
  note: '',
  categoryId: null,
  takesTime: false,
  private: false,
  of: '',
}

/** A time with its places as it is looked at and sent: repairs count for dates that the rule still has. */
export const runOf = (
  time: {
    readonly starts: string
    readonly minutes: number
    readonly zone: string
    readonly allDay: boolean
  },
  placeIds: readonly string[],
  repetition: Repetition | null,
  repairs: Repairs,
): Run => ({
  ...time,
  places: [...placeIds],
  series:
    repetition && (repetition.rule || repetition.added.length > 0)
      ? {
          rule: repetition.rule || null,
          added: repetition.added,
          excepted: repetition.excepted,
          changes: Object.entries(repairs).map(([recurrence, { starts, places }]) => ({
            recurrence,
            starts,
            places: [...places],
          })),
        }
      : null,
})

/** What a repair of a date is called on its button: "Col instead", "Col instead, without camera", "12:30 that day". */
export const repairInWords = (
  date: SeenDate,
  repair: SeenDate['repairs'][number],
  nameOf: (placeId: string) => string,
  clockOf: (at: Instant) => string,
): string => {
  const others = repair.places.filter((id) => !date.places.includes(id))
  return others.length > 0
    ? `${namesInWords(others.map(nameOf))} instead${repair.lacks.length ? `, without ${namesInWords(repair.lacks)}` : ''}`
    : `${clockOf(Date.parse(repair.start))} that day`
}

/** "Thu 10 Dec". */
export const dayOfDate = (date: Pick<SeenDate, 'start'>, zone: ZoneTable): string =>
  shortDay(dayOf(toWall(zone, Date.parse(date.start))))
