import type { EntryOnWire, Repetition } from '@marmot/contract/entries'
import { planChange, type Scope } from '@marmot/core/entries'
import { type Override, readWalls } from '@marmot/core/recurrence'
import { dayOf, shortDay, wallFromText, zoneTable } from '@marmot/core/time'

const WORDS: Record<Scope, string> = {
  this: 'This date only',
  following: 'This and the following',
  all: 'All dates',
}

/** What a change of these dates does to those that were changed by themselves before, in words; empty when nothing. */
export const impactOf = (
  entry: EntryOnWire,
  change: {
    scope: Scope
    starts: string
    minutes: number
    allDay: boolean
    repetition?: Repetition | null | undefined
  },
): string => {
  if (change.scope === 'this') return ''
  const overrides: Override[] = entry.overrides.map((one) => ({
    ...one,
    recurrence: wallFromText(one.recurrence) ?? 0,
    starts: one.starts === null ? null : wallFromText(one.starts),
  }))
  const repetition = change.repetition === null ? { rule: null, added: [], excepted: [] } : change.repetition
  try {
    const { kept, dropped } = planChange(
      {
        starts: wallFromText(entry.seriesStarts) ?? 0,
        minutes: entry.seriesMinutes,
        allDay: entry.allDay,
        rule: entry.repetition.rule,
        added: readWalls(entry.repetition.added),
        excepted: readWalls(entry.repetition.excepted),
      },
      overrides,
      zoneTable(entry.zone),
      {
        scope: change.scope,
        recurrence: wallFromText(entry.recurrence) ?? 0,
        starts: wallFromText(change.starts) ?? 0,
        minutes: change.minutes,
        allDay: change.allDay,
        repetition: repetition
          ? {
              rule: repetition.rule,
              added: readWalls(repetition.added ?? []),
              excepted: readWalls(repetition.excepted ?? []),
            }
          : null,
      },
    )
    const named = (list: readonly Override[]) => list.map((one) => shortDay(dayOf(one.recurrence))).join(', ')
    const lost = dropped.filter((one) => !one.cancelled)
    const stay = kept.filter((one) => !one.cancelled && one.starts !== null)
    return [
      stay.length ? `Changed by themselves before, and left as they are: ${named(stay)}.` : '',
      lost.length ? `⚠ Changed by themselves before, and given up: ${named(lost)}.` : '',
    ]
      .filter(Boolean)
      .join(' ')
  } catch {
    return ''
  }
}

/** Which dates of a series a change is for, with what it does to those that were changed before. */
export const ScopeField = ({
  value,
  impact,
  onChange,
}: {
  value: Scope
  impact: string
  onChange: (scope: Scope) => void
}) => (
  <fieldset className="flex flex-col gap-1 rounded-md bg-shade p-2.5">
    <legend className="sr-only">Which dates</legend>
    <div className="flex flex-wrap gap-x-4 gap-y-1">
      {(['this', 'following', 'all'] as const).map((scope) => (
        <label key={scope} className="flex items-center gap-1.5">
          <input type="radio" name="scope" checked={value === scope} onChange={() => onChange(scope)} />
          {WORDS[scope]}
        </label>
      ))}
    </div>
    {impact && (
      <p role="status" className="text-sm">
        {impact}
      </p>
    )}
  </fieldset>
)
