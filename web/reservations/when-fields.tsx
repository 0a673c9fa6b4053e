import { lengthInWords, minutesBetween, spanInWords } from '@marmot/core/time'
import { useMe, useNow } from '../platform/session.tsx'
import { Choice, Field } from '../ui/parts.tsx'
import type { useTypedSpan } from './use-typed-span.ts'

/** The day, the clocks or the whole days, and all of it as one sentence. */
export const WhenFields = ({ when }: { when: ReturnType<typeof useTypedSpan> }) => {
  const { zone } = useMe()
  const now = useNow()
  const { typed, type, begin, errors, allDay, fine } = when
  const field = (name: 'day' | 'from' | 'until', label: string) => (
    <Field label={label} error={errors[name]}>
      {(props) => (
        <input
          {...props}
          value={typed[name]}
          maxLength={60}
          onChange={(event) =>
            name === 'from' ? begin(event.target.value) : type({ [name]: event.target.value })
          }
        />
      )}
    </Field>
  )
  return (
    <div className="flex flex-col gap-1.5">
      <p role="status" className="font-semibold">
        {fine ? spanInWords(fine.start, fine.end, zone, now) : (when.problem ?? 'When?')}
        {fine && !allDay && (
          <span className="font-normal">, {lengthInWords(minutesBetween(fine.start, fine.end))}</span>
        )}
      </p>
      {when.over && <p className="text-coral">⚠ That time is over. Choose one that is still to come.</p>}
      <div className={`grid gap-2 ${allDay ? 'grid-cols-2' : 'grid-cols-3'}`}>
        {field('day', 'Day')}
        {!allDay && field('from', 'From')}
        {field('until', allDay ? 'How many days' : 'Until, or length')}
      </div>
      <Choice
        checked={allDay}
        onChoose={(whole) =>
          whole
            ? type({ until: '1 day' }, { allDay: true })
            : type({ from: '9:00', until: '10:00' }, { allDay: false })
        }
      >
        Whole days
      </Choice>
    </div>
  )
}
