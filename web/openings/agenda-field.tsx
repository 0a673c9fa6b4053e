import { itemsIn, sumInWords } from '@marmot/core/agenda'
import { Field } from '../ui/parts.tsx'

/** The points with which an agenda begins, typed a line each before the invitations go out. */
export const AgendaField = ({
  label = 'Agenda (optional)',
  value,
  minutes,
  names,
  onChange,
}: {
  label?: string
  value: string
  /** Of the meeting. */
  minutes: number
  /** Of those who take part: who can lead a point. */
  names: readonly string[]
  onChange: (value: string) => void
}) => {
  const items = itemsIn(value, names).map((item, i) => ({ ...item, id: `${i}` }))
  const sum = sumInWords(items, minutes)
  const points = items.length === 1 ? '1 point' : `${items.length} points`
  return (
    <Field
      label={label}
      hint={items.length ? `${points}${sum ? `, ${sum}` : ''}` : 'A point a line: Drill sites, Tashi, 20 min'}
    >
      {(props) => (
        <textarea
          {...props}
          rows={value ? 4 : 2}
          maxLength={10_000}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  )
}
