import { SCOPES, type Scope } from '@marmot/core/entries'
import { useId } from 'react'
import type { DateChoice } from '../answers/answer-form.tsx'

/** Which dates of a series are changed or cancelled: always said, never taken for granted. */
export const ScopeChoice = ({
  date,
  chosen,
  onChoose,
}: {
  date: DateChoice
  chosen: Scope
  onChoose: (scope: Scope) => void
}) => {
  const name = useId()
  const words: Record<Scope, string> = {
    this: `Only ${date.words}`,
    following: 'This and the following',
    all: 'All dates',
  }
  return (
    <fieldset className="flex flex-wrap gap-x-4">
      <legend className="sr-only">Which dates</legend>
      {SCOPES.map((scope) => (
        <label key={scope} className="inline-flex min-h-8 items-center gap-1.5 max-md:min-h-thumb">
          <input
            type="radio"
            name={name}
            className="accent-gentian"
            checked={chosen === scope}
            onChange={() => onChoose(scope)}
          />
          {words[scope]}
        </label>
      ))}
    </fieldset>
  )
}
