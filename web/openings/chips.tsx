import type { Brief } from '@marmot/contract/briefs'
import { STEPS } from '@marmot/core/openings'
import {
  civilOf,
  clockText,
  dateAlone,
  dayFromCivil,
  dayOf,
  dayText,
  lengthInWords,
  parseLength,
  WEEKDAYS,
  wallFromText,
  weekStart,
} from '@marmot/core/time'
import { ChevronDown } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { Button } from '../ui/parts.tsx'
import { ClosesPopping, Popping } from '../ui/popping.tsx'
import { useBrief } from './brief.tsx'

const LENGTHS = [15, 30, 45, 60, 90, 120]

/** A part of the brief in words; pressed, it opens to be changed. */
export const Chip = ({
  label,
  children,
  words,
  whole = false,
}: {
  label: string
  children: ReactNode
  words: string
  /** So short that it is never cut: others yield. */
  whole?: boolean
}) => (
  <Popping
    label={label}
    trigger={
      <button
        type="button"
        className={`flex items-center gap-1 whitespace-nowrap rounded-full border border-soft/50 px-3 py-0.5 hover:bg-shade max-md:min-h-thumb ${whole ? 'shrink-0' : 'min-w-0'}`}
        aria-label={`${label}: ${words}`}
        title={words}
      >
        <span className="truncate">{words}</span> <ChevronDown size={13} aria-hidden className="shrink-0" />
      </button>
    }
  >
    {children}
  </Popping>
)

export const LengthChip = () => {
  const { brief, change } = useBrief()
  const [typed, setTyped] = useState('')
  const minutes = parseLength(typed)
  return (
    <Chip label="Length" words={lengthInWords(brief.minutes)} whole>
      <div className="flex flex-wrap gap-1.5">
        {LENGTHS.map((each) => (
          <ClosesPopping key={each}>
            <Button
              aria-pressed={brief.minutes === each}
              className={brief.minutes === each ? 'border-gentian font-semibold' : ''}
              onClick={() => change({ minutes: each })}
            >
              {lengthInWords(each)}
            </Button>
          </ClosesPopping>
        ))}
      </div>
      <form
        className="mt-2 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          if (minutes) change({ minutes })
        }}
      >
        <input
          aria-label="Another length"
          placeholder="Another: 50m, 1h20"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1"
        />
        <Button type="submit" disabled={!minutes}>
          {minutes ? lengthInWords(minutes) : 'Set'}
        </Button>
      </form>
    </Chip>
  )
}

/** Days further from today than this are half typed: 0002 on the way to 2027. */
const FARTHEST_DAYS = 1100

/** A day, typed or picked. While it is being typed it is nobody's business but the field's. */
const DayField = ({
  label,
  day,
  today,
  onDay,
}: {
  label: string
  day: number
  today: number
  onDay: (day: number) => void
}) => {
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <label className="flex flex-col">
      {label}
      <input
        type="date"
        className="rounded-md border border-soft/50 bg-paper px-2 py-1"
        value={typed ?? dayText(day)}
        onChange={(event) => {
          setTyped(event.target.value)
          const wall = wallFromText(`${event.target.value}T00:00`)
          if (wall !== null && Math.abs(dayOf(wall) - today) < FARTHEST_DAYS) onDay(dayOf(wall))
        }}
        onBlur={() => setTyped(null)}
      />
    </label>
  )
}

/** Spans of days as one says them, from today on. Weeks begin on Monday. */
const spansFrom = (today: number): { words: string; fromDay: number; toDay: number }[] => {
  const week = weekStart(today) + 7
  const { year, month } = civilOf(today)
  const monthFrom = (ahead: number) =>
    dayFromCivil(year + Math.floor((month - 1 + ahead) / 12), ((month - 1 + ahead) % 12) + 1, 1) ?? today
  return [
    { words: 'This week', fromDay: today, toDay: week },
    { words: 'Next week', fromDay: week, toDay: week + 7 },
    { words: '2 weeks', fromDay: today, toDay: today + 14 },
    { words: '4 weeks', fromDay: today, toDay: today + 28 },
    { words: 'This month', fromDay: today, toDay: monthFrom(1) },
    { words: 'Next month', fromDay: monthFrom(1), toDay: monthFrom(2) },
  ]
}

export const WindowChip = ({
  today,
  onWindow,
}: {
  today: number
  onWindow: (fromDay: number, toDay: number) => void
}) => {
  const { brief } = useBrief()
  const words = `${dateAlone(brief.fromDay)} to ${dateAlone(brief.toDay - 1)}`
  const set = (part: 'fromDay' | 'toDay', day: number) => {
    if (part === 'fromDay') onWindow(day, Math.max(brief.toDay, day + 1))
    else onWindow(Math.min(brief.fromDay, day), day + 1)
  }
  return (
    <Chip label="When" words={words} whole>
      <div className="flex flex-wrap gap-1.5">
        {spansFrom(today).map((span) => (
          <ClosesPopping key={span.words}>
            <Button
              aria-pressed={span.fromDay === brief.fromDay && span.toDay === brief.toDay}
              className="aria-pressed:border-gentian aria-pressed:font-semibold"
              onClick={() => onWindow(span.fromDay, span.toDay)}
            >
              {span.words}
            </Button>
          </ClosesPopping>
        ))}
      </div>
      <div className="mt-2 grid grid-cols-2 gap-2 text-sm">
        <DayField label="From" day={brief.fromDay} today={today} onDay={(day) => set('fromDay', day)} />
        <DayField label="To" day={brief.toDay - 1} today={today} onDay={(day) => set('toDay', day)} />
      </div>
    </Chip>
  )
}

/** How far openings may reach into people's own time, in words. */
const stretchWords = (stretch: number | null): string =>
  stretch === 0
    ? 'inside working hours'
    : stretch === null
      ? 'any hour'
      : `${lengthInWords(stretch)} outside hours`

const STRETCHES = [0, 30, 60, 120, 240, null] as const

/** A count from 1 on, or none. */
export const CountField = ({
  label,
  none,
  most,
  value,
  onCount,
}: {
  label: string
  none: string
  most: number
  value: number | null
  onCount: (count: number | null) => void
}) => (
  <label className="flex flex-col">
    {label}
    <input
      type="number"
      min={1}
      max={most}
      className="w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1"
      value={value ?? ''}
      placeholder={none}
      onChange={(event) =>
        onCount(
          event.target.value === ''
            ? null
            : Math.max(1, Math.min(most, Math.round(event.target.valueAsNumber))),
        )
      }
    />
  </label>
)

export const RulesChip = () => {
  const { brief, change } = useBrief()
  const { rules } = brief
  const set = (next: Partial<Brief['rules']>) => change({ rules: { ...rules, ...next } })
  const field = 'w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1'
  const hour = (name: 'earliest' | 'latest', label: string) => (
    <label className="flex flex-col">
      {label}
      <select
        className={field}
        value={rules[name] ?? ''}
        onChange={(event) => set({ [name]: event.target.value === '' ? null : Number(event.target.value) })}
      >
        <option value="">none</option>
        {Array.from({ length: 23 }, (_, i) => (i + 1) * 60).map((minute) => (
          <option key={minute} value={minute}>
            {clockText(minute)}
          </option>
        ))}
      </select>
    </label>
  )
  const number = (name: 'before' | 'after' | 'notice', label: string, most: number) => (
    <label className="flex flex-col">
      {label}
      <input
        type="number"
        min={0}
        max={most}
        step={5}
        className={field}
        value={rules[name]}
        onChange={(event) =>
          set({ [name]: Math.max(0, Math.min(most, Math.round(event.target.valueAsNumber || 0))) })
        }
      />
    </label>
  )
  return (
    <Chip label="Hours" words={stretchWords(rules.stretch)} whole>
      <div className="flex max-h-[60dvh] flex-col gap-2 overflow-y-auto text-sm">
        <fieldset className="flex flex-wrap gap-1.5">
          <legend className="mb-1 font-semibold">How far outside their hours</legend>
          {STRETCHES.map((stretch) => (
            <Button
              key={String(stretch)}
              aria-pressed={rules.stretch === stretch}
              className={rules.stretch === stretch ? 'border-gentian font-semibold' : ''}
              onClick={() => set({ stretch })}
            >
              {stretch === 0 ? 'Not at all' : stretch === null ? 'Any hour' : lengthInWords(stretch)}
            </Button>
          ))}
        </fieldset>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={rules.lunch}
            onChange={(event) => set({ lunch: event.target.checked })}
          />
          Keep lunch breaks
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={rules.tentative}
            onChange={(event) => set({ tentative: event.target.checked })}
          />
          Time that is not certain may be used
        </label>
        <fieldset className="flex flex-wrap gap-x-3 gap-y-1">
          <legend className="mb-1 font-semibold">Weekdays</legend>
          {WEEKDAYS.map((name, i) => (
            <label key={name} className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={rules.weekdays.includes(i + 1)}
                onChange={(event) =>
                  set({
                    weekdays: event.target.checked
                      ? [...rules.weekdays, i + 1].sort()
                      : rules.weekdays.filter((each) => each !== i + 1),
                  })
                }
              />
              {name.slice(0, 3)}
            </label>
          ))}
        </fieldset>
        <div className="grid grid-cols-2 gap-2">
          {hour('earliest', 'Not before, for anyone')}
          {hour('latest', 'Not after, for anyone')}
          {number('before', 'Minutes free before', 240)}
          {number('after', 'Minutes free after', 240)}
          {number('notice', 'Minutes of notice', 20_160)}
          <CountField
            label="Most a day for each"
            none="no limit"
            most={20}
            value={rules.mostADay}
            onCount={(mostADay) => set({ mostADay })}
          />
          <label className="flex flex-col">
            Starts every
            <select
              className={field}
              value={brief.step}
              onChange={(event) => change({ step: Number(event.target.value) })}
            >
              {STEPS.map((step) => (
                <option key={step} value={step}>
                  {lengthInWords(step)}
                </option>
              ))}
            </select>
          </label>
        </div>
      </div>
    </Chip>
  )
}
