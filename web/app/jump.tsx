import type { Person } from '@marmot/contract/people'
import { Command } from 'cmdk'
import { type ReactNode, useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { useBrief } from '../openings/brief.tsx'
import { usePeopleSearch } from '../people/people.ts'
import type { Key } from '../platform/keys.tsx'

const Row = ({
  value,
  onSelect,
  children,
  hint,
}: {
  value: string
  onSelect: () => void
  children: ReactNode
  hint?: string
}) => (
  <Command.Item
    value={value}
    onSelect={onSelect}
    className="flex items-baseline gap-3 rounded-md px-3 py-1.5 data-[selected=true]:bg-shade"
  >
    <span className="min-w-0 flex-1 truncate">{children}</span>
    {hint && <kbd className="rounded border border-line px-1.5 font-sans text-soft text-sm">{hint}</kbd>}
  </Command.Item>
)

const heading =
  '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-soft [&_[cmdk-group-heading]]:text-sm'

/** What begins with the words comes before what merely has them within. */
const inOrderOf = (keys: readonly Key[], words: string): Key[] => {
  const begins = (key: Key) => key.does.toLowerCase().startsWith(words.toLowerCase())
  return [...keys.filter(begins), ...keys.filter((key) => !begins(key))]
}

/** Jumps anywhere and does anything that has a key on this screen; a person is put into the brief. */
export const Jump = ({ keys, onDone }: { keys: readonly Key[]; onDone: () => void }) => {
  const navigate = useNavigate()
  const { brief, change } = useBrief()
  const [text, setText] = useState('')
  const query = text.trim()
  const found = usePeopleSearch(query, 2)
  const wanted = (words: string) => words.toLowerCase().includes(query.toLowerCase())
  // Until the answer is here, only those of the answer before whom the words still mean: Enter must not take another.
  const people = (query.length > 1 ? (found.data?.people ?? []) : []).filter(
    (person) => !found.isPlaceholderData || wanted(person.name),
  )
  const actions = inOrderOf(
    keys.filter((key) => key.run && wanted(key.does)),
    query,
  )
  const add = (person: Person) => {
    if (!brief.people.some((one) => one.id === person.id))
      change({ people: [...brief.people, { id: person.id, required: true, group: null }] })
    toast(`${person.name} is in the brief.`)
    navigate('/arrange')
  }
  const then = (act: () => void) => () => {
    onDone()
    act()
  }
  return (
    <Command shouldFilter={false} loop label="Jump or do">
      <Command.Input
        autoFocus
        value={text}
        onValueChange={setText}
        placeholder="A screen, something to do, a person"
        className="w-full rounded-md border border-soft/50 bg-ground px-3 py-2 text-[17px] outline-none"
      />
      <Command.List className={`mt-2 ${heading}`}>
        <Command.Empty className="px-3 py-2 text-soft">Nothing of that name.</Command.Empty>
        {people.length > 0 && (
          <Command.Group heading="Arrange with">
            {people.map((person) => (
              <Row key={person.id} value={person.id} onSelect={then(() => add(person))}>
                {person.name} <span className="text-soft">{person.role}</span>
              </Row>
            ))}
          </Command.Group>
        )}
        <Command.Group heading="Do">
          {actions.map((key) => (
            <Row key={key.keys} value={key.does} onSelect={then(() => key.run?.())} hint={key.keys}>
              {key.does}
            </Row>
          ))}
        </Command.Group>
      </Command.List>
    </Command>
  )
}
