import { meetRightAway } from '@marmot/contract/conferences'
import { X } from 'lucide-react'
import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { PeopleSearch } from '../people/people-search.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { Button, counted, Field, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'

/** Somebody to meet right away: a colleague, or a guest by their address. */
export interface Called {
  readonly id: string | null
  readonly name: string
  readonly address: string
}

/** Meeting right away: who is wanted, and off it goes. They are called on their screens, guests by mail. */
export const MeetRightAway = ({
  title: named = '',
  people: first = [],
  onClose,
}: {
  title?: string
  people?: readonly Called[]
  onClose: () => void
}) => {
  const { person } = useMe()
  const navigate = useNavigate()
  const field = useRef<HTMLInputElement>(null)
  const [title, setTitle] = useState(named)
  const [chosen, setChosen] = useState(first)
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState('')
  const key = useRef(crypto.randomUUID())
  const add = (more: readonly Called[]) =>
    setChosen((before) => [
      ...before,
      ...more.filter((one) => one.id !== person.id && !before.some((each) => each.address === one.address)),
    ])
  const begin = async () => {
    setBusy(true)
    setTrouble('')
    try {
      const made = await call(meetRightAway, {
        body: {
          title,
          people: chosen.flatMap((one) => one.id ?? []),
          guests: chosen.flatMap(({ id, address, name }) => (id ? [] : [{ address, name }])),
        },
        key: key.current,
      })
      onClose()
      navigate(`/meeting/${made.entryId}`)
    } catch (error) {
      setTrouble(problemWords(error))
      key.current = crypto.randomUUID()
      setBusy(false)
    }
  }
  const press = chosen.length
    ? `Call ${counted(chosen.length, 'person', 'people')} and begin`
    : 'Begin, and call others in later'
  return (
    <Sheet open onClose={busy ? () => undefined : onClose} title="Meet right away">
      <div className="flex flex-col gap-4">
        <p className="text-soft">
          It begins now. Colleagues are called on their screens, guests get the link by mail.
        </p>
        <PeopleSearch
          inputRef={field}
          taken={new Set(chosen.flatMap((one) => one.id ?? []))}
          onPeople={(people) => add(people)}
          onGuest={({ address, name }) => add([{ id: null, name: name || address, address }])}
        />
        <ul>
          {chosen.map((one) => (
            <li key={one.address} className="flex items-center border-line border-t py-0.5">
              <span className="flex-1">
                {one.name} {one.id === null && <span className="text-soft text-sm">guest</span>}
              </span>
              <button
                type="button"
                aria-label={`Without ${one.name}`}
                className="grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
                onClick={() => setChosen((before) => before.filter((each) => each !== one))}
              >
                <X size={15} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
        <Field label="What it is about (optional)">
          {(props) => (
            <input
              {...props}
              maxLength={200}
              value={title}
              onChange={(event) => setTitle(event.target.value)}
            />
          )}
        </Field>
        {trouble && <Trouble>{trouble}</Trouble>}
        <div className="flex justify-end">
          <Button tone="primary" disabled={busy} onClick={begin} className="max-md:min-h-thumb">
            {busy ? 'Calling…' : press}
          </Button>
        </div>
      </div>
    </Sheet>
  )
}
