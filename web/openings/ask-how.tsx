import type { PollSettings } from '@marmot/contract/organized-polls'
import type { Narrowing } from '@marmot/core/polls'
import { clockText, WEEKDAYS } from '@marmot/core/time'
import { Choice, Field } from '../ui/parts.tsx'

/** How people are asked, but for until when. */
export type AskSettings = Omit<PollSettings, 'closes'>

const HOURS = Array.from({ length: 25 }, (_, hour) => hour * 60)

/** Narrows the times that work to those that are asked about. */
export const Narrow = ({
  narrowing,
  onChange,
}: {
  narrowing: Narrowing
  onChange: (next: Narrowing) => void
}) => {
  const hour = (which: 'fromMinute' | 'toMinute', label: string) => (
    <label className="flex items-center gap-1.5">
      {label}
      <select
        value={narrowing[which]}
        onChange={(event) => onChange({ ...narrowing, [which]: Number(event.target.value) })}
        className="min-h-8 rounded-md border border-soft/50 bg-paper px-1.5 max-md:min-h-thumb"
      >
        {HOURS.map((minute) => (
          <option key={minute} value={minute}>
            {clockText(minute)}
          </option>
        ))}
      </select>
    </label>
  )
  const { fromMinute, toMinute, weekdays, most, aDay } = narrowing
  const narrowed = fromMinute > 0 || toMinute < 1440 || weekdays.length > 0
  return (
    <details className="text-sm" open={narrowed || undefined}>
      <summary className="min-h-8 cursor-pointer py-1 text-soft underline underline-offset-2 max-md:min-h-thumb">
        Choose others by hour, weekday and who is free
      </summary>
      <div className="flex flex-col gap-1.5 pb-1">
        <div className="flex flex-wrap items-center gap-2">
          {hour('fromMinute', 'From')}
          {hour('toMinute', 'to')}
        </div>
        <fieldset className="flex flex-wrap gap-1">
          <legend className="sr-only">Weekdays</legend>
          {WEEKDAYS.map((name, i) => {
            const on = weekdays.includes(i + 1)
            return (
              <button
                key={name}
                type="button"
                aria-pressed={on}
                onClick={() =>
                  onChange({
                    ...narrowing,
                    weekdays: on ? weekdays.filter((day) => day !== i + 1) : [...weekdays, i + 1],
                  })
                }
                className={`min-h-8 rounded-full border px-2.5 max-md:min-h-thumb ${on ? 'border-gentian bg-gentian/12 font-semibold' : 'border-soft/50'}`}
              >
                {name.slice(0, 3)}
              </button>
            )
          })}
        </fieldset>
        <Choice checked={narrowing.all} onChoose={(all) => onChange({ ...narrowing, all })}>
          Only where everybody whose time is known can come
        </Choice>
        <div className="flex flex-wrap items-center gap-2">
          <label className="flex items-center gap-1.5">
            At most
            <select
              value={most}
              onChange={(event) => onChange({ ...narrowing, most: Number(event.target.value) })}
              className="min-h-8 rounded-md border border-soft/50 bg-paper px-1.5 max-md:min-h-thumb"
            >
              {[3, 4, 5, 6, 8, 10, 15, 20, 40].map((n) => (
                <option key={n} value={n}>
                  {n} times
                </option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-1.5">
            <span className="sr-only">On one day at most</span>
            <select
              value={aDay}
              onChange={(event) => onChange({ ...narrowing, aDay: Number(event.target.value) })}
              className="min-h-8 rounded-md border border-soft/50 bg-paper px-1.5 max-md:min-h-thumb"
            >
              {[1, 2, 3, 5].map((n) => (
                <option key={n} value={n}>
                  {n === 1 ? 'one a day' : `up to ${n} a day`}
                </option>
              ))}
            </select>
          </label>
        </div>
      </div>
    </details>
  )
}

/** How it is asked, beside the times: rarely changed, so folded. */
export const AskHow = ({
  settings,
  anyone,
  onChange,
  onAnyone,
}: {
  settings: AskSettings
  anyone: boolean
  onChange: (next: AskSettings) => void
  onAnyone: (anyone: boolean) => void
}) => {
  const choice = (name: 'names' | 'oneMark' | 'proposals', words: string) => (
    <Choice checked={settings[name]} onChoose={(on) => onChange({ ...settings, [name]: on })}>
      {words}
    </Choice>
  )
  return (
    <details>
      <summary className="min-h-8 cursor-pointer py-1 text-soft text-sm underline underline-offset-2 max-md:min-h-thumb">
        How they are asked
      </summary>
      <div className="flex flex-col gap-0.5 text-sm">
        {choice('proposals', 'They may propose times of their own')}
        {choice('oneMark', 'Each chooses one time alone')}
        <Choice
          checked={settings.results === 'all'}
          onChoose={(all) => onChange({ ...settings, results: all ? 'all' : 'organizer' })}
        >
          They see how many others can come
        </Choice>
        {settings.results === 'all' && choice('names', 'They see who that is')}
        <Choice checked={anyone} onChoose={onAnyone}>
          Anyone who has one link may answer, too
        </Choice>
        <Field label="Tell me of answers">
          {(props) => (
            <select
              {...props}
              value={settings.notices}
              onChange={({ target: { value } }) =>
                onChange({
                  ...settings,
                  notices: value === 'daily' ? 'daily' : value === 'none' ? 'none' : 'each',
                })
              }
            >
              <option value="each">each of them</option>
              <option value="daily">once a day</option>
              <option value="none">not at all</option>
            </select>
          )}
        </Field>
      </div>
    </details>
  )
}
