import { unknownLane } from '@marmot/contract/availability'
import { once } from '@marmot/contract/route'
import { during, duringInWords, type LaneTime, nextFree } from '@marmot/core/availability'
import {
  clockText,
  DAY,
  dayOf,
  type Instant,
  instantOf,
  MINUTE,
  minuteOf,
  offsetAt,
  offsetInWords,
  shortDay,
  toWall,
  wallOf,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { useQuery } from '@tanstack/react-query'
import { type RefObject, Suspense, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { useLayerSets } from '../availability/layers.ts'
import { instantAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import type { BoardGroup, BoardRow } from '../lanes/types.ts'
import { useBrief } from '../openings/brief.tsx'
import { withPeople } from '../openings/changed-brief.ts'
import { directoryQuery } from '../people/people.ts'
import { useKeys } from '../platform/keys.tsx'
import { fetchLetters } from '../platform/letters.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { LaneMenu } from '../ui/lane-menu.tsx'
import { LinkSwitch } from '../ui/link-switch.tsx'
import { Button, counted, Empty, Loading, TONES_COUNT, Trouble } from '../ui/parts.tsx'
import { type Listed, lookedFor } from './looking.ts'
import { useTimesAsSeen } from './times.ts'

/** Half an hour is what one looks for with somebody. */
const WANTED_MINUTES = 30
/** The time of so many is fetched at once; of more, that of those on top, and of the others as they come into sight. */
const FEW = 100
const ON_TOP = 20
/** So far ahead one is told when somebody is free next. */
const AHEAD = 4 * DAY

/** What somebody does now, and when they are free next, in a few words; by the clock that stands over their lane. */
export const nowWords = (time: LaneTime, now: Instant, clock: ZoneTable): string => {
  const table = zoneTable(time.zone)
  const how = during(time, table, { start: now, end: now + MINUTE })
  if (how.state === 'unknown') return 'unknown'
  const next = nextFree(time, table, now, now + AHEAD, WANTED_MINUTES)
  if (how.state === 'free') {
    const until = time.spans
      .filter((span) => span.start > now && span.state !== 'listed')
      .reduce((least, span) => Math.min(least, span.start), Number.POSITIVE_INFINITY)
    return until - now < 12 * 60 * MINUTE ? `free until ${clockText(minuteOf(toWall(clock, until)))}` : 'free'
  }
  const wall = next === null ? 0 : toWall(clock, next)
  const day = dayOf(wall) === dayOf(toWall(clock, now)) ? '' : `${shortDay(dayOf(wall)).split(' ')[0]} `
  const then = next === null ? '' : `, free ${day || 'at '}${clockText(minuteOf(wall))}`
  return how.state === 'stretch' ? `not at work${then}` : `${duringInWords(how, clock)}${then}`
}

/** Who a lane is of, what time it is for them and how they stand now; and what can be done with them. */
const Label = ({
  person,
  words,
  onArrange,
  onBeside,
}: {
  person: Listed
  words: string
  onArrange: () => void
  onBeside: () => void
}) => (
  <div className="flex items-center gap-1 leading-[1.15] md:-ml-3">
    <LaneMenu
      name={person.name}
      doings={[
        { words: 'Arrange a meeting', key: 'Enter', run: onArrange },
        { words: 'See their time beside mine', key: 'b', run: onBeside },
      ]}
    />
    <span className="min-w-0 flex-1 text-right max-md:text-left">
      <span
        className="block truncate font-semibold text-[14px]"
        title={[person.name, person.role, ...person.teams].filter(Boolean).join(', ')}
      >
        {person.name}
      </span>
      <span className="block truncate text-[12.5px] text-soft" title={words}>
        {words}
      </span>
    </span>
  </div>
)

interface Row {
  readonly person: Listed
  /** As far as it is here by now. */
  readonly time: LaneTime | undefined
  readonly now: Instant
  readonly axis: BoardRow['axis']
  /** Of the site under which they stand. */
  readonly clock: ZoneTable
  readonly onArrange: () => void
  readonly onBeside: () => void
}

/** Somebody's lane, whose words are found when they are first asked for. */
const personRow = ({ person, time, now, axis, clock, onArrange, onBeside }: Row): BoardRow => {
  const said = once(() => (time ? nowWords(time, now, clock) : ''))
  const drawn = once(() => time ?? unknownLane(person.zone))
  return {
    id: person.id,
    axis,
    faded: !time,
    get time() {
      return drawn()
    },
    get name() {
      const clock = clockText(minuteOf(toWall(zoneTable(person.zone), now)))
      return `${person.name}, ${clock} there${said() ? `, ${said()}` : ''}`
    },
    get label() {
      return <Label person={person} words={said()} onArrange={onArrange} onBeside={onBeside} />
    },
  }
}

/** Whom one looks for: by words, by team and by site, which stand in the address. */
const useLooking = (everybody: readonly Listed[]) => {
  const [search, setSearch] = useSearchParams()
  const [text, setText] = useState('')
  const team = search.get('team') ?? ''
  const siteId = search.get('site') ?? ''
  const put = (name: 'team' | 'site', value: string) =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before)
        if (value) next.set(name, value)
        else next.delete(name)
        return next
      },
      { replace: true },
    )
  const found = useMemo(
    () => lookedFor(everybody, { words: text, team, siteId }),
    [everybody, text, team, siteId],
  )
  // A letter is there at once, whoever is found by it a moment later.
  const shown = useDeferredValue(found)
  return { text, setText, team, siteId, put, found, shown }
}

const SELECT = 'min-h-8 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb'

/** The field and the choices by which one looks for people. */
const Narrowing = ({
  looking,
  teams,
  fieldRef,
}: {
  looking: ReturnType<typeof useLooking>
  teams: readonly string[]
  fieldRef: RefObject<HTMLInputElement | null>
}) => {
  const { session } = useMe()
  const { text, setText, team, siteId, put } = looking
  return (
    <>
      <input
        ref={fieldRef}
        type="search"
        aria-label="Find a person"
        placeholder="Find: a name, what they do"
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="min-h-8 w-64 rounded-md border border-soft/50 bg-paper px-2.5 max-md:min-h-thumb max-md:w-full"
      />
      <select
        aria-label="Team"
        className={SELECT}
        value={team}
        onChange={(event) => put('team', event.target.value)}
      >
        <option value="">all teams</option>
        {teams.map((name) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
      </select>
      <select
        aria-label="Site"
        className={SELECT}
        value={siteId}
        onChange={(event) => put('site', event.target.value)}
      >
        <option value="">all sites</option>
        {session.sites.map((site) => (
          <option key={site.id} value={site.id}>
            {site.name}
          </option>
        ))}
      </select>
    </>
  )
}

/** Who is where, what time it is for them, are they free now, and when next? As far as each shares it. */
const Colleagues = () => {
  const { zone, person: me, session } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const { brief, change } = useBrief()
  const sets = useLayerSets()
  const field = useRef<HTMLInputElement>(null)
  const directory = useQuery(directoryQuery)
  const everybody = useMemo(() => directory.data?.people ?? [], [directory.data])
  useEffect(() => fetchLetters(everybody.map((one) => one.name)), [everybody])
  const teams = useMemo(() => [...new Set(everybody.flatMap((one) => one.teams))].sort(), [everybody])
  const looking = useLooking(everybody)
  const { found, shown, team } = looking
  const today = dayOf(toWall(zone, now))
  const axis = useMemo(
    () => instantAxis(instantOf(zone, wallOf(today)), instantOf(zone, wallOf(today + 1))),
    [zone, today],
  )
  const times = useTimesAsSeen(axis.from, axis.from + AHEAD + DAY)
  // Those at my own site first.
  const sites = useMemo(
    () => [...session.sites].sort((a, b) => Number(b.id === me.siteId) - Number(a.id === me.siteId)),
    [session.sites, me.siteId],
  )
  const { want } = times
  // Asked for while their lanes are being drawn.
  useEffect(() => {
    const inOrder = sites.flatMap((site) => found.filter((one) => one.siteId === site.id))
    want(inOrder.slice(0, found.length <= FEW ? FEW : ON_TOP).map((one) => one.id))
  }, [found, sites, want])

  const arrangeWith = (ids: readonly string[]) => {
    change(withPeople(brief, ids))
    navigate('/arrange')
  }
  const beside = (ids: readonly string[]) => {
    const layers = sets.current?.layers ?? []
    const fresh = ids.filter((id) => id !== me.id && !layers.some((layer) => layer.id === id))
    sets.put([
      ...layers.map((layer) => (ids.includes(layer.id) ? { ...layer, shown: true } : layer)),
      ...fresh.map((id, i) => ({
        kind: 'person' as const,
        id,
        shown: true,
        tone: (layers.length + i) % TONES_COUNT,
      })),
    ])
    navigate('/time')
  }

  // A lane of thousands is another only when its time, the clock or whose it is is another; and of it nothing is worked out before it is drawn.
  const made = useRef(
    new Map<string, { one: Listed; time: LaneTime | undefined; now: Instant; row: BoardRow }>(),
  )
  const doing = useRef({ arrangeWith, beside })
  doing.current = { arrangeWith, beside }
  const rowOf = (one: Listed, clock: ZoneTable): BoardRow => {
    const known = made.current.get(one.id)
    const time = times.of(one.id)
    if (known && known.one === one && known.time === time && known.now === now) return known.row
    const row = personRow({
      person: one,
      time,
      now,
      axis,
      clock,
      onArrange: () => doing.current.arrangeWith([one.id]),
      onBeside: () => doing.current.beside([one.id]),
    })
    made.current.set(one.id, { one, time, now, row })
    return row
  }
  const groups = sites.flatMap((site): BoardGroup[] => {
    const inside = shown.filter((one) => one.siteId === site.id)
    if (inside.length === 0) return []
    const table = zoneTable(site.zone)
    const wall = toWall(table, now)
    const day = dayOf(wall) === today ? '' : `${shortDay(dayOf(wall))} `
    return [
      {
        id: site.id,
        zone: table,
        axis,
        title: (
          <>
            <b>{site.name}</b>{' '}
            <span className="text-soft">
              {day}
              {clockText(minuteOf(wall))}, {offsetInWords(offsetAt(table, now))}
            </span>
          </>
        ),
        rows: inside.map((one) => rowOf(one, table)),
      },
    ]
  })
  useKeys([{ keys: '/', does: 'Find a person', on: '/', run: () => field.current?.focus() }])
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 border-line border-b bg-shade px-3.5 py-2">
        <WhichPeople />
        <Narrowing looking={looking} teams={teams} fieldRef={field} />
        <span role="status" className="text-soft text-sm">
          {directory.data &&
            `${counted(shown.length, 'person', 'people')}${directory.data.more ? ', of more than are listed' : ''}`}
        </span>
        {team && shown.length > 0 && (
          <span className="ml-auto flex gap-2">
            <Button onClick={() => beside(shown.map((one) => one.id))}>Their time beside mine</Button>
            <Button tone="primary" onClick={() => arrangeWith(shown.map((one) => one.id))}>
              Arrange with {counted(shown.length, 'person', 'people')}…
            </Button>
          </span>
        )}
      </div>
      <div
        className="min-h-0 flex-1 overflow-y-auto overflow-x-hidden will-change-scroll"
        data-testid="people"
      >
        {directory.isError ? (
          <div className="p-4">
            <Trouble action={<Button onClick={() => directory.refetch()}>Try again</Button>}>
              {problemWords(directory.error)}
            </Trouble>
          </div>
        ) : !directory.data ? (
          <div className="px-4">
            <Loading what="the directory" />
          </div>
        ) : (
          <div style={{ '--lane': '32px' }}>
            <Board
              label="Everybody today"
              groups={groups}
              home={zone}
              now={now}
              step={15}
              minutes={WANTED_MINUTES}
              across="all"
              chosen={null}
              days={false}
              still
              onChoose={() => undefined}
              onNear={(rows) => times.want(rows.map((row) => row.id))}
              rowKeys={(event, row) => {
                if (event.key === 'Enter') arrangeWith([row.id])
                else if (event.key === 'b') beside([row.id])
                else return
                event.preventDefault()
              }}
              empty={
                <div className="px-4">
                  <Empty>Nobody of that name. Try fewer letters, or all teams and sites.</Empty>
                </div>
              }
            />
          </div>
        )}
      </div>
    </>
  )
}

const ContactList = part(() => import('../contacts/contact-list.tsx').then((m) => m.ContactList))

/** Colleagues, or the people outside. */
const WhichPeople = () => {
  const [search] = useSearchParams()
  const contacts = search.get('view') === 'contacts'
  return (
    <LinkSwitch
      label="Which people"
      views={[
        { to: '/people', name: 'Colleagues', here: !contacts },
        { to: '/people?view=contacts', name: 'Contacts', here: contacts },
      ]}
    />
  )
}

/** Colleagues on their lanes, or the people outside with whom one has to do. */
export const People = () => {
  const [search] = useSearchParams()
  return (
    <>
      <h1 className="sr-only">People</h1>
      {search.get('view') === 'contacts' ? (
        <>
          <div className="flex flex-wrap items-center gap-2 border-line border-b bg-shade px-3.5 py-2">
            <WhichPeople />
            <span className="text-soft text-sm">Outside: only you see them.</span>
          </div>
          <div className="min-h-0 flex-1 overflow-y-auto px-4.5 py-3 max-md:px-2.5">
            <Suspense fallback={<Loading what="your contacts" />}>
              <ContactList />
            </Suspense>
          </div>
        </>
      ) : (
        <Colleagues />
      )}
    </>
  )
}
