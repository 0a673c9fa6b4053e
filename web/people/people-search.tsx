import type { Person } from '@marmot/contract/people'
import { address } from '@marmot/contract/route'
import { wordsIn } from '@marmot/core/search'
import { Command } from 'cmdk'
import { Mail, Search, Users } from 'lucide-react'
import { type Ref, useState } from 'react'
import { useRested } from '../platform/rested.ts'
import { counted } from '../ui/parts.tsx'
import { namesIn, useNamed, usePeopleSearch } from './people.ts'

/** Finds people by name, address or team, and takes a guest by address. Stays open for the next one. */
export const PeopleSearch = ({
  inputRef,
  taken,
  onPeople,
  onGuest,
  onTeam,
  words = 'Add a person, team, address',
}: {
  inputRef: Ref<HTMLInputElement>
  taken: ReadonlySet<string>
  onPeople: (people: readonly Person[]) => void
  /** Left out where a guest makes no sense. */
  onGuest?: (guest: { address: string; name: string }) => void
  /** Takes a team as one; left out where it stands for its people. */
  onTeam?: (team: { id: string; name: string }) => void
  /** What is looked for, in words. */
  words?: string
}) => {
  const [text, setText] = useState('')
  const [open, setOpen] = useState(false)
  const query = text.trim()
  const names = namesIn(useRested(text))
  const looked = useNamed(names)
  const listed = namesIn(text).length > 1
  // Of what was typed meanwhile nothing is known yet.
  const named = namesIn(text).join() === names.join() ? looked : null
  const found = usePeopleSearch(listed ? '' : query)
  // "Noor Haddad <noor@lodestar.example>" brings the name along.
  const withAddress = /^(.*)<(.+)>$/.exec(query)
  const asGuest = address.safeParse(withAddress?.[2] ?? query)
  // What is here may still be the answer to fewer letters: Enter must not take whom the rest of them rules out.
  const typed = wordsIn(query)
  const answers = (name: string): boolean => {
    const words = wordsIn(name)
    return !found.isPlaceholderData || typed.every((word) => words.some((each) => each.startsWith(word)))
  }
  const people = ((query && found.data?.people) || []).filter((one) => answers(`${one.name} ${one.address}`))
  const teams = ((query && found.data?.teams) || []).filter((one) => answers(one.name))
  const guest =
    onGuest && asGuest.success && !people.some((person) => person.address === asGuest.data)
      ? asGuest.data
      : null
  const done = (act: () => void) => {
    act()
    setText('')
  }
  const shown = open && query !== ''
  // Something is always chosen for Enter: what was, as long as it is in the list, else the first that can be taken.
  const [picked, setPicked] = useState('')
  // Of a list: who is meant for certain, and the names that mean nobody or several.
  const certain = (named ?? []).flatMap((one) => (one.people.length === 1 ? one.people : []))
  const meant = [...new Map(certain.map((person) => [person.id, person])).values()].filter(
    (person) => !taken.has(person.id),
  )
  const unclear = (named ?? []).filter((one) => one.people.length !== 1)
  const values = [
    ...(meant.length ? ['all'] : []),
    ...people.filter((person) => !taken.has(person.id)).map((person) => person.id),
    ...teams.map((team) => `team ${team.name}`),
    ...(guest ? [`guest ${guest}`] : []),
  ]
  return (
    <Command
      shouldFilter={false}
      value={values.includes(picked) ? picked : (values[0] ?? '')}
      onValueChange={setPicked}
      loop
      label="Add people"
      className="relative"
      data-takes-escape=""
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return
        if (text) setText('')
        else if (event.target instanceof HTMLElement) event.target.blur()
        event.stopPropagation()
      }}
      onBlur={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget)) setOpen(false)
      }}
    >
      <div className="flex items-center gap-1.5 rounded-md border border-soft/50 bg-paper px-2">
        <Search size={15} className="shrink-0 text-soft" aria-hidden />
        <Command.Input
          ref={inputRef}
          value={text}
          onValueChange={(next) => {
            setText(next)
            setOpen(true)
          }}
          onFocus={() => setOpen(true)}
          placeholder={words}
          className="w-full min-w-0 bg-transparent py-1 text-sm outline-none"
        />
      </div>
      <Command.List
        hidden={!shown}
        className="absolute top-full left-0 z-30 mt-1 max-h-80 w-[340px] max-w-[92vw] overflow-y-auto rounded-md border border-line bg-paper py-1 shadow-xl"
      >
        {shown && (
          <>
            {(found.isFetching || (listed && !named)) && people.length === 0 && (
              <Command.Loading className="px-3 py-1.5 text-soft">Looking…</Command.Loading>
            )}
            {found.isError && (
              <div className="px-3 py-1.5 text-coral">⚠ The directory cannot be reached.</div>
            )}
            {!listed &&
              !found.isFetching &&
              !found.isError &&
              !guest &&
              people.length + teams.length === 0 && (
                <Command.Empty className="px-3 py-1.5 text-soft">
                  Nobody of that name. Type a whole address to invite a guest.
                </Command.Empty>
              )}
            {listed && named && meant.length > 0 && (
              <Command.Item
                value="all"
                onSelect={() => {
                  onPeople(meant)
                  // What is unclear stays to be looked at.
                  setText(unclear.map((one) => one.text).join(', '))
                }}
                className="px-3 py-1.5 data-[selected=true]:bg-shade"
              >
                <b className="font-semibold">Add {counted(meant.length, 'person', 'people')}</b>
                <span className="block text-soft text-sm">
                  {meant.map((person) => person.name).join(', ')}
                </span>
              </Command.Item>
            )}
            {listed && named && unclear.length > 0 && (
              <div className="px-3 py-1.5 text-sm">
                {unclear.map((one) => (
                  <p key={one.text}>
                    <b className="font-semibold">{one.text}</b>:{' '}
                    {one.people.length
                      ? `which one? ${one.people
                          .slice(0, 3)
                          .map((person) => person.name)
                          .join(', ')}`
                      : 'nobody of that name'}
                  </p>
                ))}
              </div>
            )}
            {people.map((person) => (
              <Command.Item
                key={person.id}
                value={person.id}
                disabled={taken.has(person.id)}
                onSelect={() => done(() => onPeople([person]))}
                className="flex items-baseline gap-2 px-3 py-1.5 aria-disabled:opacity-55 data-[selected=true]:bg-shade"
              >
                <b className="font-semibold">{person.name}</b>
                <span className="min-w-0 flex-1 truncate text-soft text-sm">{person.role}</span>
                <span className="text-soft text-sm">{taken.has(person.id) ? 'is in' : person.teams[0]}</span>
              </Command.Item>
            ))}
            {teams.map((team) => (
              <Command.Item
                key={team.name}
                value={`team ${team.name}`}
                onSelect={() => done(() => (onTeam ? onTeam(team) : onPeople(team.members)))}
                className="flex items-center gap-2 px-3 py-1.5 data-[selected=true]:bg-shade"
              >
                <Users size={15} aria-hidden /> <b className="font-semibold">{team.name}</b>
                <span className="text-soft text-sm">team of {team.members.length}</span>
              </Command.Item>
            ))}
            {guest && (
              <Command.Item
                value={`guest ${guest}`}
                onSelect={() =>
                  done(() => onGuest?.({ address: guest, name: withAddress?.[1]?.trim() ?? '' }))
                }
                className="flex items-center gap-2 px-3 py-1.5 data-[selected=true]:bg-shade"
              >
                <Mail size={15} aria-hidden />
                <span className="min-w-0 truncate">
                  Invite <b className="font-semibold">{guest}</b> as a guest
                </span>
              </Command.Item>
            )}
          </>
        )}
      </Command.List>
    </Command>
  )
}
