import { isZone } from '@marmot/core/time'
import { useId, useState } from 'react'

const ZONES = Intl.supportedValuesOf('timeZone')

/** A time zone by its IANA name, found by typing. What is no zone is said and not taken. */
export const ZoneField = ({
  label,
  value,
  disabled = false,
  compact = false,
  onChange,
}: {
  label: string
  value: string
  disabled?: boolean
  compact?: boolean
  onChange: (zone: string) => void
}) => {
  const id = useId()
  const [text, setText] = useState(value)
  const wrong = !isZone(text)
  return (
    <div className={compact ? 'flex min-w-0 flex-1 items-center gap-2' : 'flex flex-col gap-0.5'}>
      <label htmlFor={id} className="text-soft text-sm">
        {label}
      </label>
      <input
        id={id}
        list={`${id}-zones`}
        value={text}
        disabled={disabled}
        aria-invalid={wrong || undefined}
        onChange={(event) => {
          setText(event.target.value)
          if (isZone(event.target.value)) onChange(event.target.value)
        }}
        onBlur={() => wrong && setText(value)}
        className={`w-full min-w-0 rounded-md border bg-paper px-2.5 ${compact ? 'py-0.5 text-sm' : 'py-1.5'} ${wrong ? 'border-coral' : 'border-soft/50'}`}
      />
      <datalist id={`${id}-zones`}>
        {ZONES.map((zone) => (
          <option key={zone} value={zone} />
        ))}
      </datalist>
    </div>
  )
}
