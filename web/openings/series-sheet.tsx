import { sendMeeting } from '@marmot/contract/meetings'
import { isClash, type Repair, type SeriesDate, type SeriesSlot } from '@marmot/core/openings'
import { clockText, dayOf, minuteOf, shortDay, shortTime } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { useMeetingWrites } from '../meetings/writes.ts'
import { call } from '../platform/api.ts'
import { useReservationsChanged } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import { Button, counted, Field, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot } from '../ui/sheet.tsx'
import { AgendaField } from './agenda-field.tsx'
import { useBrief } from './brief.tsx'
import { useJoining } from './joining-choice.tsx'
import type { Arranging } from './use-arranging.ts'
import { type SeriesInHand, useSeriesInHand } from './use-series-in-hand.ts'
import { blockerWords, listed } from './words.ts'

const COUNTS = [3, 4, 6, 8, 10, 12, 16, 20, 26]
const MOST_SHOWN = 6

const kindWords: Record<Repair['kind'], string> = {
  time: 'another time that day',
  day: 'another day that week',
  place: 'another place',
}

/** How often, and how many dates. */
const RuleFields = ({ rule, setRule }: Pick<SeriesInHand, 'rule' | 'setRule'>) => (
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
)

/** The weekdays and hours to choose from, fewest clashes first. */
const Slots = ({ series, arranging }: { series: SeriesInHand; arranging: Arranging }) => {
  const { zone, chosen } = arranging
  const { slots, slot } = series
  const start = chosen?.start ?? null
  return (
    <fieldset aria-label="Weekday and hour, fewest clashes first" className="flex flex-wrap gap-1.5">
      {slots.slice(0, MOST_SHOWN).map((each) => (
        <Button
          key={each.first}
          aria-pressed={each === slot}
          className={each === slot ? 'border-gentian font-semibold' : ''}
          onClick={() => series.pick(each.first)}
        >
          {each.first === start ? 'as chosen: ' : ''}
          {shortTime(each.first, zone)},{' '}
          {each.clashes === 0 ? 'no clash' : `${each.clashes} ${each.clashes === 1 ? 'clash' : 'clashes'}`}
        </Button>
      ))}
    </fieldset>
  )
}

/** Places by their names, in words. */
const namesOf = ({ placesById }: Arranging, ids: readonly string[]): string =>
  listed(ids.flatMap((id) => placesById.get(id)?.name ?? []))

/** One date: when it is, what stands in its way, and what could be done about it. */
const DateRow = ({
  date,
  series,
  arranging,
}: {
  date: SeriesDate
  series: SeriesInHand
  arranging: Arranging
}) => {
  const { brief } = useBrief()
  const { zone, names } = arranging
  const left = series.isLeft(date)
  const chosen = left ? undefined : series.repairOf(date)
  const day = dayOf(date.recurrence)
  // A date that nobody blocks alone clashes by a group, or by places that are not free together.
  const togetherWords =
    [
      ...(brief.groups.length ? ['too few of a group can come'] : []),
      ...(brief.needs.length ? ['the places cannot be had together'] : []),
    ].join(', or ') || 'the rules of the brief leave it out'
  const repairWords = (each: Repair) =>
    each.kind === 'place' ? `in ${namesOf(arranging, each.instead)}` : shortTime(each.start, zone)
  return (
    <li className="border-line border-t py-1">
      <button
        type="button"
        className="float-right min-h-6 rounded px-1 leading-5 text-gentian text-sm underline underline-offset-2 max-md:min-h-thumb"
        aria-label={`${left ? 'Take in again' : 'Leave out'}: ${shortDay(day)}`}
        // One date at least is left.
        disabled={!left && series.kept.length === 1}
        onClick={() => series.leave(date)}
      >
        {left ? 'Take in again' : 'Leave out'}
      </button>
      <span
        className={left ? 'text-soft line-through' : chosen && chosen.kind !== 'place' ? 'line-through' : ''}
      >
        {shortDay(day)} {clockText(minuteOf(date.recurrence))}
      </span>{' '}
      {left && <span className="text-soft">left out</span>}
      {chosen && (
        <b>
          {repairWords(chosen)} <span className="font-normal text-soft">({kindWords[chosen.kind]})</span>
        </b>
      )}
      {isClash(date) && !chosen && !left && (
        <span className="text-coral text-sm">
          ⚠{' '}
          {[
            ...date.blockers.map((blocker) => blockerWords(blocker, names)),
            ...(date.placesTaken.length ? [`${namesOf(arranging, date.placesTaken)} is taken`] : []),
          ].join(', ') || togetherWords}
          {date.repairs.length === 0 && '; nothing else that week'}
        </span>
      )}
      {isClash(date) && !left && (
        <span className="flex flex-wrap gap-1.5 pt-0.5">
          {date.repairs
            .filter((each) => each !== chosen)
            .map((each) => (
              <Button key={each.kind} className="text-sm" onClick={() => series.repair([date], () => each)}>
                {repairWords(each)}
              </Button>
            ))}
        </span>
      )}
    </li>
  )
}

const Dates = ({
  slot,
  series,
  arranging,
}: {
  slot: SeriesSlot
  series: SeriesInHand
  arranging: Arranging
}) => {
  const { repairable } = series
  return (
    <section aria-label="Dates">
      <div className="flex items-center justify-between gap-3">
        <h3 className="font-semibold">
          {counted(series.kept.length, 'date', 'dates')}
          {slot.places.length ? ` in ${namesOf(arranging, slot.places)}` : ''}
        </h3>
        {repairable.length > 0 && (
          <Button onClick={() => series.repair(repairable, (date) => date.repairs[0])}>
            Repair {repairable.length === 1 ? 'one clash' : `${repairable.length} clashes`}
          </Button>
        )}
      </div>
      <ul className="mt-1">
        {slot.dates.map((date) => (
          <DateRow key={date.recurrence} date={date} series={series} arranging={arranging} />
        ))}
      </ul>
    </section>
  )
}

/** A series: the weekday and hour with the fewest clashes over its whole run, and a repair for each date that clashes. */
export const SeriesSheet = ({ arranging, onClose }: { arranging: Arranging; onClose: () => void }) => {
  const { brief, change, clear } = useBrief()
  const series = useSeriesInHand(arranging)
  const { slot, slots, refused, ready, open } = series
  const { conference, choice } = useJoining(arranging)
  const queries = useQueryClient()
  const reservationsChanged = useReservationsChanged()
  const navigate = useNavigate()
  const writes = useMeetingWrites()
  const [sending, setSending] = useState(false)
  const [error, setError] = useState<unknown>(null)
  const keyOf = useKeyOf()
  const invited = arranging.members.length - 1
  const send = async () => {
    const dates = series.body()
    if (!slot || !dates) return
    const body = { ...dates, conference, outdoors: brief.outdoors?.siteId ?? null }
    setSending(true)
    setError(null)
    try {
      const sent = await call(sendMeeting, { body, key: keyOf(body) })
      clear()
      onClose()
      queries.invalidateQueries()
      writes.done(
        `Made ${brief.title}, ${counted(series.kept.length, 'date', 'dates')}`,
        { ...sent, told: sent.invited },
        () => {
          change({ ...brief, hold: null })
          navigate('/arrange')
        },
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
      <div className="flex min-h-full flex-col gap-4">
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
        <RuleFields {...series} />
        {refused && <Trouble>{refused}</Trouble>}
        {!ready && <Loading what="everybody’s time over the whole series" />}
        {ready && !refused && slots.length === 0 && (
          <p>No weekday and hour suits everybody even once. Close this, and see what would help first.</p>
        )}
        {slot && (
          <>
            <Slots series={series} arranging={arranging} />
            <Dates slot={slot} series={series} arranging={arranging} />
            <AgendaField
              label="Agenda of the first date (optional)"
              value={brief.agenda}
              minutes={brief.minutes}
              names={arranging.members.map((member) => member.name)}
              onChange={(agenda) => change({ agenda })}
            />
            {choice}
            {error !== null && <Trouble>{problemWords(error)}</Trouble>}
            <SheetFoot>
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
                  : `Make ${counted(series.kept.length, 'date', 'dates')} and send ${counted(invited, 'invitation', 'invitations')}`}
              </Button>
            </SheetFoot>
          </>
        )}
      </div>
    </Sheet>
  )
}
