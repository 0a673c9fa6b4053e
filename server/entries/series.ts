import { planChange, type SeriesChange } from '@marmot/core/entries'
import type { Override, Series } from '@marmot/core/recurrence'
import { instantOf, toWall, type Wall, wallFromText, wallText, zoneTable } from '@marmot/core/time'
import { seriesOf } from './dates.ts'
import type { EntryState, KeptOverride } from './fields.ts'

/** The fields of an entry that say when it is, as they are kept. */
export const seriesState = (series: Series) => ({
  starts: wallText(series.starts),
  minutes: series.minutes,
  allDay: series.allDay ?? false,
  rule: series.rule,
  added: series.added.map(wallText),
  excepted: series.excepted.map(wallText),
})

type SeriesState = ReturnType<typeof seriesState>

/** An override with its walls as numbers, the rest of it carried along. */
type ReadOverride = Override & { readonly kept: KeptOverride }

const readOverride = (kept: KeptOverride): ReadOverride => ({
  recurrence: wallFromText(kept.recurrence) ?? 0,
  cancelled: kept.cancelled,
  starts: kept.starts === null ? null : wallFromText(kept.starts),
  minutes: kept.minutes,
  kept,
})

/** A change to more than one date, seen from one of them; walls as text. */
export interface GivenChange extends Omit<SeriesChange, 'recurrence' | 'starts' | 'repetition'> {
  readonly recurrence: string
  readonly starts: string
  /** The zone that its walls are in from now on. */
  readonly zone: string
  readonly repetition: SeriesChange['repetition']
}

/** What becomes of an entry by a change to more than one date (`planChange`), as it is kept. */
export interface PlannedChange {
  /** What keeps the dates before, where the change does not concern them. */
  readonly head: { readonly state: SeriesState; readonly overrides: readonly KeptOverride[] } | null
  readonly series: Series
  readonly state: SeriesState
  readonly overrides: readonly KeptOverride[]
  /** How far the dates move, in milliseconds on the wall. */
  readonly by: Wall
}

export const plannedChange = (
  kept: EntryState,
  overrides: readonly KeptOverride[],
  { recurrence, starts, zone, ...change }: GivenChange,
): PlannedChange => {
  const [before, after] = [zoneTable(kept.zone), zoneTable(zone)]
  const [from, to] = [wallFromText(recurrence) ?? 0, wallFromText(starts) ?? 0]
  const plan = planChange(seriesOf(kept), overrides.map(readOverride), before, {
    ...change,
    recurrence: from,
    starts: to,
  })
  return {
    head: plan.head && {
      state: seriesState(plan.head.series),
      overrides: plan.head.overrides.map((one) => one.kept),
    },
    series: plan.tail.series,
    state: seriesState(plan.tail.series),
    // A date that was moved by itself stays at its instant when the series goes to another zone.
    overrides: plan.tail.overrides.map((one) => ({
      ...one.kept,
      recurrence: wallText(one.recurrence),
      starts: one.starts === null ? null : wallText(toWall(after, instantOf(before, one.starts))),
    })),
    by: to - from,
  }
}
