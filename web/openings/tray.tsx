import type { Help, Opening } from '@marmot/core/openings'
import { clocksThere, shortTime, spanInWords, zoneTable } from '@marmot/core/time'
import { Check, ChevronDown, ChevronLeft, ChevronRight, ChevronUp, TriangleAlert } from 'lucide-react'
import { useState } from 'react'
import { asFoot } from '../ui/foot.ts'
import { Button } from '../ui/parts.tsx'
import { Popping } from '../ui/popping.tsx'
import { ForecastAge } from '../weather/weather-line.tsx'
import { AboutChip } from './about-chip.tsx'
import { useBrief } from './brief.tsx'
import { Cards } from './cards.tsx'
import { ChangeInHand } from './change-in-hand.tsx'
import { LengthChip, RulesChip, WindowChip } from './chips.tsx'
import { NeedsChip } from './needs-chip.tsx'
import { PeopleChip } from './people-chip.tsx'
import { lackingIn, siteBySite } from './room-then.ts'
import { TemplateRow } from './templates.tsx'
import { More, type MoreActions } from './tray-more.tsx'
import { TypedTime } from './typed-time.tsx'
import type { Arranging, Member } from './use-arranging.ts'
import { blockerWords, listed } from './words.ts'

const MOST_PLACES = 3
const MOST_REASONS = 3

/** What is still missing before it can be sent; empty when nothing is. */
export const stillMissing = (arranging: Arranging, title: string): string[] => [
  ...(arranging.alone ? ['people'] : []),
  ...(arranging.chosen ? [] : ['a time']),
  ...(title.trim() ? [] : ['a title']),
]

/** The chosen time in a sentence, which opens to be typed, and everybody's clock then. */
const EveryZone = ({ arranging }: { arranging: Arranging }) => {
  const { chosen, zone, now, me, members } = arranging
  if (!chosen) return <TypedTime arranging={arranging}>Type a time, or press the hours above</TypedTime>
  const others = [
    ...new Set(
      members
        .filter((member) => member.person && member.time.zone !== me.zone)
        .map((member) => member.time.zone),
    ),
  ]
  return (
    <p className="min-w-0 truncate leading-snug @max-4xl:whitespace-normal max-md:whitespace-normal">
      <TypedTime arranging={arranging}>
        <b>{spanInWords(chosen.start, chosen.end, zone, now)}</b>
      </TypedTime>
      {others.map((name) => {
        const site = members.find((member) => member.time.zone === name)?.siteName
        return (
          <span key={name} className="text-soft text-sm">
            {' · '}
            <span className="whitespace-nowrap">
              {site} {clocksThere(chosen.start, chosen.end, zoneTable(name), zone)}
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
      ⚠ Does not work: {reasons.length ? listed(reasons) : 'what you asked for leaves it out'}.
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
          <span className="text-soft">Fits best:</span>{' '}
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

/** A place that is free then: pressed, it is taken along, or left. */
const PlaceChip = ({
  place,
  arranging,
  onToggle,
}: {
  place: ReturnType<Arranging['roomsAt']>[number]
  arranging: Arranging
  onToggle: (id: string) => void
}) => {
  const on = arranging.brief.places.includes(place.id)
  const elsewhere =
    place.siteId === arranging.me.siteId
      ? ''
      : `, ${place.resource.zone.split('/').pop()?.replace(/_/g, ' ')}`
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => onToggle(place.id)}
      className={`flex min-h-[25px] items-center gap-1 rounded-full border px-2.5 max-md:min-h-thumb ${on ? 'border-gentian bg-gentian/12 font-semibold' : 'border-soft/50 hover:bg-shade'}`}
    >
      {on && <Check size={13} aria-hidden />}
      {place.name}{' '}
      <span className={on ? '' : 'text-soft'}>
        {place.seats} seats{elsewhere}
      </span>
    </button>
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
  if (!chosen) return null
  if (brief.needs.length > 0) return <Matched arranging={arranging} />
  const free = arranging.roomsAt(chosen)
  const lost = arranging.placeReasons.filter((reason) => !reason.free)
  const taken = free.filter((place) => brief.places.includes(place.id))
  const others = siteBySite(
    free.filter((place) => !brief.places.includes(place.id)),
    arranging.chosenPlaces,
  )
  const offered = [...taken, ...others.slice(0, Math.max(0, MOST_PLACES - taken.length))]
  const rest = free.filter((place) => !offered.includes(place))
  const chip = (place: (typeof free)[number]) => (
    <PlaceChip key={place.id} place={place} arranging={arranging} onToggle={onTogglePlace} />
  )
  return (
    <fieldset
      aria-label="Places free then"
      className="flex items-center gap-1.5 whitespace-nowrap text-sm max-md:flex-wrap"
    >
      <span className="text-soft">{free.length ? 'Free then:' : 'No room that seats you is free then.'}</span>
      {lost.map(({ place }) => (
        <button
          key={place.id}
          type="button"
          onClick={() => onTogglePlace(place.id)}
          className="flex items-center gap-1 rounded-full border border-coral px-2.5 py-0.5 font-semibold text-coral"
        >
          <TriangleAlert size={13} aria-hidden /> {place.name} is not free then: without it
        </button>
      ))}
      {offered.map(chip)}
      {rest.length > 0 && (
        <Popping
          label="More places free then"
          align="end"
          className="flex w-[420px] flex-wrap gap-1.5 p-3 text-sm"
          trigger={
            <button type="button" className="min-h-[25px] rounded px-1.5 underline underline-offset-2">
              and {rest.length} more
            </button>
          }
        >
          {rest.map(chip)}
        </Popping>
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
        Forget it
      </button>
    </p>
  )
}

/** Going from one time that works to the next. */
const Jumping = ({ onJump }: { onJump: MoreActions['onJump'] }) => (
  <div className="flex flex-col justify-center gap-1 max-md:hidden">
    <button
      type="button"
      className="rounded border border-soft/50 p-1.5 hover:bg-shade"
      aria-label="Next time that works (n)"
      title="Next time that works (n)"
      onClick={() => onJump(1)}
    >
      <ChevronRight size={16} aria-hidden />
    </button>
    <button
      type="button"
      className="rounded border border-soft/50 p-1.5 hover:bg-shade"
      aria-label="Previous time that works (p)"
      title="Previous time that works (p)"
      onClick={() => onJump(-1)}
    >
      <ChevronLeft size={16} aria-hidden />
    </button>
  </div>
)

/** What one presses at the end. */
const Send = ({
  arranging,
  invited,
  onSend,
}: {
  arranging: Arranging
  invited: number
  onSend: () => void
}) => {
  const { brief } = useBrief()
  const missing = stillMissing(arranging, brief.title)
  return (
    <Button
      tone="primary"
      disabled={missing.length > 0}
      onClick={onSend}
      className="whitespace-nowrap px-4 max-md:min-h-thumb"
    >
      {brief.meeting
        ? 'Look over the change…'
        : invited > 0
          ? `Send ${invited} ${invited === 1 ? 'invitation' : 'invitations'}…`
          : 'Send…'}
    </Button>
  )
}

/** On a phone, folded: what it is and when, and the next step. */
const Folded = ({ arranging, onUnfold }: { arranging: Arranging; onUnfold: () => void }) => {
  const { brief } = useBrief()
  const { chosen, zone, members } = arranging
  const others = members.length - 1
  return (
    <button
      type="button"
      aria-expanded={false}
      onClick={onUnfold}
      className="flex min-h-thumb min-w-0 flex-1 items-center gap-2 text-left"
    >
      <ChevronUp size={18} aria-hidden className="shrink-0" />
      <span className="min-w-0 leading-tight">
        <b className="block truncate">{brief.title || 'This meeting'}</b>
        <span className="block truncate text-soft text-sm">
          {chosen ? shortTime(chosen.start, zone) : 'no time yet'}, {others}{' '}
          {others === 1 ? 'other' : 'others'}
        </span>
      </span>
    </button>
  )
}

/** The meeting in hand along the bottom: what it is, when and where, and the times that work; from here one sends. */
export const Tray = ({
  arranging,
  members,
  said,
  onTake,
  onTogglePlace,
  onSend,
  onHelp,
  onWindow,
  ...more
}: {
  arranging: Arranging
  members: readonly Member[]
  said: string
  onTake: (opening: Opening) => void
  onTogglePlace: (id: string) => void
  onSend: () => void
  onHelp: (help: Help) => void
  /** Other days were asked for. */
  onWindow: (fromDay: number, toDay: number) => void
} & MoreActions) => {
  const { brief, change, untouched } = useBrief()
  const [open, setOpen] = useState(() => window.innerWidth >= 720)
  const invited = members.length - 1
  const missing = stillMissing(arranging, brief.title)
  const found = !arranging.alone && arranging.found.openings.length > 0
  const unfolded = open ? '' : 'max-md:hidden'
  return (
    <section
      ref={asFoot}
      aria-label="This meeting"
      className="@container z-10 flex shrink-0 flex-col gap-1 border-line border-t bg-paper px-3.5 py-2 max-md:max-h-[70dvh] max-md:overflow-y-auto max-md:rounded-t-xl"
    >
      {brief.meeting && <ChangeInHand meeting={brief.meeting} />}
      {!open && (
        <div className="flex items-center gap-2 md:hidden">
          <Folded arranging={arranging} onUnfold={() => setOpen(true)} />
          <Send arranging={arranging} invited={invited} onSend={onSend} />
        </div>
      )}
      <div className={`flex items-center gap-1.5 @max-4xl:flex-wrap max-md:flex-wrap ${unfolded}`}>
        <input
          aria-label="Title"
          placeholder="Title"
          value={brief.title}
          maxLength={200}
          onChange={(event) => change({ title: event.target.value })}
          className="min-w-52 max-w-sm flex-[2_0_208px] rounded-md border border-soft/50 bg-transparent px-2 py-0.5 font-semibold text-[17px] max-md:min-h-thumb"
        />
        <button
          type="button"
          className="grid size-thumb place-items-center md:hidden"
          aria-expanded
          aria-label="Fold it away"
          onClick={() => setOpen(false)}
        >
          <ChevronDown size={18} aria-hidden />
        </button>
        <AboutChip members={members} />
        <LengthChip />
        <PeopleChip arranging={arranging} />
        <WindowChip today={arranging.today} onWindow={onWindow} />
        <RulesChip />
        <NeedsChip arranging={arranging} />
        <More arranging={arranging} {...more} />
        <span className="ml-auto flex shrink-0 items-center justify-end gap-2 max-md:w-full">
          <Send arranging={arranging} invited={invited} onSend={onSend} />
        </span>
      </div>
      <div
        className={`flex min-h-7 items-center justify-between gap-x-4 @max-4xl:flex-wrap max-md:flex-wrap max-md:justify-start ${unfolded}`}
      >
        <EveryZone arranging={arranging} />
        {brief.outdoors && <ForecastAge siteId={brief.outdoors.siteId} />}
        {missing.length > 0 && (
          <span className="mr-auto whitespace-nowrap text-sm text-soft">
            Still missing: {listed(missing)}
          </span>
        )}
        <span className="flex shrink-0 items-center gap-2">
          <Places arranging={arranging} onTogglePlace={onTogglePlace} />
          <AskForRoom arranging={arranging} onAsk={onSend} />
        </span>
      </div>
      <div className={`empty:hidden ${unfolded}`}>
        <Standing arranging={arranging} />
        {said && <p className="text-sm">{said}</p>}
        <SecondMeeting arranging={arranging} />
      </div>
      <div className={`flex min-h-[84px] items-stretch gap-2 ${unfolded}`}>
        {found && <Jumping onJump={more.onJump} />}
        <div className="min-w-0 flex-1">
          <Cards arranging={arranging} onTake={onTake} onHelp={onHelp} onAsk={more.onAsk} />
          {untouched && <TemplateRow today={arranging.today} />}
        </div>
      </div>
    </section>
  )
}
