import type { Repetition } from '@marmot/contract/entries'
import { sixDates } from '@marmot/core/entries'
import {
  DAY_CODES,
  endingOn,
  type Frequency,
  plainRule,
  type Rule,
  readRule,
  readWalls,
  ruleInWords,
  type Series,
  seriesTrouble,
  writeRule,
} from '@marmot/core/recurrence'
import {
  civilOf,
  type Day,
  dayOf,
  minuteOf,
  parseDay,
  shortDay,
  type Wall,
  WEEKDAYS,
  wallOf,
  wallText,
  weekdayOf,
  type ZoneTable,
} from '@marmot/core/time'
import { X } from 'lucide-react'
import { useState } from 'react'
import { Field } from '../ui/parts.tsx'

const CHOICES: readonly { value: string; words: string }[] = [
  { value: '', words: 'Does not repeat' },
  { value: 'DAILY', words: 'Every day' },
  { value: 'WORKING', words: 'Every working day' },
  { value: 'WEEKLY', words: 'Every week' },
  { value: 'MONTHLY', words: 'Every month' },
  { value: 'YEARLY', words: 'Every year' },
  { value: 'TYPED', words: 'By a rule that I type' },
]

const UNITS: Record<string, string> = { DAILY: 'days', WEEKLY: 'weeks', MONTHLY: 'months', YEARLY: 'years' }
const WORKING_RULE = 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR'

const readable = (text: string | null): Rule | null => {
  if (text === null) return null
  try {
    return readRule(text)
  } catch {
    return null
  }
}

/** Rules that the choices can express; anything else is shown as typed. */
const isPlain = (rule: Rule): boolean =>
  !rule.positions.length &&
  !rule.weekNumbers.length &&
  !rule.yearDays.length &&
  !rule.hours.length &&
  !rule.minutes.length &&
  !rule.months.length &&
  rule.monthDays.length < 2 &&
  (rule.frequency === 'WEEKLY' || rule.days.length < 2) &&
  ['DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'].includes(rule.frequency) &&
  !(rule.frequency === 'DAILY' && rule.days.length)

const nthOf = (day: Day): number => Math.floor((civilOf(day).date - 1) / 7) + 1

/** The ways a month can be meant by one of its days: the 3rd, the first Thursday, the last Thursday. */
const monthlyWays = (day: Day): { value: string; rule: Partial<Rule> }[] => {
  const weekday = weekdayOf(day)
  const last = civilOf(day + 7).month !== civilOf(day).month
  const nth = nthOf(day)
  return [
    { value: 'date', rule: { days: [], monthDays: [] } },
    ...(nth < 5 ? [{ value: 'nth', rule: { days: [{ nth, weekday }], monthDays: [] } }] : []),
    ...(last ? [{ value: 'last', rule: { days: [{ nth: -1, weekday }], monthDays: [] } }] : []),
    ...(civilOf(day + 1).date === 1 ? [{ value: 'lastday', rule: { days: [], monthDays: [-1] } }] : []),
  ]
}

const Dates = ({
  label,
  walls,
  starts,
  onChange,
}: {
  label: string
  walls: readonly string[]
  starts: Wall
  onChange: (walls: string[]) => void
}) => {
  const [text, setText] = useState('')
  const [unclear, setUnclear] = useState(false)
  const add = () => {
    const day = parseDay(text, dayOf(starts))
    setUnclear(day === null)
    if (day === null) return
    onChange([...new Set([...walls, wallText(wallOf(day, minuteOf(starts)))])].sort())
    setText('')
  }
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {walls.map((wall) => (
        <span key={wall} className="flex items-center gap-1 rounded bg-shade px-1.5 text-sm">
          {shortDay(dayOf(readWalls([wall])[0] ?? 0))}
          <button
            type="button"
            aria-label={`Not ${wall}`}
            className="grid size-[25px] place-items-center"
            onClick={() => onChange(walls.filter((each) => each !== wall))}
          >
            <X size={13} aria-hidden />
          </button>
        </span>
      ))}
      <input
        aria-label={label}
        aria-invalid={unclear || undefined}
        placeholder={`${label}: 3 dec`}
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setUnclear(false)
        }}
        onBlur={() => text && add()}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' || !text) return
          event.preventDefault()
          add()
        }}
        className={`w-36 rounded border bg-paper px-1.5 py-0.5 text-sm ${unclear ? 'border-coral' : 'border-line'}`}
      />
    </div>
  )
}

const EMPTY: Repetition = { rule: null, added: [], excepted: [] }

/** How an entry repeats: chosen or typed, in words, with its next six dates while it is made. */
export const RepeatField = ({
  starts,
  table,
  value,
  locked,
  onChange,
}: {
  starts: Wall
  table: ZoneTable
  value: Repetition | null
  locked: boolean
  onChange: (value: Repetition | null) => void
}) => {
  const current = value ?? EMPTY
  const rule = readable(current.rule)
  const [typing, setTyping] = useState(() => current.rule !== null && (rule === null || !isPlain(rule)))
  const day = dayOf(starts)
  const write = (next: Rule) => onChange({ ...current, rule: writeRule(next) })
  const choice = typing ? 'TYPED' : current.rule === WORKING_RULE ? 'WORKING' : (rule?.frequency ?? '')
  const choose = (next: string) => {
    setTyping(next === 'TYPED')
    if (next === '') onChange(null)
    else if (next === 'TYPED') onChange({ ...current, rule: current.rule ?? 'FREQ=WEEKLY' })
    else if (next === 'WORKING') onChange({ ...current, rule: WORKING_RULE })
    else write({ ...plainRule(next as Frequency), count: rule?.count ?? null, until: rule?.until ?? null })
  }
  const series: Series = {
    starts,
    minutes: 30,
    rule: current.rule,
    added: readWalls(current.added),
    excepted: readWalls(current.excepted),
  }
  const trouble = current.rule === null ? null : seriesTrouble(series, table)
  const ways = monthlyWays(day)
  const way =
    ways.find((each) => rule && writeRule({ ...rule, ...each.rule }) === writeRule(rule))?.value ?? 'date'
  const named = new Set(rule?.days.length ? rule.days.map((each) => each.weekday) : [weekdayOf(day)])
  const ends = rule?.count ? 'count' : rule?.until ? 'until' : 'never'
  const [untilText, setUntilText] = useState('')
  return (
    <div className="flex flex-col gap-2">
      <Field label="Repeats">
        {(props) => (
          <select
            {...props}
            value={choice}
            disabled={locked}
            onChange={(event) => choose(event.target.value)}
          >
            {CHOICES.map((each) => (
              <option key={each.value} value={each.value}>
                {each.words}
              </option>
            ))}
          </select>
        )}
      </Field>
      {choice !== '' && !locked && (
        <div className="flex flex-col gap-2 rounded-md border border-line p-2.5">
          {typing ? (
            <Field label="Rule (RFC 5545)">
              {(props) => (
                <input
                  {...props}
                  spellCheck={false}
                  value={current.rule ?? ''}
                  onChange={(event) => onChange({ ...current, rule: event.target.value })}
                />
              )}
            </Field>
          ) : (
            rule && (
              <>
                {choice !== 'WORKING' && (
                  <label className="flex items-center gap-2 text-sm">
                    every
                    <input
                      type="number"
                      min={1}
                      max={999}
                      aria-label="How many between"
                      value={rule.interval}
                      onChange={(event) =>
                        write({
                          ...rule,
                          interval: Math.max(1, Math.min(999, Number(event.target.value) || 1)),
                        })
                      }
                      className="w-16 rounded border border-line bg-paper px-1.5 py-0.5"
                    />
                    {UNITS[rule.frequency]}
                  </label>
                )}
                {choice === 'WEEKLY' && (
                  <fieldset className="flex gap-1">
                    <legend className="sr-only">On which weekdays</legend>
                    {WEEKDAYS.map((name, i) => (
                      <button
                        key={name}
                        type="button"
                        aria-pressed={named.has(i + 1)}
                        aria-label={name}
                        onClick={() => {
                          const next = new Set(named)
                          if (!next.delete(i + 1)) next.add(i + 1)
                          if (next.size)
                            write({
                              ...rule,
                              days: [...next].sort().map((weekday) => ({ nth: null, weekday })),
                            })
                        }}
                        className="min-h-7 flex-1 rounded border border-line text-sm aria-pressed:border-gentian aria-pressed:bg-gentian aria-pressed:text-gentian-ink"
                      >
                        {(DAY_CODES[i] ?? '').slice(0, 1) + (DAY_CODES[i] ?? '').slice(1).toLowerCase()}
                      </button>
                    ))}
                  </fieldset>
                )}
                {choice === 'MONTHLY' && (
                  <select
                    aria-label="On which day of the month"
                    value={way}
                    onChange={(event) => {
                      const next = ways.find((each) => each.value === event.target.value)
                      if (next) write({ ...rule, ...next.rule })
                    }}
                    className="rounded border border-line bg-paper px-1.5 py-0.5 text-sm"
                  >
                    {ways.map((each) => (
                      <option key={each.value} value={each.value}>
                        {ruleInWords({ ...plainRule('MONTHLY'), ...each.rule }, starts).replace(
                          'Every month ',
                          '',
                        )}
                      </option>
                    ))}
                  </select>
                )}
                <div className="flex flex-wrap items-center gap-2 text-sm">
                  <select
                    aria-label="Until when"
                    value={ends}
                    onChange={(event) => {
                      const next = event.target.value
                      if (next === 'count') write({ ...rule, until: null, count: 10 })
                      else write(endingOn(rule, next === 'until' ? day + 84 : null))
                      setUntilText('')
                    }}
                    className="rounded border border-line bg-paper px-1.5 py-0.5"
                  >
                    <option value="never">without an end</option>
                    <option value="until">until a day</option>
                    <option value="count">a number of times</option>
                  </select>
                  {ends === 'count' && (
                    <input
                      type="number"
                      min={1}
                      max={5000}
                      aria-label="How many times"
                      value={rule.count ?? 1}
                      onChange={(event) =>
                        write({
                          ...rule,
                          count: Math.max(1, Math.min(5000, Number(event.target.value) || 1)),
                        })
                      }
                      className="w-20 rounded border border-line bg-paper px-1.5 py-0.5"
                    />
                  )}
                  {ends === 'until' && (
                    <input
                      aria-label="Until which day"
                      placeholder={rule.until ? shortDay(dayOf(rule.until.wall)) : '26 mar'}
                      value={untilText}
                      onChange={(event) => {
                        setUntilText(event.target.value)
                        const last = parseDay(event.target.value, day)
                        if (last !== null) write(endingOn(rule, last))
                      }}
                      className="w-32 rounded border border-line bg-paper px-1.5 py-0.5"
                    />
                  )}
                </div>
              </>
            )
          )}
          <Dates
            label="Not on"
            walls={current.excepted}
            starts={starts}
            onChange={(excepted) => onChange({ ...current, excepted })}
          />
          <Dates
            label="Also on"
            walls={current.added}
            starts={starts}
            onChange={(added) => onChange({ ...current, added })}
          />
          {trouble ? (
            <p role="alert" className="text-coral text-sm">
              ⚠ {trouble}
            </p>
          ) : (
            <p className="text-sm" data-testid="rule-words">
              <b className="font-semibold">{rule && ruleInWords(rule, starts)}</b>
              <br />
              <span className="text-soft">
                Next: {sixDates(series, table, starts).map(shortDay).join(' · ')}
              </span>
            </p>
          )}
        </div>
      )}
    </div>
  )
}
