import { useMe } from '../platform/session.tsx'
import { Choice } from '../ui/parts.tsx'

/** Whether something is out of doors, and at which site. */
export const OutdoorsField = ({
  value,
  disabled = false,
  onChange,
}: {
  value: string | null
  disabled?: boolean
  onChange: (siteId: string | null) => void
}) => {
  const { session, person } = useMe()
  return (
    <div className="flex flex-wrap items-center gap-x-3">
      <Choice
        checked={value !== null}
        disabled={disabled}
        onChoose={(outdoors) => onChange(outdoors ? person.siteId : null)}
      >
        Out of doors
      </Choice>
      {value !== null && (
        <select
          aria-label="Out of doors in"
          value={value}
          disabled={disabled}
          onChange={(event) => onChange(event.target.value)}
          className="min-h-8 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb"
        >
          {session.sites.map((site) => (
            <option key={site.id} value={site.id}>
              in {site.name}
            </option>
          ))}
        </select>
      )}
    </div>
  )
}
