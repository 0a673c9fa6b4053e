import {
  clocksInWords,
  clockText,
  type Day,
  dayInWords,
  dayOf,
  lengthInWords,
  minuteOf,
  offsetAt,
  shortDay,
  spanInWords,
  toWall,
  wallFromText,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { useState } from 'react'
import { askOutside, MOVE, TAKE } from '../outside/routes.ts'
import { problemCode, problemWords } from '../platform/problem.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { useNarrow } from '../ui/use-narrow.ts'
import { browserZone, ZoneChoice } from '../ui/zone-choice.tsx'
import { DayList, daysOf } from './day-list.tsx'
import { Frame, NotOffered } from './frame.tsx'
import { type Taken, TakenWords } from './taken.tsx'
import { type OfferedKind, useOffered } from './use-offered.ts'
import { missingIn, type Typed, typedFrom, useTyped, VisitorForm } from './visitor-form.tsx'

const asked = new URLSearchParams(location.search)

/** A day of the address, as `day=2026-12-03`. */
const dayAsked = (): Day | null => {
  const wall = wallFromText(`${asked.get('day') ?? ''}T00:00`)
  return wall === null ? null : dayOf(wall)
}

const minutesAsked = (): number | null => {
  const minutes = Number(asked.get('minutes'))
  return Number.isInteger(minutes) && minutes > 0 ? minutes : null
}

/** The times of a day, as buttons big enough for a thumb. */
const Times = ({
  starts,
  minutes,
  zone,
  theirs,
  chosen,
  onChoose,
}: {
  starts: readonly number[]
  minutes: number
  zone: ZoneTable
  theirs: ZoneTable
  chosen: number | null
  onChoose: (start: number) => void
}) => (
  <div className="grid grid-cols-[repeat(auto-fill,minmax(92px,1fr))] gap-2">
    {starts.map((start) => {
      const elsewhere = offsetAt(zone, start) !== offsetAt(theirs, start)
      const there = clocksInWords(start, start + minutes * 60_000, theirs)
      return (
        <button
          key={start}
          type="button"
          aria-pressed={chosen === start}
          title={elsewhere ? `There it is ${there}` : undefined}
          onClick={() => onChoose(start)}
          className={`min-h-thumb rounded-md border font-semibold ${chosen === start ? 'border-gentian bg-gentian text-gentian-ink' : 'border-soft/50 bg-paper hover:bg-shade'}`}
        >
          {clockText(minuteOf(toWall(zone, start)))}
        </button>
      )
    })}
  </div>
)

/** What it is: how long, where, with whom, what it costs. */
const About = ({
  data,
  minutes,
  host,
  moving,
  onMinutes,
  onHost,
}: {
  data: OfferedKind
  minutes: number
  host: string
  moving: boolean
  onMinutes: (minutes: number) => void
  onHost: (host: string) => void
}) => {
  const { kind } = data
  const chip = (on: boolean) =>
    `min-h-9 rounded-full border px-3 max-md:min-h-thumb ${on ? 'border-gentian bg-gentian/12 font-semibold' : 'border-soft/50 bg-paper'}`
  return (
    <header className="flex flex-col gap-2">
      <div>
        <p className="text-soft">{moving ? 'Choose another time for' : data.name}</p>
        <h1 className="text-balance font-bold text-2xl">{kind.title}</h1>
        {kind.about && !moving && <p className="whitespace-pre-wrap text-soft">{kind.about}</p>}
      </div>
      {!moving && (
        <div className="flex flex-wrap items-center gap-2">
          {kind.lengths.length > 1 ? (
            <fieldset className="flex flex-wrap gap-1.5">
              <legend className="sr-only">How long</legend>
              {kind.lengths.map((length) => (
                <button
                  key={length}
                  type="button"
                  aria-pressed={length === minutes}
                  className={chip(length === minutes)}
                  onClick={() => onMinutes(length)}
                >
                  {lengthInWords(length)}
                </button>
              ))}
            </fieldset>
          ) : (
            <span>{lengthInWords(minutes)}</span>
          )}
          {kind.place && <span className="text-soft">{kind.place}</span>}
          {kind.where === 'conference' && <span className="text-soft">by video or telephone</span>}
          {kind.where === 'room' && <span className="text-soft">in a room that you will be told</span>}
          {kind.cost && <span className="text-soft">{kind.cost}</span>}
        </div>
      )}
      {kind.hosts.length > 0 && !moving && (
        <fieldset className="flex flex-wrap items-center gap-1.5">
          <legend className="sr-only">With whom</legend>
          <button
            type="button"
            aria-pressed={host === ''}
            className={chip(host === '')}
            onClick={() => onHost('')}
          >
            whoever is free
          </button>
          {kind.hosts.map((one) => (
            <button
              key={one.host}
              type="button"
              aria-pressed={one.host === host}
              className={chip(one.host === host)}
              onClick={() => onHost(one.host)}
            >
              {one.name}
            </button>
          ))}
        </fieldset>
      )}
    </header>
  )
}

/** Picking a time: a day, then a time, then who one is. What is typed stays, whatever becomes of the time. */
export const PickTime = ({ page, kind }: { page: string; kind: string }) => {
  const visit = asked.get('visit') ?? ''
  const [minutes, setMinutes] = useState(minutesAsked)
  const [host, setHost] = useState(asked.get('host') ?? '')
  const offered = useOffered({ page, kind, minutes, host, once: asked.get('once') ?? '', visit })
  const [zone, setZone] = useState<string | null>(null)
  const [day, setDay] = useState<Day | null>(dayAsked)
  const [chosen, setChosen] = useState<number | null>(null)
  const [taken, setTaken] = useState<Taken | null>(null)
  const typing = useTyped(() => typedFrom(asked))
  const { typed } = typing
  const keyOf = useKeyOf()
  const narrow = useNarrow()
  const { busy, trouble, attempt } = useAttempt()
  const { data, error } = offered
  if (taken && data)
    return (
      <Frame head={data}>
        <TakenWords
          taken={taken}
          zone={zoneTable(zone ?? browserZone(data.zone))}
          now={Date.parse(data.now)}
        />
      </Frame>
    )
  if (error && (!data || problemCode(error) === 'not-offered'))
    return problemCode(error) === 'offline' ? (
      <main className="mx-auto max-w-lg p-6">
        <Trouble action={<Button onClick={offered.again}>Try again</Button>}>{problemWords(error)}</Trouble>
      </main>
    ) : (
      <NotOffered />
    )
  if (!data)
    return (
      <main className="p-6">
        <Loading what="the free times" />
      </main>
    )
  const table = zoneTable(zone ?? browserZone(data.zone))
  const theirs = zoneTable(data.zone)
  const now = Date.parse(data.now)
  const today = dayOf(toWall(table, now))
  const days = daysOf(data.starts, table)
  // On a phone the days come first, and one is opened; beside them there is room for the first at once.
  const shown = days.find((one) => one.day === day) ?? (narrow ? undefined : days[0])
  const length = data.minutes
  const at = chosen !== null && data.starts.includes(chosen) ? chosen : null
  const missing = visit ? '' : missingIn(data.kind, typed)
  const take = async () => {
    if (at === null) return
    const start = new Date(at).toISOString()
    const done = await attempt(async () => {
      if (visit) {
        const body = { start }
        const moved = await askOutside(MOVE, { params: { token: visit }, body, key: keyOf(body) })
        setTaken({ ...moved, own: visit, moved: true })
        return
      }
      const body = bodyOf(data, typed, { start, minutes: length, host, zone: table.zone })
      const answer = await askOutside(TAKE, { params: { page, kind }, body, key: keyOf(body) })
      setTaken({ ...answer, own: typed.own, moved: false, address: typed.address })
    })
    if (!done) void offered.again()
  }
  const words = at === null ? '' : spanInWords(at, at + length * 60_000, table, now)
  const times = shown && (
    <section aria-label="Times" className="flex flex-col gap-3">
      {!narrow && <h2 className="font-semibold text-lg">{dayInWords(shown.day, today)}</h2>}
      <Times
        starts={shown.starts}
        minutes={length}
        zone={table}
        theirs={theirs}
        chosen={at}
        onChoose={setChosen}
      />
      {at !== null && (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            void take()
          }}
        >
          <p className="rounded-lg border-gentian border-l-4 bg-paper px-4 py-2.5">
            <b className="font-semibold">{words}</b>
            {offsetAt(table, at) !== offsetAt(theirs, at) && (
              <span className="block text-soft text-sm">
                There it is {clocksInWords(at, at + length * 60_000, theirs)}
                {dayOf(toWall(theirs, at)) === dayOf(toWall(table, at))
                  ? ''
                  : ` on ${shortDay(dayOf(toWall(theirs, at)))}`}
                .
              </span>
            )}
          </p>
          {!visit && <VisitorForm kind={data.kind} trouble={trouble} {...typing} />}
          {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
          <div className="flex flex-col gap-1">
            {missing && <p className="text-soft text-sm">Still missing: {missing}.</p>}
            <Button type="submit" tone="primary" className="min-h-12" disabled={busy || missing !== ''}>
              {busy
                ? 'Taking it…'
                : `${visit ? 'Move it to' : 'Take'} ${dayInWords(dayOf(toWall(table, at)), today)}, ${clockText(minuteOf(toWall(table, at)))}`}
            </Button>
          </div>
        </form>
      )}
    </section>
  )
  return (
    <Frame head={data} wide>
      <About
        data={data}
        minutes={length}
        host={host}
        moving={visit !== ''}
        onMinutes={(next) => {
          setMinutes(next)
          setChosen(null)
        }}
        onHost={(next) => {
          setHost(next)
          setChosen(null)
        }}
      />
      <ZoneChoice zone={table.zone} at={shown?.starts[0] ?? data.starts[0] ?? now} onChoose={setZone} />
      {at === null && chosen !== null && (
        <Trouble>
          {trouble === null
            ? 'The time that you chose is taken. What you typed is kept; choose another.'
            : problemWords(trouble)}
        </Trouble>
      )}
      {days.length === 0 ? (
        <p role="status" className="rounded-lg bg-paper px-4 py-3">
          {data.next === null
            ? 'No time is free in the days that are offered. Write to whoever sent you here.'
            : 'No time is free in the next four weeks.'}{' '}
          {data.next !== null && (
            <Button
              className="max-md:min-h-thumb"
              onClick={() => data.next !== null && offered.goTo(data.next)}
            >
              Go to {shortDay(dayOf(toWall(table, data.next)))}, the next that is
            </Button>
          )}
        </p>
      ) : (
        <div className="grid items-start gap-5 md:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
          <section aria-label="Days" className="flex flex-col gap-2 md:max-h-[70dvh] md:overflow-y-auto">
            <DayList
              days={days}
              length={length}
              zone={table}
              today={today}
              open={shown?.day ?? null}
              onOpen={(next) => {
                setDay(narrow && next === shown?.day ? null : next)
                setChosen(null)
              }}
              below={narrow ? times : null}
            />
            {offered.mayMore && (
              <Button className="self-start max-md:min-h-thumb" onClick={offered.more}>
                Later days
              </Button>
            )}
          </section>
          {!narrow && times}
        </div>
      )}
    </Frame>
  )
}

/** What is sent: the time, who one is, and what was answered of what is asked. */
const bodyOf = (
  { kind }: OfferedKind,
  typed: Typed,
  time: { readonly start: string; readonly minutes: number; readonly host: string; readonly zone: string },
) => ({
  start: time.start,
  minutes: time.minutes,
  zone: time.zone,
  ...(time.host ? { host: time.host } : {}),
  ...(asked.get('once') ? { once: asked.get('once') ?? '' } : {}),
  name: typed.name.trim(),
  address: typed.address.trim(),
  place: kind.where === 'theirs' || kind.where === 'asked' ? typed.place : '',
  guests: typed.guests.filter((guest) => guest.trim()).map((guest) => ({ address: guest.trim() })),
  answers: Object.fromEntries(
    kind.questions.flatMap(({ id }) => (id in typed.answers ? [[id, typed.answers[id] ?? null]] : [])),
  ),
  own: typed.own,
  website: typed.website,
})
