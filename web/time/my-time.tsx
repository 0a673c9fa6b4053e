import { offsetAt, offsetInWords, weekStart, type ZoneTable, zoneTable } from '@marmot/core/time'
import { ListChecks, Plus } from 'lucide-react'
import { type RefObject, Suspense, useEffect, useRef } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { BesideMine } from '../availability/beside-mine.tsx'
import { EntrySheet } from '../entries/entry-sheet.tsx'
import { FilterButton } from '../entries/filter.tsx'
import { MoveQuestion } from '../entries/move-question.tsx'
import { QuickLine } from '../entries/quick-line.tsx'
import type { Editing } from '../entries/use-entry-form.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { inLens } from '../lanes/lens.ts'
import { daysInWords, Ribbon } from '../lanes/ribbon.tsx'
import { laneHeight, useRoom } from '../lanes/room.ts'
import { WeekdayRuler } from '../lanes/weekday-ruler.tsx'
import { useKeys } from '../platform/keys.tsx'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { dayInAddress } from '../search/day-address.ts'
import { useSharing } from '../sharing/sharing.ts'
import { DueLabel } from '../todos/due-label.tsx'
import { useTodoInAddress } from '../todos/todos.ts'
import { useLineTodos } from '../todos/typed.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { useNarrow } from '../ui/use-narrow.ts'
import { type Days, useDays } from './use-days.ts'
import { type Changing, type Hand, NEW_MINUTES, STEP, useHand } from './use-hand.ts'
import { useSetAside } from './use-set-aside.ts'
import { lensFor, VIEWS, type ViewId, viewOf } from './view.ts'

const About = part(() => import('../contacts/about.tsx').then((m) => m.About))
const DayList = part(() => import('./day-list.tsx').then((m) => m.DayList))
const ChangeSheet = part(() => import('../meetings/change-sheet.tsx').then((m) => m.ChangeSheet))

const MOST_LANE = 84
/** A day of mine has room for its words also where others stand beneath it. */
const LEAST_DAY = 44
const LEAST_DENSE_LANE = 16
const YEAR_LANE = 24
/** So many days are drawn beside one another on a narrow screen. */
const MOST_UPRIGHT = 2
/** A low lane with its gap. */
const LOW_LANE = 28

const aboutEntry = (entryId: string) => <About subject={{ kind: 'entry', id: entryId }} />

/** Whose time is shown: mine, or that of somebody whom I may change entries for. */
const Whose = ({ of, onChange }: { of: string | undefined; onChange: (of: string | undefined) => void }) => {
  const sharing = useSharing()
  const owners = (sharing.data?.toMe ?? []).filter((each) => each.does !== 'look')
  if (owners.length === 0) return null
  return (
    <select
      aria-label="Whose time"
      value={of ?? ''}
      onChange={(event) => {
        onChange(event.target.value || undefined)
        // The keys of the screen are for the days again.
        event.target.blur()
      }}
      className={`min-w-0 rounded-md border px-2 py-1 md:shrink-0 max-md:flex-1 ${of ? 'border-gentian bg-gentian text-gentian-ink' : 'border-soft/50 bg-paper'}`}
    >
      <option value="">My own time</option>
      {owners.map((owner) => (
        <option key={owner.ownerId} value={owner.ownerId}>
          {owner.owner}
          {owner.does === 'stand-in' ? ', as stand-in' : ', whom I help'}
        </option>
      ))}
    </select>
  )
}

/** What the address bar says of the days: whose, in which view, with layers over them or beside. */
const useAsked = () => {
  const narrow = useNarrow()
  const [search, setSearch] = useSearchParams()
  return {
    of: search.get('of') ?? undefined,
    list: search.get('view') === 'list',
    over: search.get('layers') === 'over',
    /** What is looked for in the list, through all days. */
    find: search.get('find') ?? '',
    view: VIEWS.find((each) => each.id === search.get('view'))?.id ?? (narrow ? 'day' : 'week'),
    put: (name: string, value: string | undefined) =>
      setSearch((before) => {
        const next = new URLSearchParams(before)
        if (value) next.set(name, value)
        else next.delete(name)
        return next
      }),
  }
}

/** Whose days, in which view, one line to write an entry, what is filtered. */
const Tools = ({
  asked,
  days,
  hand,
  line,
  onView,
  onTodos,
}: {
  asked: ReturnType<typeof useAsked>
  days: Days
  hand: Hand
  line: RefObject<HTMLInputElement | null>
  onView: (id: ViewId) => void
  onTodos: () => void
}) => {
  const { display, person } = useMe()
  const { of, list, over, put } = asked
  const active = list ? 'list' : viewOf(days.view.lens, display.firstWeekday, days.hours ?? [])
  const mayMake = !of || days.mayChange
  const lineTodos = useLineTodos(!of)
  return (
    <div className="on-screen @container flex items-center gap-2 px-3.5 py-1 max-md:flex-wrap max-md:px-2.5 [&_button]:whitespace-nowrap">
      <Whose of={of} onChange={(next) => put('of', next)} />
      <fieldset
        aria-label="What is shown"
        className="flex max-md:order-last max-md:w-full max-md:overflow-x-auto"
      >
        {[...VIEWS, { id: 'list' as const, name: 'List', key: 'l' }].map((each) => (
          <button
            key={each.id}
            type="button"
            aria-pressed={active === each.id}
            title={`Key: ${each.key}`}
            onClick={() => (each.id === 'list' ? put('view', 'list') : onView(each.id))}
            className="whitespace-nowrap border border-soft/50 border-r-0 px-2 @max-5xl:px-1.5 py-1 text-sm first:rounded-l-md last:rounded-r-md last:border-r aria-pressed:bg-ink aria-pressed:text-ground"
          >
            {each.name}
          </button>
        ))}
      </fieldset>
      {mayMake && (
        <QuickLine inputRef={line} of={of} todos={lineTodos} onMore={hand.edit} onMade={hand.show} />
      )}
      {!list && !days.year && (
        <BesideMine
          sets={days.sets}
          layers={days.layers}
          over={over}
          me={person.id}
          onOver={(next) => put('layers', next ? 'over' : undefined)}
        />
      )}
      <FilterButton state={days.filter} categories={days.categories} />
      {!of && (
        <Button title="Key: o" aria-label="To do" onClick={() => onTodos()}>
          <ListChecks size={16} aria-hidden />
          <span className="max-md:hidden @max-5xl:hidden">To do</span>
        </Button>
      )}
      {mayMake && (
        <Button aria-label="New entry" onClick={hand.makeHere}>
          <Plus size={17} aria-hidden />
          <span className="max-md:hidden @max-5xl:hidden">New</span>
        </Button>
      )}
    </div>
  )
}

/** Each thing that is edited has a sheet of its own, also where one follows at once upon another. */
const keyOf = ({ start, end, date }: Editing): string =>
  date ? `${date.entryId} ${date.recurrence}` : `new ${start} ${end}`

/** The days as lanes, a second zone under the first where one is chosen. */
const DaysBoard = ({
  days,
  hand,
  aside,
  of,
  room,
}: {
  days: Days
  hand: Hand
  aside: ReturnType<typeof useSetAside>
  of: string | undefined
  room: number
}) => {
  const { zone, display } = useMe()
  const { now, today, lens } = days.view
  const { rows, year } = days
  const [search] = useSearchParams()
  const { editing } = hand
  // On a narrow screen a day or two run downward, so that every block has room for its words.
  const upright = useNarrow() && lens.days <= MOST_UPRIGHT
  const opened = editing?.date
    ? `${editing.date.entryId} ${editing.date.recurrence}`
    : search.get('meeting') && `${search.get('meeting')} ${search.get('date')}`
  const axis = rows[0]?.axis ?? wallAxis(zone, today, 0, 1440)
  const second: ZoneTable | null = display.secondZone ? zoneTable(display.secondZone) : null
  const low = rows.filter((row) => row.low).length
  const mine = rows.filter((row) => !row.still).length - low
  const rulers = 1 + (second ? 1 : 0)
  const height = year
    ? YEAR_LANE
    : lens.days > 14
      ? Math.max(LEAST_DENSE_LANE, laneHeight(room, lens.days, rulers, MOST_LANE, LEAST_DENSE_LANE))
      : laneHeight(
          room - low * LOW_LANE - (mine + low) * days.perDay * 20,
          mine,
          rulers,
          MOST_LANE,
          LEAST_DAY,
        )
  return (
    <div style={{ '--lane': `${height}px` }} aria-busy={days.entries.isPending}>
      {upright && (
        <div className="px-2.5">
          <DueLabel todos={Array.from({ length: lens.days }, (_, i) => days.dueOn(lens.first + i)).flat()} />
        </div>
      )}
      <Board
        label={of ? 'Days of somebody else' : 'My days'}
        groups={[
          {
            id: 'mine',
            zone,
            axis,
            title: (
              <>
                <b>{of ? 'Their days' : 'My days'}</b>{' '}
                <span className="text-soft">{offsetInWords(offsetAt(zone, axis.from))}</span>
              </>
            ),
            rows,
            ...(year ? { ruler: <WeekdayRuler first={display.firstWeekday} /> } : {}),
            ...(second && !year
              ? {
                  alsoZones: [
                    {
                      zone: second,
                      title: (
                        <span className="text-soft">
                          {second.zone.split('/').at(-1)?.replace(/_/g, ' ')}{' '}
                          {offsetInWords(offsetAt(second, axis.from))}
                        </span>
                      ),
                    },
                  ],
                }
              : {}),
          },
        ]}
        home={zone}
        now={now}
        step={STEP}
        minutes={NEW_MINUTES}
        across="row"
        chosen={hand.chosen}
        days={false}
        onChoose={hand.choose}
        onTake={hand.take}
        onOpen={hand.open}
        mayMove={days.mayMove}
        lookOf={days.lookOf}
        faint={days.faint}
        holding={hand.holding}
        carried={aside.carried}
        onDropped={aside.setAside}
        opened={opened}
        dense={year || lens.days > 14}
        upright={upright}
      />
    </div>
  )
}

/** A meeting that was dragged elsewhere, or an entry that gets people: looked over before anybody is told. */
const LookOver = ({ changing, onClose }: { changing: Changing; onClose: () => void }) => {
  const navigate = useNavigate()
  const { entryId, recurrence, wanted, inviting } = changing
  const date = recurrence ? `&date=${encodeURIComponent(recurrence)}` : ''
  return (
    <Suspense>
      <ChangeSheet
        entryId={entryId}
        recurrence={recurrence}
        wanted={wanted}
        inviting={inviting}
        {...(inviting ? {} : { onFind: () => navigate(`/arrange?change=${entryId}${date}`) })}
        onClose={onClose}
      />
    </Suspense>
  )
}

/** A day, and an entry on it, that one came here for: they are shown once, and the address then says nothing of them. */
const useLookedFor = (days: Days, hand: Hand): void => {
  const [search, setSearch] = useSearchParams()
  const { display } = useMe()
  const { lens, look } = days.view
  const { edit } = hand
  const day = dayInAddress(search.get('day'))
  const entryId = search.get('entry')
  const recurrence = search.get('date')
  const [from, until] = [Date.parse(search.get('from') ?? ''), Date.parse(search.get('until') ?? '')]
  useEffect(() => {
    if (day === null) return
    if (day < lens.first || day >= lens.first + lens.days)
      look({ ...lens, first: lens.days < 7 ? day : weekStart(day, display.firstWeekday) })
    if (entryId && recurrence && until > from)
      edit({ start: from, end: until, date: { entryId, recurrence } })
    setSearch(
      (before) => {
        const next = new URLSearchParams(before)
        for (const name of ['day', 'entry', 'from', 'until', ...(entryId ? ['date'] : [])]) next.delete(name)
        return next
      },
      { replace: true },
    )
  }, [day, entryId, recurrence, from, until, lens, look, edit, setSearch, display.firstWeekday])
}

/** How do my days look? A lane for each day; drag on empty time to make an entry, drag an entry to move it. */
export const MyTime = () => {
  const { display, person } = useMe()
  const asked = useAsked()
  const { of, list, over, find, put } = asked
  const days = useDays(of, asked.view, over)
  const hand = useHand(days, of)
  useLookedFor(days, hand)
  const aside = useSetAside(days, hand)
  const todos = useTodoInAddress()
  const line = useRef<HTMLInputElement>(null)
  const { ref, room } = useRoom(64)
  const { today, lens, look } = days.view
  const show = (id: ViewId) => {
    if (list) put('view', undefined)
    const middle = inLens(lens, today) ? today : lens.first
    look(lensFor(id, middle, display.firstWeekday, days.hours ?? []))
  }
  useKeys([
    { keys: 'n', does: 'Next entry', on: 'n', run: () => hand.step(1) },
    { keys: 'p', does: 'Previous entry', on: 'p', run: () => hand.step(-1) },
    { keys: 'c', does: 'Make an entry', on: 'c', run: hand.makeHere },
    { keys: 'a', does: 'Write an entry in one line', on: 'a', run: () => line.current?.focus() },
    { keys: 'v', does: 'Take up the chosen entry, to move it by arrows', on: 'v', run: hand.takeUp },
    { keys: 'Delete', does: 'Delete the chosen entry', on: 'Delete', run: hand.removeChosen },
    ...VIEWS.map((each) => ({
      keys: each.key,
      does: `Show ${each.name.toLowerCase()}`,
      on: each.key,
      run: () => show(each.id),
    })),
    { keys: 'o', does: 'Show what is to be done', on: 'o', run: () => todos.show('list') },
    { keys: 'l', does: 'Show the list', on: 'l', run: () => put('view', list ? undefined : 'list') },
    { keys: '← → ↑ ↓', does: 'Move the chosen time' },
    { keys: 'Shift ← →', does: 'Move its end' },
    { keys: 'Enter', does: 'Open the entry at the chosen time, or make one' },
  ])
  const { entries } = days
  return (
    <>
      <h1 className="sr-only">My time</h1>
      <p className="on-paper">
        <b>{of ? 'Their time' : person.name}</b>, {daysInWords(days.view.lens)}
      </p>
      <Ribbon view={days.view} fill={days.fill} meaning="taken" />
      {/* Scrolled as a layer of its own: painted anew at each step, a year of blocks took 83 ms a frame. */}
      <div
        ref={ref}
        className="min-h-0 flex-1 overflow-y-auto overflow-x-hidden will-change-scroll"
        data-testid="days"
      >
        <Tools
          asked={asked}
          days={days}
          hand={hand}
          line={line}
          onView={show}
          onTodos={() => todos.show('list')}
        />
        {entries.isError ? (
          <div className="px-4">
            <Trouble action={<Button onClick={() => entries.refetch()}>Try again</Button>}>
              {problemWords(entries.error)}
            </Trouble>
          </div>
        ) : list ? (
          <Suspense fallback={<Loading what="the list" />}>
            <DayList
              mine={!of}
              find={find}
              onFind={(text) => put('find', text)}
              occurrences={days.listed}
              todos={days.listedTodos}
              categories={days.categories}
              onOpen={hand.openDate}
              onTodo={(todo) => todos.show(todo.id)}
            />
          </Suspense>
        ) : (
          <DaysBoard days={days} hand={hand} aside={aside} of={of} room={room} />
        )}
      </div>
      {hand.editing && (
        <EntrySheet
          key={keyOf(hand.editing)}
          editing={hand.editing}
          of={of}
          beside={days.beside}
          onClose={hand.endEditing}
          onInvite={hand.invite}
          about={of ? undefined : aboutEntry}
        />
      )}
      {hand.asking && <MoveQuestion {...hand.asking} onMove={hand.answer} onClose={hand.leave} />}
      {hand.changing && <LookOver changing={hand.changing} onClose={hand.endChanging} />}
    </>
  )
}
