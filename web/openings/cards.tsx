import { type DayOfOpenings, type Help, judge, type Opening, openingsByDay } from '@marmot/core/openings'
import { clockText, minuteOf, shortDay, shortTime, toWall, weekStart } from '@marmot/core/time'
import { useState } from 'react'
import { presentOf } from './change-in-hand.tsx'
import type { Arranging } from './use-arranging.ts'
import type { Searching } from './use-search.ts'
import { blockerWords, helpWords, listed, partsWords, scoreLines, whyWords } from './words.ts'

const MOST_CARDS = 12
const MOST_ALTERNATIVES = 4
const MOST_HELP = 3
/** Cards share the width; where there are many, the row scrolls. */
const CARD =
  'flex min-w-[205px] max-w-[420px] flex-1 flex-col rounded-lg border-2 bg-ground hover:bg-shade max-md:max-w-none max-md:basis-[78vw] max-md:shrink-0'

const Card = ({
  arranging,
  day,
  onTake,
}: {
  arranging: Arranging
  day: DayOfOpenings
  onTake: (opening: Opening) => void
}) => {
  const { asked: members, zone, chosen, names } = arranging
  const all = [day.best, ...day.others]
  const isHere = (each: Opening) => chosen !== null && chosen.start >= each.from && chosen.start <= each.to
  // The card shows the alternative that one has chosen; the best otherwise.
  const opening = all.find(isHere) ?? day.best
  const here = isHere(opening)
  const known = members.filter((member) => member.time.known).length
  const places = placesOfOpening(arranging, opening)
  const reasons = partsWords(opening, names)
  const unknown = members.length - known
  const missing = opening.parts.missing.length
  const count = unknown
    ? `${known - missing} free, ${unknown} unknown`
    : missing
      ? `${known - missing} of ${known} free`
      : `all ${known} free`
  const others = all.filter((each) => each !== opening).slice(0, MOST_ALTERNATIVES)
  return (
    <li className={`${CARD} ${here ? 'border-gentian' : 'border-transparent'}`}>
      <button
        type="button"
        onClick={() => onTake(opening)}
        aria-current={here || undefined}
        title={scoreLines(opening, names).join('\n')}
        className="flex w-full min-w-0 flex-1 flex-col rounded-lg px-2.5 pt-1 text-left leading-snug"
      >
        <b className="whitespace-nowrap text-[14.5px]">{shortTime(opening.start, zone)}</b>
        <span className="line-clamp-2 text-[13px]">
          {count}.{' '}
          <span className="text-soft">
            {[...(reasons.length ? reasons : ['inside everybody’s hours']), ...(places ? [places] : [])].join(
              ', ',
            )}
          </span>
        </span>
      </button>
      {others.length > 0 && (
        <span className="flex gap-1 px-2 text-[12.5px]">
          <span className="self-center text-soft">or</span>
          {others.map((other) => (
            <button
              key={other.from}
              type="button"
              className="min-h-[25px] rounded px-1 underline decoration-soft/60 underline-offset-2 hover:bg-paper"
              title={scoreLines(other, names).join('\n')}
              onClick={() => onTake(other)}
            >
              {clockText(minuteOf(toWall(zone, other.start)))}
            </button>
          ))}
        </span>
      )}
    </li>
  )
}

/** How the meeting that is to be moved stands at its present time, to compare with. */
const PresentCard = ({ arranging, onTake }: { arranging: Arranging; onTake: (opening: Opening) => void }) => {
  const { brief, search, zone, names } = arranging
  if (!brief.meeting || !search) return null
  const { start } = brief.meeting
  const span = presentOf(brief.meeting)
  const judged = judge(search, span)
  const opening = { ...span, from: start, to: start, parts: judged.parts, cost: judged.cost }
  const reasons = partsWords(opening, names)
  const here = brief.start === start
  return (
    <li className={`${CARD} border-dashed ${here ? 'border-gentian' : 'border-soft'}`}>
      <button
        type="button"
        onClick={() => onTake(opening)}
        aria-current={here || undefined}
        className="flex w-full flex-1 flex-col rounded-lg px-2.5 pt-1 text-left leading-snug"
      >
        <span className="flex w-full items-baseline justify-between gap-2">
          <b className="whitespace-nowrap text-[14.5px]">{shortTime(start, zone)}</b>
          <span className="text-[12.5px]">as it is</span>
        </span>
        <span className={`w-full truncate text-sm ${judged.blockers.length ? 'text-coral' : ''}`}>
          {judged.blockers.length
            ? `⚠ ${listed(judged.blockers.map((one) => blockerWords(one, names)))}`
            : 'nobody is kept from it'}
        </span>
        <span className="w-full truncate text-[12.5px] text-soft">
          {reasons.length ? reasons.join(', ') : 'inside everybody’s hours'}
        </span>
      </button>
    </li>
  )
}

/** The places that an opening was matched with, where places are asked for; a card says nothing of a room that nobody wants. */
const placesOfOpening = (arranging: Arranging, opening: Opening): string => {
  const matched = opening.parts.places
  if (!matched) return ''
  const found = matched.places.flatMap((id) => arranging.placesById.get(id ?? '')?.name ?? [])
  return found.length ? `in ${listed(found)}` : ''
}

/** How far a search has come, once it takes long enough to wonder, and how to stop it or ask again. */
const HowFar = ({ searching }: { searching: Searching }) => {
  const button = (words: string, onClick: () => void) => (
    <button
      type="button"
      className="min-h-[25px] rounded px-1.5 underline underline-offset-2"
      onClick={onClick}
    >
      {words}
    </button>
  )
  if (searching.stopped)
    return (
      <span className="flex items-center gap-1 text-sm text-soft">
        {searching.answer ? 'Stopped: not everything was tried.' : 'Stopped before anything was found.'}
        {button('Search again', searching.again)}
      </span>
    )
  if (searching.share === 1) return null
  return (
    <span className="how-far flex items-center gap-1 text-sm">
      {searching.share > 0 && (
        <progress className="w-24 accent-gentian" aria-label="How much was tried" value={searching.share} />
      )}
      {button('Stop', searching.stop)}
    </span>
  )
}

/** When there is no opening: who or what is in the way, and what little change would help. */
const NoOpening = ({
  arranging,
  onHelp,
  onAsk,
}: {
  arranging: Arranging
  onHelp: (help: Help) => void
  onAsk: (() => void) | undefined
}) => {
  const { why, help, searching, names } = arranging
  const busy = searching.share < 1
  const [all, setAll] = useState(false)
  return (
    <div className="flex flex-col gap-1.5 text-sm">
      <p>
        <b>No time suits everybody.</b> {why ? whyWords(why, names) : ''}
      </p>
      <fieldset aria-label="What would help" className="flex flex-wrap items-center gap-1.5">
        <span className="text-soft">
          {help.length
            ? 'What would help:'
            : busy
              ? 'Trying what would help…'
              : 'No small change helps. Ask for more days, or take somebody out.'}
        </span>
        {(all ? help : help.slice(0, MOST_HELP)).map((each) => (
          <button
            key={JSON.stringify(each.changes)}
            type="button"
            onClick={() => onHelp(each)}
            className="rounded-full border border-gentian/60 px-2.5 py-0.5 text-left hover:bg-gentian/12"
          >
            {helpWords(each, names)}{' '}
            <b className="whitespace-nowrap">
              {each.openings} {each.openings === 1 ? 'time' : 'times'}
              {each.second === undefined ? '' : ` and ${each.second}`}
            </b>
          </button>
        ))}
        {!all && help.length > MOST_HELP && (
          <button
            type="button"
            className="min-h-7 rounded px-1 underline underline-offset-2 max-md:min-h-thumb"
            onClick={() => setAll(true)}
          >
            and {help.length - MOST_HELP} more
          </button>
        )}
        <HowFar searching={searching} />
      </fieldset>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <DayByDay arranging={arranging} />
        <Unknown arranging={arranging} onAsk={onAsk} />
      </div>
    </div>
  )
}

/** Why each day of the window without an opening has none, week by week. */
export const DayByDay = ({ arranging }: { arranging: Arranging }) => {
  const { days, names } = arranging
  if (days.length === 0) return null
  const weeks = [...new Set(days.map((each) => weekStart(each.day)))]
  return (
    <details className="text-[12.5px] open:w-full">
      <summary className="inline-block min-h-[25px] cursor-pointer rounded px-1 text-soft underline underline-offset-2 hover:text-ink">
        Why not on{' '}
        {days.length === 1
          ? 'the other day'
          : `${days.length} ${arranging.found.openings.length ? 'other days' : 'days'}`}
      </summary>
      <div className="flex max-h-40 flex-wrap gap-x-8 gap-y-2 overflow-y-auto py-1">
        {weeks.map((monday) => (
          <ul key={monday} aria-label={`Week of ${shortDay(monday)}`}>
            {days
              .filter((each) => weekStart(each.day) === monday)
              .map((each) => (
                <li key={each.day}>
                  <b>{shortDay(each.day)}</b> {whyWords(each, names)}
                </li>
              ))}
          </ul>
        ))}
      </div>
    </details>
  )
}

/** People whose time nobody can see, counted apart, with what to do about them. */
export const Unknown = ({ arranging, onAsk }: { arranging: Arranging; onAsk: (() => void) | undefined }) => {
  const { found, names } = arranging
  if (found.unknown.length === 0) return null
  return (
    <p className="flex flex-wrap items-center gap-2 text-[12.5px] text-soft">
      The time of {listed(found.unknown.map(names.person))} is unknown, and not counted as free.
      {onAsk && (
        <button
          type="button"
          className="min-h-[25px] rounded px-1 underline underline-offset-2"
          onClick={onAsk}
        >
          Ask them which times suit
        </button>
      )}
    </p>
  )
}

/** The openings as cards, a day each, best first; or what stands in the way and what would help. */
export const Cards = ({
  arranging,
  onTake,
  onHelp,
  onAsk,
}: {
  arranging: Arranging
  onTake: (opening: Opening) => void
  onHelp: (help: Help) => void
  onAsk: (() => void) | undefined
}) => {
  const { found, me, alone, settled, refused, searching } = arranging
  if (alone) return <p className="py-2 text-soft text-sm">The times that work will stand here, best first.</p>
  if (refused) return <p className="py-2 text-sm">{refused}</p>
  if (!settled || !searching.answer)
    return (
      <div className="flex items-center gap-3 py-2">
        {!searching.stopped && <p className="animate-pulse text-soft text-sm">Looking for times…</p>}
        {settled && <HowFar searching={searching} />}
      </div>
    )
  const days = openingsByDay(found.openings, me.zone, MOST_CARDS)
  if (days.length === 0)
    return (
      <div className="flex items-start gap-3">
        {arranging.brief.meeting && (
          <ul aria-label="Its time as it is">
            <PresentCard arranging={arranging} onTake={onTake} />
          </ul>
        )}
        <NoOpening arranging={arranging} onHelp={onHelp} onAsk={onAsk} />
      </div>
    )
  return (
    <>
      <ul
        aria-label="Times that work, best first"
        className="flex h-full items-stretch gap-1.5 overflow-x-auto"
      >
        <PresentCard arranging={arranging} onTake={onTake} />
        {days.map((day) => (
          <Card key={day.best.from} arranging={arranging} day={day} onTake={onTake} />
        ))}
      </ul>
      <HowFar searching={searching} />
    </>
  )
}
