import type { Help, Opening } from '@marmot/core/openings'
import { dayOf, MINUTE, toWall } from '@marmot/core/time'
import { type KeyboardEvent, Suspense, useRef, useState } from 'react'
import { Board } from '../lanes/board.tsx'
import { inLens } from '../lanes/lens.ts'
import { Ribbon } from '../lanes/ribbon.tsx'
import { laneHeight, TWO_LINES, useRoom } from '../lanes/room.ts'
import type { BoardRow, Chosen } from '../lanes/types.ts'
import { useLens } from '../lanes/use-lens.ts'
import { PeopleSearch } from '../people/people-search.tsx'
import { useKeys } from '../platform/keys.tsx'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { useNarrow } from '../ui/use-narrow.ts'
import { useBrief, useBriefUndo } from './brief.tsx'
import { lightsOf, useBriefLanes } from './brief-lanes.tsx'
import { ChangeLook, presentOf } from './change-in-hand.tsx'
import {
  changedBrief,
  secondOf,
  withGuest,
  withoutMember,
  withPeople,
  withPlaceTurned,
  withRequiredTurned,
} from './changed-brief.ts'
import { CompareSheet } from './compare-sheet.tsx'
import { SendSheet } from './send-sheet.tsx'
import { SeriesSheet } from './series-sheet.tsx'
import { Tray } from './tray.tsx'
import { useBriefAddress } from './use-address.ts'
import { type Arranging, useArranging } from './use-arranging.ts'
import { useHold } from './use-hold.ts'
import { useJumps } from './use-jumps.ts'
import { useTakenAway } from './use-taken-away.ts'
import { useTakingUp } from './use-taking-up.ts'
import { helpWords } from './words.ts'

const AskSheet = part(() => import('./ask-sheet.tsx').then((m) => m.AskSheet))

const LONGEST_LENS = 14
const MOST_LANE = 48

/** What can be done next, in a line. */
const Hint = ({ arranging }: { arranging: Arranging }) => {
  const { alone, chosen, found } = arranging
  return (
    <p className="truncate text-soft text-sm max-md:hidden">
      {alone
        ? 'Add the people who should meet. Times that suit all of them show in yellow.'
        : chosen === null && found.openings.length === 0
          ? 'No time suits everybody. You can choose one all the same: press the hours you mean.'
          : chosen === null
            ? 'Press a yellow band, a card below, or n for the next time that works.'
            : 'Drag the frame, or press it and use the arrow keys. n and p go to the next and the previous time.'}
    </p>
  )
}

/** The times that several people are asked about, numbered, and how the chosen one comes among them. */
const useAsks = ({ chosen, now }: Arranging) => {
  const { brief, change } = useBrief()
  return {
    asks: brief.asks.map((start, i) => ({
      start,
      end: start + brief.minutes * MINUTE,
      words: String(i + 1),
    })),
    askAbout: () => {
      if (chosen && chosen.start > now && !brief.asks.includes(chosen.start))
        change({ asks: [...brief.asks, chosen.start].sort((a, b) => a - b) })
    },
  }
}

/** When can these people meet, and where? The lanes of all of them, the openings as light, and the brief below. */
export const Arrange = () => {
  const { brief, change, undo, setLater } = useBrief()
  useBriefUndo()
  const search = useRef<HTMLInputElement>(null)
  const [sending, setSending] = useState(false)
  const [repeating, setRepeating] = useState(false)
  const [comparing, setComparing] = useState(false)
  const [asking, setAsking] = useState(false)
  const { zone } = useMe()
  const narrow = useNarrow()
  const view = useLens(
    (today) => ({ first: brief.start === null ? today : dayOf(toWall(zone, brief.start)), days: 1 }),
    LONGEST_LENS,
    (lens, today) => ({ ...lens, first: today }),
  )
  const { lens, look } = view
  const [out, setOut] = useState<ReadonlySet<string>>(new Set())
  const arranging = useArranging(brief, view, out)
  const { chosen, members, now } = arranging
  const hold = useHold(arranging)
  useTakenAway(arranging)

  const lookAt = (start: number) => {
    const day = dayOf(toWall(zone, start))
    if (!inLens(lens, day)) look({ ...lens, first: day })
  }
  // Whoever opens a colleague's address sees the day that was chosen.
  useBriefAddress((arrived) => {
    if (arrived.start !== null) lookAt(arrived.start)
  })
  const arriving = useTakingUp((taken) => {
    if (taken.start !== null) lookAt(taken.start)
  })
  const choose = (next: Chosen | null, gesture?: number) => {
    if (!next) {
      change({ start: null }, gesture)
      return
    }
    const minutes = Math.round((next.end - next.start) / 60_000)
    change(minutes === brief.minutes ? { start: next.start } : { start: next.start, minutes }, gesture)
    lookAt(next.start)
  }
  const take = (opening: Opening) => {
    change({ start: opening.start })
    lookAt(opening.start)
  }
  const { jump, jumps, setJumps, said } = useJumps(arranging, take)
  const tryHelp = (help: Help) => {
    const second = secondOf(brief, help.changes, arranging.me.id)
    change(changedBrief(brief, help.changes))
    if (second) setLater(second)
    toast(`${helpWords(help, arranging.names)}.`, {
      action: {
        label: 'Take it back',
        onClick: () => {
          undo()
          if (second) setLater(null)
        },
      },
    })
  }
  const toggle = (id: string) => change(withRequiredTurned(brief, id))
  const remove = (id: string) => change(withoutMember(brief, id))
  const togglePlace = (id: string) => change(withPlaceTurned(brief, id))
  const mayAsk = !brief.meeting && !brief.series
  const { asks, askAbout } = useAsks(arranging)
  const toggleOut = (id: string) =>
    setOut((before) => {
      const next = new Set(before)
      if (!next.delete(id)) next.add(id)
      return next
    })
  useKeys([
    { keys: 'n', does: 'Next time that works', on: 'n', run: () => jump(1) },
    { keys: 'p', does: 'Previous time that works', on: 'p', run: () => jump(-1) },
    { keys: 'd', does: 'Next day with a time that works', on: 'd', run: () => jump(1, 'day') },
    { keys: 'b', does: 'The day before with a time that works', on: 'b', run: () => jump(-1, 'day') },
    { keys: 'h', does: 'Hold the chosen time, or hold it no more', on: 'h', run: () => void hold.toggle() },
    { keys: '← →', does: 'Move the chosen time by a quarter of an hour' },
    { keys: 'Shift ← →', does: 'Move its end' },
    { keys: '↑ ↓', does: 'Go from one person or place to the next' },
    { keys: 'o', does: 'Make the person one is at optional or required' },
    { keys: 'x', does: 'Leave the person one is at out for a moment, or take them in again' },
    { keys: 'Delete', does: 'Take the person one is at out of the meeting' },
    { keys: '/', does: 'Add a person, a team or a guest', on: '/', run: () => search.current?.focus() },
    {
      keys: 'a',
      does: asking ? 'Add the chosen time to those you ask about' : 'Ask several people which times suit',
      on: 'a',
      run: () => (asking ? askAbout() : setAsking(mayAsk)),
    },
    { keys: 's', does: 'Look over and send', on: 's', run: () => setSending(true) },
    { keys: 'c', does: 'Compare times side by side', on: 'c', run: () => setComparing(!arranging.alone) },
    {
      keys: 'r',
      does: 'Make it repeat',
      on: 'r',
      run: () => setRepeating(!arranging.alone && !brief.meeting),
    },
    { keys: 'Escape', does: 'Choose no time' },
  ])
  const rowKeys = (event: KeyboardEvent, row: BoardRow) => {
    if (event.target !== event.currentTarget || row.id === arranging.me.id) return
    if (event.key === 'o') toggle(row.id)
    else if (event.key === 'x') toggleOut(row.id)
    else if (event.key === 'Delete') remove(row.id)
    else return
    event.preventDefault()
  }

  const groups = useBriefLanes(arranging, lens, {
    toggleRequired: toggle,
    takeOut: remove,
    toggleOut,
    dropPlace: togglePlace,
  })
  const rows = groups.reduce((sum, group) => sum + group.rows.length, 0)
  const { ref, room } = useRoom(44)
  const lane = laneHeight(room, rows, groups.length, MOST_LANE)
  return (
    <>
      <h1 className="sr-only">Arrange a meeting</h1>
      <Ribbon view={view} fill={arranging.fill} meaning={arranging.alone ? 'taken' : 'open'} />
      <div className="flex min-h-0 flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          <div ref={ref} className="relative min-h-0 flex-1 overflow-y-auto overflow-x-hidden">
            <div className="grid grid-cols-[var(--label)_1fr] items-center py-1.5 max-md:grid-cols-1 max-md:px-2.5">
              <div className="pr-3 pl-3.5 max-md:p-0">
                <PeopleSearch
                  inputRef={search}
                  taken={new Set(brief.people.map((one) => one.id))}
                  onPeople={(people) =>
                    change(
                      withPeople(
                        brief,
                        people.map((person) => person.id),
                      ),
                    )
                  }
                  onGuest={(guest) => change(withGuest(brief, guest))}
                />
              </div>
              <Hint arranging={arranging} />
            </div>
            {arriving ? (
              <div className="px-4 py-2">
                <Loading what="the meeting" />
              </div>
            ) : arranging.error ? (
              <div className="px-4 py-2">
                <Trouble action={<Button onClick={() => arranging.retry()}>Try again</Button>}>
                  {problemWords(arranging.error)}
                </Trouble>
              </div>
            ) : (
              <div style={{ '--lane': `${lane}px` }} data-compact={lane < TWO_LINES || undefined}>
                <Board
                  label="Everybody’s time"
                  groups={groups}
                  home={zone}
                  now={now}
                  step={arranging.step}
                  minutes={brief.minutes}
                  across="all"
                  chosen={chosen ? { ...chosen, rowId: null } : null}
                  present={brief.meeting ? presentOf(brief.meeting) : null}
                  asked={asking ? asks : []}
                  lights={lightsOf(arranging)}
                  days={lens.days > 1}
                  upright={narrow && lens.days === 1}
                  onChoose={choose}
                  onTake={() => undefined}
                  rowKeys={rowKeys}
                  empty={<Loading what="everybody’s time" />}
                />
              </div>
            )}
          </div>
          <p className="sr-only" role="status">
            {said}
          </p>
          <Tray
            arranging={arranging}
            members={members}
            said={said}
            onTake={take}
            onTogglePlace={togglePlace}
            onSend={() => setSending(true)}
            onAsk={mayAsk && !asking ? () => setAsking(true) : undefined}
            onRepeat={() => setRepeating(true)}
            onCompare={() => setComparing(true)}
            onJump={jump}
            jumps={jumps}
            onJumps={setJumps}
            onHelp={tryHelp}
            onWindow={(fromDay, toDay) => {
              change({ fromDay, toDay })
              if (lens.first < fromDay || lens.first >= toDay) look({ ...lens, first: fromDay })
            }}
            hold={hold}
          />
        </div>
        {asking && mayAsk && (
          <Suspense>
            <AskSheet arranging={arranging} onClose={() => setAsking(false)} />
          </Suspense>
        )}
      </div>
      {comparing && <CompareSheet arranging={arranging} onTake={take} onClose={() => setComparing(false)} />}
      {repeating && <SeriesSheet arranging={arranging} onClose={() => setRepeating(false)} />}
      {sending &&
        (brief.meeting ? (
          <ChangeLook arranging={arranging} meeting={brief.meeting} onClose={() => setSending(false)} />
        ) : (
          <SendSheet arranging={arranging} onClose={() => setSending(false)} />
        ))}
    </>
  )
}
