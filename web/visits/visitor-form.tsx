import { type Answer, answerTrouble, type Question } from '@marmot/core/visits'
import { X } from 'lucide-react'
import { useState } from 'react'
import { looksLikeAddress } from '../platform/looks.ts'
import { ApiProblem } from '../platform/problem.ts'
import { newSecret } from '../platform/secret.ts'
import { Button, Choice, Field } from '../ui/parts.tsx'
import type { OfferedKind } from './use-offered.ts'

/** What a visitor types. */
export interface Typed {
  readonly name: string
  readonly address: string
  readonly place: string
  readonly guests: readonly string[]
  readonly answers: Readonly<Record<string, Answer>>
  readonly website: string
  /** The secret of the link that will be theirs. */
  readonly own: string
}

/** What a link fills in: `name`, `address`, and answers as `q.` and the question's id. */
export const typedFrom = (given: URLSearchParams): Typed => ({
  name: given.get('name') ?? '',
  address: given.get('address') ?? '',
  place: given.get('place') ?? '',
  guests: [],
  answers: Object.fromEntries(
    [...given].flatMap(([name, value]) => (name.startsWith('q.') ? [[name.slice(2), value]] : [])),
  ),
  website: '',
  own: newSecret(),
})

export const useTyped = (first: () => Typed) => {
  const [typed, setTyped] = useState(first)
  return { typed, type: (part: Partial<Typed>) => setTyped((before) => ({ ...before, ...part })) }
}

/** What of it cannot be done without, in words; empty where nothing is missing. */
export const missingIn = (kind: OfferedKind['kind'], typed: Typed): string => {
  const questions = kind.questions.filter(
    (question) => answerTrouble(question, typed.answers[question.id]) !== null,
  )
  return [
    ...(typed.name.trim() ? [] : ['your name']),
    ...(looksLikeAddress(typed.address) ? [] : ['your e-mail address']),
    ...((kind.where === 'theirs' || kind.where === 'asked') && !typed.place.trim() ? ['where to meet'] : []),
    ...questions.map((question) => `an answer to “${question.words}”`),
  ].join(', ')
}

/** One question, by its kind. */
const Asked = ({
  question,
  answer,
  error,
  onAnswer,
}: {
  question: Question
  answer: Answer | undefined
  error: string | undefined
  onAnswer: (answer: Answer) => void
}) => {
  const label = `${question.words}${question.required ? '' : ' (optional)'}`
  const several = Array.isArray(answer) ? answer.map(String) : []
  if (question.kind === 'several')
    return (
      <fieldset className="flex flex-col">
        <legend className="text-soft text-sm">{label}</legend>
        {question.options.map((option) => (
          <Choice
            key={option}
            checked={several.includes(option)}
            onChoose={(on) => onAnswer(on ? [...several, option] : several.filter((one) => one !== option))}
          >
            {option}
          </Choice>
        ))}
        {error && <p className="text-coral text-sm">⚠ {error}</p>}
      </fieldset>
    )
  return (
    <Field label={label} error={error}>
      {(props) => {
        switch (question.kind) {
          case 'choice':
            return (
              <select
                {...props}
                value={typeof answer === 'string' ? answer : ''}
                onChange={(event) => onAnswer(event.target.value)}
              >
                <option value="">choose</option>
                {question.options.map((option) => (
                  <option key={option}>{option}</option>
                ))}
              </select>
            )
          case 'yes-no':
            return (
              <select
                {...props}
                value={typeof answer === 'boolean' ? String(answer) : ''}
                onChange={(event) =>
                  onAnswer(event.target.value === '' ? null : event.target.value === 'true')
                }
              >
                <option value="">choose</option>
                <option value="true">yes</option>
                <option value="false">no</option>
              </select>
            )
          case 'number':
            return (
              <input
                {...props}
                type="number"
                inputMode="decimal"
                value={typeof answer === 'number' ? answer : ''}
                onChange={(event) =>
                  onAnswer(Number.isFinite(event.target.valueAsNumber) ? event.target.valueAsNumber : null)
                }
              />
            )
          default:
            return (
              <textarea
                {...props}
                rows={2}
                maxLength={2000}
                value={typeof answer === 'string' ? answer : ''}
                onChange={(event) => onAnswer(event.target.value)}
              />
            )
        }
      }}
    </Field>
  )
}

/** Who the visitor is, what they are asked, and whom they bring. */
export const VisitorForm = ({
  kind,
  typed,
  type,
  trouble,
}: {
  kind: OfferedKind['kind']
  typed: Typed
  type: (part: Partial<Typed>) => void
  trouble: unknown
}) => {
  const fields = trouble instanceof ApiProblem ? (trouble.problem.fields ?? []) : []
  const errorAt = (path: string) => fields.find((field) => field.path === path)?.message
  const half = typed.address !== '' && !looksLikeAddress(typed.address)
  const guest = (i: number, value: string) =>
    type({ guests: typed.guests.map((one, at) => (at === i ? value : one)) })
  return (
    <div className="flex flex-col gap-3">
      <Field label="Your name" error={errorAt('name')}>
        {(props) => (
          <input
            {...props}
            autoComplete="name"
            maxLength={100}
            value={typed.name}
            onChange={(event) => type({ name: event.target.value })}
          />
        )}
      </Field>
      <Field
        label="Your e-mail address"
        error={errorAt('address')}
        hint={half ? 'That is no whole address yet.' : 'The invitation goes there.'}
      >
        {(props) => (
          <input
            {...props}
            type="email"
            autoComplete="email"
            value={typed.address}
            onChange={(event) => type({ address: event.target.value })}
          />
        )}
      </Field>
      {kind.where === 'theirs' && (
        <Field label="Where would you like to meet?" error={errorAt('place')}>
          {(props) => (
            <input
              {...props}
              maxLength={300}
              value={typed.place}
              onChange={(event) => type({ place: event.target.value })}
            />
          )}
        </Field>
      )}
      {kind.where === 'asked' && (
        <Field label="Where would you like to meet?" error={errorAt('place')}>
          {(props) => (
            <select {...props} value={typed.place} onChange={(event) => type({ place: event.target.value })}>
              <option value="">choose</option>
              {kind.places.map((place) => (
                <option key={place}>{place}</option>
              ))}
            </select>
          )}
        </Field>
      )}
      {kind.questions.map((question) => (
        <Asked
          key={question.id}
          question={question}
          answer={typed.answers[question.id]}
          error={errorAt(`answers.${question.id}`)}
          onAnswer={(answer) => type({ answers: { ...typed.answers, [question.id]: answer } })}
        />
      ))}
      {typed.guests.map((one, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines that are typed have no name but their place
        <div key={i} className="flex items-end gap-2">
          <div className="flex-1">
            <Field label="Somebody who comes along, by e-mail address" error={errorAt(`guests.${i}.address`)}>
              {(props) => (
                <input
                  {...props}
                  type="email"
                  value={one}
                  onChange={(event) => guest(i, event.target.value)}
                />
              )}
            </Field>
          </div>
          <button
            type="button"
            aria-label="Nobody more here"
            className="grid size-thumb place-items-center rounded hover:bg-shade"
            onClick={() => type({ guests: typed.guests.filter((_, at) => at !== i) })}
          >
            <X size={16} aria-hidden />
          </button>
        </div>
      ))}
      {typed.guests.length < kind.mostGuests && (
        <Button
          className="self-start max-md:min-h-thumb"
          onClick={() => type({ guests: [...typed.guests, ''] })}
        >
          Bring somebody along
        </Button>
      )}
      {/* Seen by nobody: what fills it in is no person. */}
      <input
        tabIndex={-1}
        aria-hidden
        autoComplete="off"
        name="website"
        className="absolute -left-[9999px] h-0 w-0"
        value={typed.website}
        onChange={(event) => type({ website: event.target.value })}
      />
    </div>
  )
}
