import type { Person } from '@marmot/contract/people'
import { dayInWords, dayOf, parseDay, toWall } from '@marmot/core/time'
import { Command } from 'cmdk'
import { type ReactNode, useState } from 'react'
import { useNavigate } from 'react-router'
import { useBrief } from '../openings/brief.tsx'
import type { Key } from '../platform/keys.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { dayAddress, dayInAddress } from '../search/day-address.ts'
import { FoundRow } from '../search/found-row.tsx'
import { useOpenFound, useSearch } from '../search/search.ts'
import { todoFacts } from '../todos/todo-line.tsx'

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

/** Settings, by what one would call them; where they are. */
const SETTINGS = [
  { name: 'Working hours, time zone and how days are drawn', to: '/settings?part=days' },
  { name: 'Reminders: when, and by mail', to: '/settings?part=days' },
  { name: 'Sharing: who sees my time, and who acts for me', to: '/settings?part=sharing' },
  { name: 'Holidays, and other days on which a site is closed', to: '/settings?part=holidays' },
  { name: 'Calendar addresses: read others, publish mine', to: '/settings?part=feeds' },
  { name: 'A small page of this day, or of the next seven, for another site', to: '/settings?part=feeds' },
  { name: 'Import and export of calendar files', to: '/settings?part=files' },
  { name: 'Visitors: pages on which people from outside pick a time of mine', to: '/settings?part=visitors' },
] as const

const WHAT =
  'You can look for entries, meetings and to-dos by their words, people, teams, places, settings, a day such as “next tue”, and anything that has a key.'

/** Finds anything, and does anything that has a key on this screen. */
export const Jump = ({ keys, onDone }: { keys: readonly Key[]; onDone: () => void }) => {
  const navigate = useNavigate()
  const { zone, person: me } = useMe()
  const now = useNow()
  const { brief, change } = useBrief()
  const [text, setText] = useState('')
  const query = text.trim()
  const search = useSearch(query)
  const open = useOpenFound()
  const asked = query.length > 1
  const wanted = (words: string) => words.toLowerCase().includes(query.toLowerCase())
  const today = dayOf(toWall(zone, now))
  const day = query ? parseDay(query, today) : null
  const found = asked && search.data ? search.data : null
  // Until the answer is here, only what the words still mean of the one before: Enter must not take another.
  const still = (words: string) => !search.isPlaceholderData || wanted(words)
  const entries = (found?.entries ?? []).filter((one) => still(one.title))
  const people = (found?.people ?? []).filter((one) => still(one.name))
  const teams = (found?.teams ?? []).filter((one) => still(one.name))
  const places = (found?.places ?? []).filter((one) => still(one.name))
  const contacts = (found?.contacts ?? []).filter((one) => still(one.name))
  const daysOff = (found?.daysOff ?? []).filter((one) => still(one.name))
  const todos = (found?.todos ?? []).filter((one) => still(one.title))
  const settings = query ? SETTINGS.filter((one) => wanted(one.name)) : []
  // Whoever types the beginning of a command means it; a word within one may mean much else.
  const actions = keys.filter((key) => key.run && wanted(key.does))
  const begins = (key: Key) => key.does.toLowerCase().startsWith(query.toLowerCase())
  const [first, others] = [actions.filter(begins), actions.filter((key) => !begins(key))]
  const add = (some: readonly Person[], words: string) => {
    const fresh = some.filter((person) => !brief.people.some((one) => one.id === person.id))
    if (fresh.length)
      change({
        people: [...brief.people, ...fresh.map((one) => ({ id: one.id, required: true, group: null }))],
      })
    toast(words)
    navigate('/arrange')
  }
  const then = (act: () => void) => () => {
    onDone()
    act()
  }
  const nothing =
    day === null &&
    entries.length +
      people.length +
      todos.length +
      daysOff.length +
      contacts.length +
      teams.length +
      places.length +
      settings.length +
      actions.length ===
      0
  return (
    <Command shouldFilter={false} loop label="Find">
      <Command.Input
        autoFocus
        value={text}
        onValueChange={setText}
        placeholder="A word, a person, a place, a day"
        className="w-full rounded-md border border-soft/50 bg-ground px-3 py-2 text-[17px] outline-none"
      />
      <Command.List className={`mt-2 ${heading}`} aria-busy={asked && search.isFetching}>
        {nothing && (
          <p className="px-3 py-2 text-soft" role="status">
            {asked && search.isFetching ? 'Looking…' : `Nothing was found. ${WHAT}`}
          </p>
        )}
        {search.isError && asked && (
          <p className="px-3 py-1 text-coral" role="alert">
            ⚠ Only what is on this screen could be looked through.
          </p>
        )}
        {day !== null && (
          <Command.Group heading="Day">
            <Row value={`day ${day}`} onSelect={then(() => navigate(`/time?day=${dayAddress(day)}`))}>
              {dayInWords(day, today)}
            </Row>
          </Command.Group>
        )}
        {first.length > 0 && (
          <Command.Group heading="Do">
            {first.map((key) => (
              <Row key={key.keys} value={key.does} onSelect={then(() => key.run?.())} hint={key.keys}>
                {key.does}
              </Row>
            ))}
          </Command.Group>
        )}
        {people.length > 0 && (
          <Command.Group heading="Arrange with">
            {people.map((person) => (
              <Row
                key={person.id}
                value={person.id}
                onSelect={then(() => add([person], `${person.name} takes part in what you arrange.`))}
              >
                {person.name} <span className="text-soft">{person.role}</span>
              </Row>
            ))}
          </Command.Group>
        )}
        {teams.length > 0 && (
          <Command.Group heading="Arrange with a team">
            {teams.map((team) => (
              <Row
                key={team.name}
                value={`team ${team.name}`}
                onSelect={then(() => add(team.members, `${team.name} takes part in what you arrange.`))}
              >
                {team.name} <span className="text-soft">{team.members.length} people</span>
              </Row>
            ))}
          </Command.Group>
        )}
        {places.length > 0 && (
          <Command.Group heading="Places and equipment">
            {places.map((place) => (
              <Row
                key={place.id}
                value={`place ${place.id}`}
                onSelect={then(() => navigate(`/places?place=${place.id}&kind=${place.kind}`))}
              >
                {place.name}{' '}
                <span className="text-soft">
                  {place.site}
                  {place.seats > 0 ? `, ${place.seats} seats` : ''}
                </span>
              </Row>
            ))}
          </Command.Group>
        )}
        {entries.length > 0 && (
          <Command.Group
            heading={found?.alike ? 'Nothing has these words; this looks like them' : 'Entries and meetings'}
          >
            {entries.map((one) => (
              <Row
                key={`${one.entryId}${one.laneOf}`}
                value={`entry ${one.entryId}${one.laneOf}`}
                onSelect={then(() => open(one))}
              >
                <FoundRow found={one} />
              </Row>
            ))}
            <Row
              value="all that was found"
              onSelect={then(() => navigate(`/time?view=list&find=${encodeURIComponent(query)}`))}
            >
              <span className="text-gentian underline underline-offset-2">All of them in a list</span>
            </Row>
          </Command.Group>
        )}
        {contacts.length > 0 && (
          <Command.Group heading="Contacts">
            {contacts.map((one) => (
              <Row
                key={one.id}
                value={`contact ${one.id}`}
                onSelect={then(() => navigate(`/people?view=contacts&contact=${one.id}`))}
              >
                {one.name} <span className="text-soft">{one.organisation}</span>
              </Row>
            ))}
          </Command.Group>
        )}
        {todos.length > 0 && (
          <Command.Group heading="To do">
            {todos.map((one) => (
              <Row
                key={one.id}
                value={`todo ${one.id}`}
                onSelect={then(() => navigate(`/time?todo=${one.id}`))}
              >
                {one.title}{' '}
                <span className="text-soft">{todoFacts(one, { me: me.id, now, zone }).join(' · ')}</span>
              </Row>
            ))}
          </Command.Group>
        )}
        {daysOff.length > 0 && (
          <Command.Group heading="Days off">
            {daysOff.map((one) => (
              <Row
                key={`${one.siteId}${one.day}`}
                value={`day off ${one.siteId} ${one.day} ${one.name}`}
                onSelect={then(() => navigate(`/time?day=${one.day}`))}
              >
                {one.name}{' '}
                <span className="text-soft">
                  {one.site}, {dayInWords(dayInAddress(one.day) ?? today, today)}
                </span>
              </Row>
            ))}
          </Command.Group>
        )}
        {others.length > 0 && (
          <Command.Group heading="Do">
            {others.map((key) => (
              <Row key={key.keys} value={key.does} onSelect={then(() => key.run?.())} hint={key.keys}>
                {key.does}
              </Row>
            ))}
          </Command.Group>
        )}
        {settings.length > 0 && (
          <Command.Group heading="Settings">
            {settings.map((one) => (
              <Row key={one.name} value={one.name} onSelect={then(() => navigate(one.to))}>
                {one.name}
              </Row>
            ))}
          </Command.Group>
        )}
      </Command.List>
    </Command>
  )
}
