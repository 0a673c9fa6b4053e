import type { VisitKind } from '@marmot/contract/visit-pages'
import { STEPS } from '@marmot/core/openings'
import { clockText, lengthInWords, parseClock, WEEKDAYS } from '@marmot/core/time'
import { QUESTION_KINDS } from '@marmot/core/visits'
import { X } from 'lucide-react'
import { useRef, useState } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { Button, Choice, Field } from '../ui/parts.tsx'

interface Part {
  readonly terms: VisitKind
  readonly set: (part: Partial<VisitKind>) => void
}

/** Somebody whose time is offered. */
export interface Hosting {
  readonly id: string
  readonly name: string
  readonly agreed: boolean
}

const Lengths = ({
  label,
  value,
  options,
  none,
  onChoose,
}: {
  label: string
  value: number | null
  options: readonly number[]
  /** What none is called; left out where there has to be one. */
  none?: string
  onChoose: (value: number | null) => void
}) => (
  <Field label={label}>
    {(props) => (
      <select
        {...props}
        value={value ?? ''}
        onChange={(event) => onChoose(event.target.value === '' ? null : Number(event.target.value))}
      >
        {none !== undefined && <option value="">{none}</option>}
        {[...new Set([...options, ...(value === null ? [] : [value])])]
          .sort((a, b) => a - b)
          .map((minutes) => (
            <option key={minutes} value={minutes}>
              {minutes === 0
                ? 'none'
                : minutes % 1440 === 0
                  ? `${minutes / 1440} ${minutes === 1440 ? 'day' : 'days'}`
                  : lengthInWords(minutes)}
            </option>
          ))}
      </select>
    )}
  </Field>
)

const Count = ({
  label,
  value,
  most,
  none,
  onCount,
}: {
  label: string
  value: number | null
  most: number
  none: string
  onCount: (value: number | null) => void
}) => (
  <Field label={label}>
    {(props) => (
      <input
        {...props}
        type="number"
        min={none ? 1 : 0}
        max={most}
        placeholder={none}
        value={value ?? ''}
        onChange={(event) =>
          onCount(
            Number.isFinite(event.target.valueAsNumber)
              ? Math.max(none ? 1 : 0, Math.min(most, Math.round(event.target.valueAsNumber)))
              : none
                ? null
                : 0,
          )
        }
      />
    )}
  </Field>
)

const NINE = 9 * 60
const FIVE = 17 * 60

/** Hours of its own: the same on each weekday that is chosen. */
const Hours = ({ terms, set }: Part) => {
  const first = terms.hours?.[0]
  const [from, setFrom] = useState(clockText(first?.from ?? NINE))
  const [to, setTo] = useState(clockText(first?.to ?? FIVE))
  const put = (nextFrom: string, nextTo: string) => {
    const [a, b] = [parseClock(nextFrom), parseClock(nextTo)]
    if (a !== null && b !== null && b > a)
      set({ hours: [1, 2, 3, 4, 5, 6, 7].map((weekday) => ({ weekday, from: a, to: b })) })
  }
  return (
    <>
      <Choice
        checked={terms.hours === null}
        onChoose={(usual) => (usual ? set({ hours: null }) : put(from, to))}
      >
        In working hours, as they are in the calendar
      </Choice>
      {terms.hours !== null && (
        <div className="grid grid-cols-2 gap-2">
          <Field label="From" error={parseClock(from) === null ? 'is no time' : undefined}>
            {(props) => (
              <input
                {...props}
                value={from}
                onChange={(event) => {
                  setFrom(event.target.value)
                  put(event.target.value, to)
                }}
              />
            )}
          </Field>
          <Field label="To" error={parseClock(to) === null ? 'is no time' : undefined}>
            {(props) => (
              <input
                {...props}
                value={to}
                onChange={(event) => {
                  setTo(event.target.value)
                  put(from, event.target.value)
                }}
              />
            )}
          </Field>
        </div>
      )}
    </>
  )
}

/** When it can be had: hours, days, notice, gaps, limits. */
export const KindTimes = ({ terms, set }: Part) => (
  <>
    <Hours terms={terms} set={set} />
    <fieldset className="flex flex-wrap gap-1">
      <legend className="text-soft text-sm">On which weekdays</legend>
      {WEEKDAYS.map((name, i) => {
        const on = terms.weekdays.includes(i + 1)
        const next = on ? terms.weekdays.filter((day) => day !== i + 1) : [...terms.weekdays, i + 1].sort()
        return (
          <button
            key={name}
            type="button"
            aria-pressed={on}
            disabled={on && next.length === 0}
            onClick={() => set({ weekdays: next })}
            className={`min-h-8 rounded-full border px-2.5 max-md:min-h-thumb ${on ? 'border-gentian bg-gentian/12 font-semibold' : 'border-soft/50'}`}
          >
            {name.slice(0, 3)}
          </button>
        )
      })}
    </fieldset>
    <div className="grid grid-cols-2 gap-2">
      {(['fromDay', 'toDay'] as const).map((which) => (
        <Field key={which} label={which === 'fromDay' ? 'From day (optional)' : 'To day (optional)'}>
          {(props) => (
            <input
              {...props}
              type="date"
              value={terms[which] ?? ''}
              onChange={(event) => set({ [which]: event.target.value || null })}
            />
          )}
        </Field>
      ))}
      <Lengths
        label="Shortest notice"
        value={terms.notice}
        options={[0, 60, 240, 1440, 2880, 10_080]}
        onChoose={(notice) => set({ notice: notice ?? 0 })}
      />
      <Count
        label="How many days ahead"
        value={terms.ahead}
        most={366}
        none=""
        onCount={(ahead) => set({ ahead: Math.max(1, ahead ?? 60) })}
      />
      <Lengths
        label="Keep free before"
        value={terms.before}
        options={[0, 5, 10, 15, 30, 60, 120]}
        onChoose={(before) => set({ before: before ?? 0 })}
      />
      <Lengths
        label="Keep free after"
        value={terms.after}
        options={[0, 5, 10, 15, 30, 60, 120]}
        onChoose={(after) => set({ after: after ?? 0 })}
      />
      <Count
        label="At most a day"
        value={terms.mostADay}
        most={50}
        none="no limit"
        onCount={(mostADay) => set({ mostADay })}
      />
      <Count
        label="At most a week"
        value={terms.mostAWeek}
        most={200}
        none="no limit"
        onCount={(mostAWeek) => set({ mostAWeek })}
      />
      <Field label="Starts every">
        {(props) => (
          <select
            {...props}
            value={terms.step}
            onChange={(event) => {
              const step = STEPS.find((one) => one === Number(event.target.value))
              if (step) set({ step })
            }}
          >
            {STEPS.map((step) => (
              <option key={step} value={step}>
                {lengthInWords(step)}
              </option>
            ))}
          </select>
        )}
      </Field>
    </div>
    <Choice checked={terms.tentative} onChoose={(tentative) => set({ tentative })}>
      Also where I am only perhaps taken
    </Choice>
  </>
)

const TOGETHER_WORDS = {
  together: 'all of them are there',
  turn: 'whoever is free, in turn',
  choose: 'the visitor chooses one',
} as const

/** Whose time is offered, and how several stand for one visit. */
export const KindWho = ({
  terms,
  set,
  hosts,
  onHosts,
}: Part & { readonly hosts: readonly Hosting[]; readonly onHosts: (hosts: readonly Hosting[]) => void }) => {
  const search = useRef<HTMLInputElement>(null)
  return (
    <>
      <ul>
        {hosts.map((host) => (
          <li key={host.id} className="flex items-center gap-2 border-line border-t first:border-t-0">
            <span className="min-w-0 flex-1 truncate">{host.name}</span>
            {!host.agreed && <span className="text-soft text-sm">is asked first</span>}
            <button
              type="button"
              disabled={hosts.length === 1}
              aria-label={`Without ${host.name}`}
              className="grid size-8 place-items-center rounded hover:bg-shade disabled:opacity-40 max-md:size-thumb"
              onClick={() => onHosts(hosts.filter((one) => one.id !== host.id))}
            >
              <X size={15} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <PeopleSearch
        inputRef={search}
        words="Add a colleague"
        taken={new Set(hosts.map((host) => host.id))}
        onPeople={(people) =>
          onHosts([
            ...hosts,
            ...people
              .filter((one) => !hosts.some((host) => host.id === one.id))
              .map((one) => ({ id: one.id, name: one.name, agreed: false })),
          ])
        }
      />
      {hosts.length > 1 && (
        <Field label="Who is there">
          {(props) => (
            <select
              {...props}
              value={terms.together}
              onChange={({ target: { value } }) =>
                set({ together: value === 'turn' ? 'turn' : value === 'choose' ? 'choose' : 'together' })
              }
            >
              {Object.entries(TOGETHER_WORDS).map(([how, words]) => (
                <option key={how} value={how}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      <p className="text-soft text-sm">Nobody’s time is offered before they agree.</p>
    </>
  )
}

const QUESTION_WORDS = {
  text: 'text',
  choice: 'one of several',
  several: 'some of several',
  'yes-no': 'yes or no',
  number: 'a number',
} as const

/** What visitors read, and what they are asked. */
export const KindAsks = ({ terms, set }: Part) => {
  const { questions } = terms
  const put = (i: number, part: Partial<VisitKind['questions'][number]>) =>
    set({ questions: questions.map((one, at) => (at === i ? { ...one, ...part } : one)) })
  return (
    <>
      <Field label="What it is about (optional)">
        {(props) => (
          <textarea
            {...props}
            rows={2}
            maxLength={2000}
            value={terms.about}
            onChange={(event) => set({ about: event.target.value })}
          />
        )}
      </Field>
      <Field label="What it costs, if anything (it is said, not collected)">
        {(props) => (
          <input
            {...props}
            maxLength={200}
            value={terms.cost}
            onChange={(event) => set({ cost: event.target.value })}
          />
        )}
      </Field>
      <ol className="flex flex-col gap-2">
        {questions.map((question, i) => (
          <li key={question.id} className="flex flex-col gap-1.5 rounded-md bg-ground px-2.5 py-2">
            <div className="flex items-center gap-2">
              <input
                aria-label={`Question ${i + 1}`}
                maxLength={300}
                value={question.words}
                placeholder="What would you like to see?"
                className="min-h-8 min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb"
                onChange={(event) => put(i, { words: event.target.value })}
              />
              <button
                type="button"
                aria-label={`Without question ${i + 1}`}
                className="grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
                onClick={() => set({ questions: questions.filter((one) => one !== question) })}
              >
                <X size={15} aria-hidden />
              </button>
            </div>
            <div className="flex flex-wrap items-center gap-3">
              <select
                aria-label={`How question ${i + 1} is answered`}
                value={question.kind}
                className="min-h-8 rounded-md border border-soft/50 bg-paper px-1.5 max-md:min-h-thumb"
                onChange={({ target: { value } }) => {
                  const kind = QUESTION_KINDS.find((one) => one === value)
                  if (kind) put(i, { kind })
                }}
              >
                {QUESTION_KINDS.map((kind) => (
                  <option key={kind} value={kind}>
                    {QUESTION_WORDS[kind]}
                  </option>
                ))}
              </select>
              <Choice checked={question.required} onChoose={(required) => put(i, { required })}>
                has to be answered
              </Choice>
            </div>
            {(question.kind === 'choice' || question.kind === 'several') && (
              <textarea
                aria-label={`What can be chosen in question ${i + 1}, a line each`}
                rows={3}
                placeholder="A line for each"
                defaultValue={question.options.join('\n')}
                className="rounded-md border border-soft/50 bg-paper px-2 py-1"
                onBlur={(event) =>
                  put(i, {
                    options: event.target.value
                      .split('\n')
                      .map((line) => line.trim())
                      .filter(Boolean),
                  })
                }
              />
            )}
          </li>
        ))}
      </ol>
      <Button
        className="self-start max-md:min-h-thumb"
        disabled={questions.length >= 20}
        onClick={() =>
          set({
            questions: [
              ...questions,
              { id: crypto.randomUUID().slice(0, 8), kind: 'text', words: '', required: false, options: [] },
            ],
          })
        }
      >
        Ask something
      </Button>
      <Count
        label="How many others a visitor may bring"
        value={terms.mostGuests}
        most={20}
        none=""
        onCount={(mostGuests) => set({ mostGuests: mostGuests ?? 0 })}
      />
    </>
  )
}

/** Until when visitors may move and cancel, and what they are written. */
export const KindLetters = ({ terms, set }: Part) => (
  <>
    <div className="grid grid-cols-2 gap-2">
      <Lengths
        label="Visitors may move it until"
        none="not at all"
        value={terms.moveBefore}
        options={[0, 60, 120, 1440, 2880]}
        onChoose={(moveBefore) => set({ moveBefore })}
      />
      <Lengths
        label="and cancel it until"
        none="not at all"
        value={terms.cancelBefore}
        options={[0, 60, 120, 1440, 2880]}
        onChoose={(cancelBefore) => set({ cancelBefore })}
      />
      <Lengths
        label="They are reminded before"
        none="not at all"
        value={terms.remind}
        options={[30, 60, 120, 1440, 2880]}
        onChoose={(remind) => set({ remind })}
      />
    </div>
    <Field label="What is said once it is taken (optional)">
      {(props) => (
        <textarea
          {...props}
          rows={2}
          maxLength={2000}
          value={terms.words}
          onChange={(event) => set({ words: event.target.value })}
        />
      )}
    </Field>
    <Field label="Where to go on from there (optional)">
      {(props) => (
        <input
          {...props}
          type="url"
          placeholder="https://"
          value={terms.goOn}
          onChange={(event) => set({ goOn: event.target.value })}
        />
      )}
    </Field>
    <Field label="A letter afterwards (optional)">
      {(props) => (
        <textarea
          {...props}
          rows={2}
          maxLength={4000}
          value={terms.thanks}
          onChange={(event) => set({ thanks: event.target.value })}
        />
      )}
    </Field>
    <Choice checked={terms.proof} onChoose={(proof) => set({ proof })}>
      A time is theirs only once they press a link in a letter
    </Choice>
    <Choice checked={terms.byLinkOnly} onChoose={(byLinkOnly) => set({ byLinkOnly })}>
      Only by links that each work once
    </Choice>
  </>
)
