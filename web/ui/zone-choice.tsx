import { cityOf } from '@marmot/core/letters'
import { isZone, offsetAt, offsetInWords, zoneTable } from '@marmot/core/time'
import { useId, useState } from 'react'

/** The reader's own zone, as the browser says it; another where it says none that is known. */
export const browserZone = (otherwise: string): string => {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
  return zone && isZone(zone) ? zone : otherwise
}

/** In which zone the times are said, always said itself, and another can be chosen. */
export const ZoneChoice = ({
  zone,
  at,
  onChoose,
}: {
  zone: string
  /** When, in milliseconds: a zone's offset depends on it. */
  at: number
  onChoose: (zone: string) => void
}) => {
  const id = useId()
  const [open, setOpen] = useState(false)
  const words = [...new Set([cityOf(zone), offsetInWords(offsetAt(zoneTable(zone), at))])].join(', ')
  return (
    <p className="flex flex-wrap items-center gap-x-2 gap-y-1 text-soft text-sm">
      <span>
        All times are in <b className="font-semibold text-ink">{words}</b> time.
      </span>
      {open ? (
        <label htmlFor={id} className="flex items-center gap-2">
          Say them in
          <select
            id={id}
            // biome-ignore lint/a11y/noAutofocus: it was opened by the press before
            autoFocus
            value={zone}
            className="min-h-9 max-w-60 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb"
            onChange={(event) => {
              onChoose(event.target.value)
              setOpen(false)
            }}
          >
            {[...new Set([zone, ...Intl.supportedValuesOf('timeZone').filter(isZone)])].map((each) => (
              <option key={each} value={each}>
                {each.replaceAll('_', ' ')}
              </option>
            ))}
          </select>
        </label>
      ) : (
        <button
          type="button"
          className="min-h-8 rounded px-1 underline underline-offset-2 max-md:min-h-thumb"
          onClick={() => setOpen(true)}
        >
          Another time zone
        </button>
      )}
    </p>
  )
}
