import { sendMeeting } from '@marmot/contract/meetings'
import { laneOf, searchBriefOf, unknownLane } from '@marmot/contract/openings'
import { isClash, type Repair, type SeriesDate, type SeriesRule, seriesEnd } from '@marmot/core/openings'
import {
  clockText,
  DAY,
  dayOf,
  instantOf,
  minuteOf,
  shortDay,
  shortTime,
  toWall,
  wallOf,
  wallText,
} from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { useTime } from '../availability/time.ts'
import { call, problemWords } from '../platform/api.ts'
import { useReservationsChanged } from '../platform/live.ts'
import { searchPlace, usePlaces } from '../resources/resources.ts'
import { Button, Field, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { useBrief } from './brief.tsx'
import { placesFor } from './places-for.ts'
import type { Arranging } from './use-arranging.ts'
import { useSeries } from './use-series.ts'
import { blockerWords, listed } from './words.ts'

const USUAL: SeriesRule = { every: 1, unit: 'week', count: 6 }
const COUNTS = [3, 4, 6, 8, 10, 12, 16, 20, 26]
const MOST_SHOWN = 6

const kindWords: Record<Repair['kind'], string> = {
  time: 'another time that day',
  day: 'another day that week',
  place: 'another place',
}

/** A series: the weekday and hour with the fewest clashes over its whole run, and a repair for each date that clashes. */
export const SeriesSheet = ({ arranging, onClose }: { arranging: Arranging; onClose: () => void }) => {
  const { brief, change, clear } = useBrief()
  const { zone, me, members, names, placesById, wire, soonest } = arranging
  const queries = useQueryClient()
  const reservationsChanged = useReservationsChanged()
  const navigate = useNavigate()
  const rule = brief.series ?? USUAL
  const setRule = (next: Partial<SeriesRule>) => {
    change({ series: { ...rule, ...next } })
    setPicked(null)
  }
  const from = instantOf(zone, wallOf(brief.fromDay))
  const end = Math.min(seriesEnd({ from }, rule), from + 730 * DAY)
  const time = useTime(
    brief.people.map((one) => one.id),
    from - DAY,
    end,
  )
  const sites = [me.siteId, ...members.flatMap((member) => member.person?.siteId ?? [])]
  const { places, pending, stale } = usePlaces(from - DAY, end, {
    hold: brief.hold,
    of: placesFor(brief, sites),
  })
  const [picked, setPicked] = useState<number | null>(null)
  const [repairs, setRepairs] = useState<Readonly<Record<string, Repair>>>({})
  const [sending, setSending] = useState(false)
  const [error, setError] = useState<unknown>(null)
  const key = useRef({ of: '', key: '' })

  const { start } = brief
  const fetched = time.data && !time.isPlaceholderData && !pending && !stale ? time.data : null
  const search = useMemo(() => {
    if (!fetched) return null
    const lanes = new Map(fetched.people.map((each) => [each.personId, laneOf(each, wire.hold)]))
    return searchBriefOf(wire, {
      meId: me.id,
      zone: me.zone,
      homeSite: me.siteId,
      now: soonest,
      timeOf: (id) => lanes.get(id) ?? unknownLane(me.zone),
      siteOf: (id) => members.find((member) => member.id === id)?.person?.siteId,
      places: places.map(searchPlace),
      past: {},
    })
  }, [fetched, wire, me, members, places, soonest])
  const { slots, refused, searching } = useSeries(search, rule, start)
  // Dates of the repetition of before are not sent under the new one.
  const ready = fetched !== null && !searching

  const slot = ready ? (slots.find((each) => each.first === picked) ?? slots[0]) : undefined
  const clashes = slot?.dates.filter(isClash) ?? []
  const repairOf = (date: SeriesDate) => repairs[`${slot?.first} ${date.recurrence}`]
  const open = clashes.filter((date) => !repairOf(date))
  const repairable = open.filter((date) => date.repairs.length > 0)
  const repair = (dates: readonly SeriesDate[], choose: (date: SeriesDate) => Repair | undefined) =>
    setRepairs((before) => {
      const next = { ...before }
      for (const date of dates) {
        const chosen = choose(date)
        if (chosen) next[`${slot?.first} ${date.recurrence}`] = chosen
      }
      return next
    })
  // A date that nobody blocks alone clashes by a group, or by places that are not free together.
  const togetherWords =
    [
      ...(brief.groups.length ? ['too few of a group can come'] : []),
      ...(brief.needs.length ? ['the places cannot be had together'] : []),
    ].join(', or ') || 'the rules of the brief leave it out'
  const placeNames = (ids: readonly string[]) => listed(ids.flatMap((id) => placesById.get(id)?.name ?? []))
  const repairWords = (each: Repair) =>
    each.kind === 'place' ? `in ${placeNames(each.instead)}` : shortTime(each.start, zone)

  const invited = members.length - 1
  const send = async () => {
    const [first] = slot?.dates ?? []
    if (!slot || !first) return
    const changes = slot.dates.flatMap((date) => {
      const chosen = repairOf(date)
      if (!chosen) return []
      const kept = slot.places.filter((id) => !date.placesTaken.includes(id))
      return [
        {
          recurrence: wallText(date.recurrence),
          starts: chosen.kind === 'place' ? wallText(date.recurrence) : wallText(toWall(zone, chosen.start)),
          places: chosen.kind === 'place' ? [...kept, ...chosen.instead] : [...slot.places],
        },
      ]
    })
    const body = {
      title: brief.title,
      note: brief.note,
      starts: wallText(first.recurrence),
      minutes: brief.minutes,
      zone: me.zone,
      people: brief.people.filter((one) => one.id !== me.id).map(({ id, required }) => ({ id, required })),
      guests: brief.guests.map((one) => ({ ...one })),
      places: [...slot.places],
      series: { rule, changes },
      hold: brief.hold,
    }
    const text = JSON.stringify(body)
    if (key.current.of !== text) key.current = { of: text, key: crypto.randomUUID() }
    setSending(true)
    setError(null)
    try {
      const sent = await call(sendMeeting, { body, key: key.current.key })
      clear()
      onClose()
      queries.invalidateQueries()
      toast.success(
        `Made: ${slot.dates.length} dates. ${sent.invited} ${sent.invited === 1 ? 'invitation is' : 'invitations are'} on the way.`,
      )
      navigate(`/now?meeting=${sent.entryId}`)
    } catch (problem) {
      setError(problem)
      setSending(false)
      reservationsChanged()
    }
  }

  return (
    <Sheet open onClose={sending ? () => undefined : onClose} title="A series" wide>
      <div className="flex flex-col gap-4">
        <Field label="Title">
          {(props) => (
            <input
              {...props}
              data-first
              value={brief.title}
              maxLength={200}
              onChange={(event) => change({ title: event.target.value })}
            />
          )}
        </Field>
        <div className="grid grid-cols-2 gap-3">
          <Field label="How often">
            {(props) => (
              <select
                {...props}
                value={`${rule.every} ${rule.unit}`}
                onChange={(event) => {
                  const [every, unit] = event.target.value.split(' ')
                  setRule({ every: Number(every), unit: unit === 'month' ? 'month' : 'week' })
                }}
              >
                <option value="1 week">Every week</option>
                <option value="2 week">Every 2 weeks</option>
                <option value="3 week">Every 3 weeks</option>
                <option value="4 week">Every 4 weeks</option>
                <option value="1 month">Every month, same weekday</option>
                <option value="3 month">Every 3 months, same weekday</option>
              </select>
            )}
          </Field>
          <Field label="How many dates">
            {(props) => (
              <select
                {...props}
                value={rule.count}
                onChange={(event) => setRule({ count: Number(event.target.value) })}
              >
                {COUNTS.map((count) => (
                  <option key={count} value={count}>
                    {count} dates
                  </option>
                ))}
              </select>
            )}
          </Field>
        </div>
        {refused && <Trouble>{refused}</Trouble>}
        {!ready && <Loading what="everybody’s time over the whole series" />}
        {ready && !refused && slots.length === 0 && (
          <p>No weekday and hour suits everybody even once. See what would help under the lanes first.</p>
        )}
        {slot && (
          <>
            <fieldset aria-label="Weekday and hour, fewest clashes first" className="flex flex-wrap gap-1.5">
              {slots.slice(0, MOST_SHOWN).map((each) => (
                <Button
                  key={each.first}
                  aria-pressed={each === slot}
                  className={each === slot ? 'border-gentian font-semibold' : ''}
                  onClick={() => setPicked(each.first)}
                >
                  {each.first === start ? 'as chosen: ' : ''}
                  {shortTime(each.first, zone)},{' '}
                  {each.clashes === 0
                    ? 'no clash'
                    : `${each.clashes} ${each.clashes === 1 ? 'clash' : 'clashes'}`}
                </Button>
              ))}
            </fieldset>
            <section aria-label="Dates">
              <div className="flex items-center justify-between gap-3">
                <h3 className="font-semibold">
                  {slot.dates.length} dates{slot.places.length ? ` in ${placeNames(slot.places)}` : ''}
                </h3>
                {repairable.length > 0 && (
                  <Button onClick={() => repair(repairable, (date) => date.repairs[0])}>
                    Repair {repairable.length === 1 ? 'one clash' : `${repairable.length} clashes`}
                  </Button>
                )}
              </div>
              <ul className="mt-1">
                {slot.dates.map((date) => {
                  const chosen = repairOf(date)
                  const day = dayOf(date.recurrence)
                  return (
                    <li key={date.recurrence} className="border-line border-t py-1">
                      <span className={chosen && chosen.kind !== 'place' ? 'line-through' : ''}>
                        {shortDay(day)} {clockText(minuteOf(date.recurrence))}
                      </span>{' '}
                      {chosen && (
                        <b>
                          {repairWords(chosen)}{' '}
                          <span className="font-normal text-soft">({kindWords[chosen.kind]})</span>
                        </b>
                      )}
                      {isClash(date) && !chosen && (
                        <span className="text-coral text-sm">
                          ⚠{' '}
                          {[
                            ...date.blockers.map((blocker) => blockerWords(blocker, names)),
                            ...(date.placesTaken.length ? [`${placeNames(date.placesTaken)} is taken`] : []),
                          ].join(', ') || togetherWords}
                          {date.repairs.length === 0 && '; nothing else that week'}
                        </span>
                      )}
                      {isClash(date) && (
                        <span className="flex flex-wrap gap-1.5 pt-0.5">
                          {date.repairs
                            .filter((each) => each !== chosen)
                            .map((each) => (
                              <Button
                                key={each.kind}
                                className="text-sm"
                                onClick={() => repair([date], () => each)}
                              >
                                {repairWords(each)}
                              </Button>
                            ))}
                        </span>
                      )}
                    </li>
                  )
                })}
              </ul>
            </section>
            {error !== null && <Trouble>{problemWords(error)}</Trouble>}
            <div className="flex flex-wrap items-center justify-end gap-2">
              <span className="text-sm">
                {[
                  ...(open.length === 1 ? ['One date clashes still.'] : []),
                  ...(open.length > 1 ? [`${open.length} dates clash still.`] : []),
                  ...(brief.title.trim() ? [] : ['A title is missing.']),
                ].join(' ')}
              </span>
              <Button onClick={onClose} disabled={sending}>
                Back
              </Button>
              <Button tone="primary" disabled={sending || !brief.title.trim()} onClick={send}>
                {sending
                  ? 'Making the series…'
                  : `Make ${slot.dates.length} dates and send ${invited} ${invited === 1 ? 'invitation' : 'invitations'}`}
              </Button>
            </div>
          </>
        )}
      </div>
    </Sheet>
  )
}
