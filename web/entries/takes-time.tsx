import type { SpanState } from '@marmot/core/sharing'
import { Field } from '../ui/parts.tsx'

/** Whether something takes one's time, as one would say it. */
export const TAKES: Record<SpanState, string> = {
  busy: 'Yes',
  tentative: 'Perhaps',
  away: 'I am away',
  listed: 'No',
  held: 'Kept free for now',
}

/** A lane in small: as much of its height is taken as the answer says. */
const Sample = ({ state }: { state: SpanState }) => (
  <span aria-hidden className="relative h-4 w-5 shrink-0 overflow-hidden rounded-xs bg-open">
    <i className="absolute inset-0 rounded-xs border border-(--open-edge)" />
    <i
      className={`absolute inset-x-1 bg-busy ${{ busy: 'inset-y-0', tentative: 'top-1/2 bottom-0', held: 'top-1/2 bottom-0', listed: 'top-0 h-1', away: 'inset-y-0' }[state]} ${state === 'away' ? 'inset-x-0 border-ink border-x-[3px]' : ''}`}
      style={{ boxShadow: 'inset 0 0 0 1px var(--busy-edge)' }}
    />
  </span>
)

/** Asks whether an entry takes one's time, each answer drawn as the lanes will draw it. */
export const TakesTime = ({
  value,
  disabled,
  whose,
  onChange,
}: {
  value: SpanState
  disabled: boolean
  whose: string
  onChange: (state: SpanState) => void
}) => (
  <fieldset disabled={disabled}>
    <legend className="mb-0.5 text-soft text-sm">Does it take {whose} time?</legend>
    <div className="flex flex-wrap gap-1.5">
      {(['busy', 'tentative', 'listed', 'away', 'held'] as const)
        // Only what lapses by itself is kept free for now; it is nothing to choose.
        .filter((state) => state !== 'held' || value === 'held')
        .map((state) => (
          <label
            key={state}
            className="flex min-h-8 items-center gap-1.5 rounded-full border border-soft/50 px-2.5 text-sm has-checked:border-gentian has-checked:bg-gentian/12 has-checked:font-semibold has-focus-visible:outline-2 has-focus-visible:outline-gentian max-md:min-h-thumb"
          >
            <input
              type="radio"
              name="takes-time"
              className="sr-only"
              checked={value === state}
              onChange={() => onChange(state)}
            />
            <Sample state={state} />
            {TAKES[state]}
          </label>
        ))}
    </div>
  </fieldset>
)

/** Who may read what it is: as I share my time, or nobody. */
export const WhoReads = ({
  value,
  disabled,
  onChange,
}: {
  value: boolean
  disabled: boolean
  onChange: (value: boolean) => void
}) => (
  <Field label="Who may read what it is">
    {(props) => (
      <select
        {...props}
        value={value ? 'nobody' : 'shared'}
        disabled={disabled}
        onChange={(event) => onChange(event.target.value === 'nobody')}
      >
        <option value="shared">those with whom my time is shared</option>
        <option value="nobody">nobody: others see only whether I am free</option>
      </select>
    )}
  </Field>
)
