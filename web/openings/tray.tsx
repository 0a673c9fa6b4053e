import type { Help, Opening } from '@marmot/core/openings'
import { clocksInWords, dayOf, shortDay, spanInWords, toWall, zoneTable } from '@marmot/core/time'
import { Check, ChevronDown, ChevronLeft, ChevronRight, ChevronUp, TriangleAlert } from 'lucide-react'
import { useState } from 'react'
import { Button } from '../ui/parts.tsx'
import { useBrief } from './brief.tsx'
import { Cards } from './cards.tsx'
import { ChangeInHand } from './change-in-hand.tsx'
import { LengthChip, RulesChip, WindowChip } from './chips.tsx'
import { HoldButton } from './hold-button.tsx'
import { NeedsChip } from './needs-chip.tsx'
import { PeopleChip } from './people-chip.tsx'
import { lackingIn } from './room-then.ts'
import { KeepTemplate, TemplateRow } from './templates.tsx'
import type { Arranging, Member } from './use-arranging.ts'
import type { HoldInHand } from './use-hold.ts'
import type { Jumps } from './use-jumps.ts'
import { blockerWords, listed } from './words.ts'

const MOST_PLACES = 6
const MOST_REASONS = 3

/** What is still missing before it can be sent; empty when nothing is. */
export const stillMissing = (arranging: Arranging, title: string): string[] => [
  ...(arranging.alone ? ['people'] : []),
  ...(arranging.chosen ? [] : ['a time']),
  ...(title.trim() ? [] : ['a title']),
]

const EveryZone = ({ arranging }: { arranging: Arranging }) => {
  const { chosen, zone, now, me, members } = arranging
  if (!chosen) return null
  const others = [
    ...new Set(
      members
        .filter((member) => member.person && member.time.zone !== me.zone)
        .map((member) => member.time.zone),
    ),
  ]
  return (
    <p className="min-w-0 leading-snug">
      <b>{spanInWords(chosen.start, chosen.end, zone, now)}</b>
      {others.map((name) => {
        const table = zoneTable(name)
        const day = dayOf(toWall(table, chosen.start))
        const site = members.find((member) => member.time.zone === name)?.siteName
        return (
          <span key={name} className="text-soft text-sm">
            {' · '}
            <span className="whitespace-nowrap">
              {site} {day === dayOf(toWall(zone, chosen.start)) ? '' : `${shortDay(day)} `}
              {clocksInWords(chosen.start, chosen.end, table)}
            </span>
          </span>
        )
      })}
    </p>
  )
}

/** Why the chosen time is no opening, by the rules of the brief too: the lanes show only what stands in them. */
const Standing = ({ arranging }: { arranging: Arranging }) => {
  const { judged, names, brief } = arranging
  if (!judged || judged.fits) return null
  const must = new Set(brief.people.filter((one) => one.required || one.group).map((one) => one.id))
  const who = judged.blockers.filter((one) => must.has(one.id) || one.kind === 'group')
  const reasons = [
    ...who.slice(0, MOST_REASONS).map((one) => blockerWords(one, names)),
    ...(who.length > MOST_REASONS ? [`${who.length - MOST_REASONS} more cannot come`] : []),
    ...(judged.places?.lacking ? ['the places cannot be had together'] : []),
  ]
  return (
    <p className="text-coral text-sm">
      ⚠ Not an opening: {reasons.length ? listed(reasons) : 'the rules of the brief leave it out'}.
    </p>
  )
}

/** The places that were matched with what is needed. */
const Matched = ({ arranging }: { arranging: Arranging }) => {
  const { chosenPlaces, judged, names } = arranging
  const lacking = judged?.places?.lacking ?? 0
  return (
    <p className="text-sm">
      {chosenPlaces.length > 0 && (
        <>
          <span className="text-soft">Matched:</span>{' '}
          {chosenPlaces.map((place, i) => (
            <span key={place.id}>
              {i > 0 && ', '}
              <b>{place.name}</b> {names.site(place.siteId)}
              {place.seats > 1 ? `, ${place.seats} seats` : ''}
            </span>
          ))}
        </>
      )}
      {lacking > 0 && (
        <span className="text-coral">
          {' '}
          ⚠ {lacking === 1 ? 'one place is missing' : `${lacking} places are missing`}
        </span>
      )}
    </p>
  )
}

/** One place is missing: somebody might make room in it. */
const AskForRoom = ({ arranging, onAsk }: { arranging: Arranging; onAsk: () => void }) => {
  const { brief } = useBrief()
  return (
    stillMissing(arranging, brief.title).length === 0 &&
    !brief.meeting &&
    lackingIn(arranging, brief) && (
      <button type="button" className="rounded px-1.5 text-sm underline underline-offset-2" onClick={onAsk}>
        See whether somebody can make room…
      </button>
    )
  )
}

const Places = ({
  arranging,
  onTogglePlace,
}: {
  arranging: Arranging
  onTogglePlace: (id: string) => void
}) => {
  const { brief } = useBrief()
  const { chosen } = arranging
  const [all, setAll] = useState(false)
  if (!chosen) return null
  if (brief.needs.length > 0) return <Matched arranging={arranging} />
  const free = arranging.roomsAt(chosen)
  const lost = arranging.placeReasons.filter((reason) => !reason.free)
  const offered = free
    .filter((place) => all || brief.places.includes(place.id))
    .concat(all ? [] : free.filter((place) => !brief.places.includes(place.id)).slice(0, MOST_PLACES))
  const rest = free.length - offered.length
  return (
    <fieldset aria-label="Places free then" className="flex flex-wrap items-center gap-1.5 text-sm">
      <span className="text-soft">{free.length ? 'Free then:' : 'No room that seats you is free then.'}</span>
      {lost.map(({ place }) => (
        <button
          key={place.id}
          type="button"
          onClick={() => onTogglePlace(place.id)}
          className="flex items-center gap-1 rounded-full border border-coral px-2.5 py-0.5 font-semibold text-coral"
        >
          <TriangleAlert size={13} aria-hidden /> {place.name} is not free then: let it go
        </button>
      ))}
      {offered.map((place) => {
        const on = brief.places.includes(place.id)
        const elsewhere =
          place.siteId === arranging.me.siteId
            ? ''
            : `, ${place.resource.zone.split('/').pop()?.replace(/_/g, ' ')}`
        return (
          <button
            key={place.id}
            type="button"
            aria-pressed={on}
            onClick={() => onTogglePlace(place.id)}
            className={`flex items-center gap-1 rounded-full border px-2.5 py-0.5 ${on ? 'border-gentian bg-gentian/12 font-semibold' : 'border-soft/50 hover:bg-shade'}`}
          >
            {on && <Check size={13} aria-hidden />}
            {place.name}{' '}
            <span className={on ? '' : 'text-soft'}>
              {place.seats} seats{elsewhere}
            </span>
          </button>
        )
      })}
      {rest > 0 && (
        <button
          type="button"
          className="rounded px-1.5 underline underline-offset-2"
          onClick={() => setAll(true)}
        >
          and {rest} more
        </button>
      )}
    </fieldset>
  )
}

/** What is left to arrange of a meeting that was split in two. */
const SecondMeeting = ({ arranging }: { arranging: Arranging }) => {
  const { later, setLater, change } = useBrief()
  if (!later) return null
  const others = later.people.filter((one) => one.id !== arranging.me.id).length
  return (
    <p className="flex flex-wrap items-center gap-2 text-sm">
      <span>
        Still to arrange: <b>{later.title || 'the second meeting'}</b>, with the other{' '}
        {others === 1 ? 'one' : others}.
      </span>
      <button
        type="button"
        className="min-h-[25px] rounded px-1 underline underline-offset-2"
        onClick={() => {
          change(later)
          setLater(null)
        }}
      >
        Take it up
      </button>
      <button
        type="button"
        className="min-h-[25px] rounded px-1 text-soft underline underline-offset-2"
        onClick={() => setLater(null)}
      >
        Let it go
      </button>
    </p>
  )
}

/** The brief in hand along the bottom: what it needs, what is chosen, what is missing; from here one sends. */
export const Tray = ({
  arranging,
  members,
  said,
  onTake,
  onTogglePlace,
  onSend,
  onAsk,
  onRepeat,
  onCompare,
  onJump,
  jumps,
  onJumps,
  onHelp,
  hold,
}: {
  arranging: Arranging
  members: readonly Member[]
  said: string
  onTake: (opening: Opening) => void
  onTogglePlace: (id: string) => void
  onSend: () => void
  /** Asks which times suit; left out where there is one time alone to be had. */
  onAsk: (() => void) | undefined
  onRepeat: () => void
  onCompare: () => void
  onJump: (way: 1 | -1, by?: 'opening' | 'day') => void
  jumps: Jumps
  onJumps: (jumps: Jumps) => void
  onHelp: (help: Help) => void
  hold: HoldInHand
}) => {
  const { brief, change, clear, untouched } = useBrief()
  const [open, setOpen] = useState(() => window.innerWidth >= 720)
  const missing = stillMissing(arranging, brief.title)
  const invited = members.length - 1
  return (
    <section
      aria-label="The brief in hand"
      className="z-10 shrink-0 border-line border-t bg-paper px-4 pt-2 pb-2 max-md:max-h-[62dvh] max-md:overflow-y-auto max-md:rounded-t-xl max-md:px-3"
    >
      {brief.meeting && <ChangeInHand meeting={brief.meeting} />}
      <div className="flex flex-wrap items-center gap-2">
        <input
          aria-label="Title"
          placeholder="What is it about?"
          value={brief.title}
          maxLength={200}
          onChange={(event) => change({ title: event.target.value })}
          className="min-w-40 max-w-sm flex-1 rounded-md border border-soft/40 bg-transparent px-2 py-0.5 font-semibold text-[17px]"
        />
        <LengthChip />
        <span className={open ? '' : 'max-md:hidden'}>
          <PeopleChip arranging={arranging} />
        </span>
        <span className={open ? '' : 'max-md:hidden'}>
          <WindowChip today={arranging.today} />
        </span>
        <span className={open ? '' : 'max-md:hidden'}>
          <RulesChip />
        </span>
        <span className={open ? '' : 'max-md:hidden'}>
          <NeedsChip arranging={arranging} />
        </span>
        {arranging.chosen && (
          <div className="min-w-0 flex-1 basis-[560px] max-md:basis-full">
            <EveryZone arranging={arranging} />
          </div>
        )}
        <span className="ml-auto flex flex-wrap items-center justify-end gap-2 *:whitespace-nowrap max-md:w-full">
          {missing.length > 0 && (
            <span className="whitespace-nowrap text-sm text-soft">Still missing: {missing.join(', ')}</span>
          )}
          {onAsk && (
            <Button onClick={onAsk} title="Ask several people which times suit (a)">
              Ask them…
            </Button>
          )}
          {!arranging.alone && !brief.meeting && (
            <Button onClick={onRepeat} title="Make it a series (r)">
              Series…
            </Button>
          )}
          {!brief.meeting && <HoldButton arranging={arranging} hold={hold} />}
          <Button tone="primary" disabled={missing.length > 0} onClick={onSend} className="px-4 py-1.5">
            {brief.meeting
              ? 'Look over the change…'
              : invited > 0
                ? `Send ${invited} ${invited === 1 ? 'invitation' : 'invitations'}…`
                : 'Send…'}
          </Button>
          <button
            type="button"
            className="rounded p-1 md:hidden"
            aria-expanded={open}
            aria-label="The whole brief"
            onClick={() => setOpen(!open)}
          >
            {open ? <ChevronDown size={18} aria-hidden /> : <ChevronUp size={18} aria-hidden />}
          </button>
        </span>
      </div>
      <div>
        <div className="flex flex-col gap-1.5 py-1.5">
          <Standing arranging={arranging} />
          <div className={open ? 'contents' : 'max-md:hidden'}>
            <div className="flex flex-wrap items-center gap-1.5">
              <Places arranging={arranging} onTogglePlace={onTogglePlace} />
              <AskForRoom arranging={arranging} onAsk={onSend} />
            </div>
          </div>
        </div>
        <div className="flex min-h-[70px] items-stretch gap-2">
          {!arranging.alone && arranging.found.openings.length > 0 && (
            <div className="flex flex-col justify-center gap-1 max-md:hidden">
              <button
                type="button"
                className="rounded border border-soft/40 p-1 hover:bg-shade"
                aria-label="Next opening (n)"
                title="Next opening (n)"
                onClick={() => onJump(1)}
              >
                <ChevronRight size={16} aria-hidden />
              </button>
              <button
                type="button"
                className="rounded border border-soft/40 p-1 hover:bg-shade"
                aria-label="Previous opening (p)"
                title="Previous opening (p)"
                onClick={() => onJump(-1)}
              >
                <ChevronLeft size={16} aria-hidden />
              </button>
            </div>
          )}
          <div className="min-w-0 flex-1">
            <Cards arranging={arranging} onTake={onTake} onHelp={onHelp} onAsk={onAsk} />
            <SecondMeeting arranging={arranging} />
            {untouched && <TemplateRow today={arranging.today} />}
          </div>
        </div>
        <div
          className={`flex flex-wrap items-center gap-x-4 text-[12.5px] text-soft ${open ? '' : 'max-md:hidden'}`}
        >
          {!arranging.alone && arranging.found.openings.length > 0 && (
            <>
              <button
                type="button"
                className="min-h-[25px] rounded px-1 text-ink underline underline-offset-2"
                title="Compare times side by side (c)"
                onClick={onCompare}
              >
                Compare them side by side
              </button>
              <span className="max-md:hidden">n and p jump between openings, d and b between days;</span>
              <span className="flex gap-2 md:hidden">
                <Button onClick={() => onJump(-1)}>
                  <ChevronLeft size={16} aria-hidden /> earlier opening
                </Button>
                <Button onClick={() => onJump(1)}>
                  later opening <ChevronRight size={16} aria-hidden />
                </Button>
              </span>
              <label className="flex min-h-[25px] items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={jumps.optional}
                  onChange={(event) => onJumps({ ...jumps, optional: event.target.checked })}
                />
                only where the optional are free too
              </label>
              <label className="flex min-h-[25px] items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={jumps.places}
                  onChange={(event) => onJumps({ ...jumps, places: event.target.checked })}
                />
                only where the places can be had
              </label>
            </>
          )}
          {!untouched && !brief.meeting && (
            <span className="ml-auto flex items-center gap-3">
              {!arranging.alone && <KeepTemplate />}
              <button
                type="button"
                className="min-h-[25px] rounded px-1 underline underline-offset-2 hover:text-ink"
                onClick={clear}
              >
                Start over
              </button>
            </span>
          )}
        </div>
        {said && <p className="text-sm">{said}</p>}
      </div>
    </section>
  )
}
