import { X } from 'lucide-react'
import { useRef } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'

/** Somebody who is to be invited to an entry. */
export interface Invited {
  /** A person's id, or a guest's address. */
  readonly key: string
  readonly personId: string | null
  readonly address: string
  readonly name: string
  readonly zone: string | null
  readonly required: boolean
}

/** Somebody whose time lies beside mine. */
export interface Near {
  readonly id: string
  readonly name: string
  readonly zone: string
}

/** Who is to be invited. Nobody is told before it was looked over; those whose time lies beside mine are one press away. */
export const WithPeople = ({
  value,
  beside,
  onChange,
}: {
  value: readonly Invited[]
  beside: readonly Near[]
  onChange: (people: readonly Invited[]) => void
}) => {
  const field = useRef<HTMLInputElement>(null)
  const taken = new Set(value.map((one) => one.key))
  const add = (more: readonly Invited[]) =>
    onChange([...value, ...more.filter((one) => !value.some((each) => each.key === one.key))])
  const offered = beside.filter((one) => !taken.has(one.id))
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="mb-0.5 text-soft text-sm">With</legend>
      {value.length > 0 && (
        <ul className="flex flex-wrap gap-1.5">
          {value.map((one) => (
            <li key={one.key} className="flex items-center gap-1 rounded-full bg-shade pl-2.5 text-sm">
              {one.name}
              <button
                type="button"
                aria-label={`Without ${one.name}`}
                className="grid size-7 place-items-center rounded-full hover:bg-line max-md:size-thumb"
                onClick={() => onChange(value.filter((each) => each.key !== one.key))}
              >
                <X size={13} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
      <PeopleSearch
        inputRef={field}
        taken={taken}
        words="Nobody else: add a name or an address"
        onPeople={(people) =>
          add(
            people.map(({ id, name, address, zone }) => ({
              key: id,
              personId: id,
              name,
              address,
              zone,
              required: true,
            })),
          )
        }
        onGuest={({ address, name }) =>
          add([{ key: address, personId: null, address, name: name || address, zone: null, required: true }])
        }
      />
      {offered.length > 0 && (
        <div className="flex flex-wrap gap-1.5">
          {offered.map((one) => (
            <button
              key={one.id}
              type="button"
              className="min-h-7 rounded-full border border-soft/50 px-2.5 text-sm hover:bg-shade max-md:min-h-thumb"
              onClick={() =>
                add([
                  {
                    key: one.id,
                    personId: one.id,
                    name: one.name,
                    address: '',
                    zone: one.zone,
                    required: true,
                  },
                ])
              }
            >
              with {one.name}
            </button>
          ))}
        </div>
      )}
    </fieldset>
  )
}
