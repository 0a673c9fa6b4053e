import type { Contact } from '@marmot/contract/people'
import type { Resource } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import {
  areUnitsOfOne,
  type Counted,
  countUnits,
  isCounted,
  isFree,
  placesThatFit,
  rulesInWords,
} from '@marmot/core/reservations'
import { minutesBetween, wallFromText, zoneTable } from '@marmot/core/time'
import { TriangleAlert, Users, X } from 'lucide-react'
import { type ReactNode, Suspense, useState } from 'react'
import { useNavigate } from 'react-router'
import { useCategories } from '../entries/entries.ts'
import { RepeatField } from '../entries/repeat-field.tsx'
import { ZoneField } from '../entries/zone-field.tsx'
import { useBrief } from '../openings/brief.tsx'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import { useSharing } from '../sharing/sharing.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, Choice, Field, Loading, Trouble } from '../ui/parts.tsx'
import { DatesList } from './dates-list.tsx'
import { type InHand, type Reserved, useReserving } from './use-reserving.ts'
import { WhenFields } from './when-fields.tsx'

const NoteField = part(() => import('../entries/note-field.tsx').then((m) => m.NoteField))

const MOST_OFFERED = 4

/** The places in hand, and of counted things all units, since more of them may be wanted. */
const withUnits = (mine: readonly PlaceLane[], places: readonly PlaceLane[]): PlaceLane[] =>
  places.filter((place) =>
    mine.some(
      (one) =>
        one.id === place.id ||
        (place.kind === 'equipment' &&
          one.kind === 'equipment' &&
          one.siteId === place.siteId &&
          areUnitsOfOne(one, place)),
    ),
  )

const OnePlace = ({
  place,
  span,
  people,
  onOut,
}: {
  place: PlaceLane
  span: Span
  /** How many will be there, where it was said. */
  people: number | null
  onOut: () => void
}) => (
  <li className="flex items-center gap-2 rounded-md bg-shade px-2.5 py-1">
    <span className="flex-1">
      <b className="font-semibold">{place.name}</b>{' '}
      <span className="text-soft text-sm">
        {place.seats > 1 ? `${place.seats} seats, ` : ''}
        {place.resource.site}
      </span>
      {!isFree(place, span) && <NotFree>not free then</NotFree>}
      {people !== null && place.seats > 0 && people > place.seats && (
        <NotFree>
          too small: {place.seats === 1 ? '1 seat' : `${place.seats} seats`} for {people}
        </NotFree>
      )}
    </span>
    <button
      type="button"
      aria-label={`Without ${place.name}`}
      className="grid size-7 place-items-center rounded hover:bg-paper max-md:size-thumb"
      onClick={onOut}
    >
      <X size={15} aria-hidden />
    </button>
  </li>
)

const NotFree = ({ children }: { children: ReactNode }) => (
  <span className="block text-coral text-sm">
    <TriangleAlert size={13} className="mr-1 mb-0.5 inline" aria-hidden />
    {children}
  </span>
)

/** How many of counted things: those that are free are taken first. */
const Units = ({
  counted: { name, units },
  span,
  taken,
  onTaken,
}: {
  counted: Counted<PlaceLane>
  span: Span
  taken: readonly string[]
  onTaken: (ids: readonly string[]) => void
}) => {
  const mine = units.filter((unit) => taken.includes(unit.id))
  const free = units.filter((unit) => isFree(unit, span))
  const [typed, setTyped] = useState<number | null>(null)
  const count = (many: number) => {
    setTyped(many)
    const order = [...mine, ...free, ...units].map((unit) => unit.id)
    onTaken([...new Set(order)].slice(0, Math.max(0, Math.min(units.length, many))))
  }
  return (
    <li className="flex items-center gap-2 rounded-md bg-shade px-2.5 py-1">
      <label className="flex flex-1 items-center gap-2">
        <input
          type="number"
          min={0}
          max={units.length}
          value={mine.length}
          onChange={(event) => count(Math.trunc(Number(event.target.value)) || 0)}
          className="w-14 rounded border border-soft/50 bg-paper px-1.5 py-0.5"
        />
        <span>
          <b className="font-semibold">{name}</b>{' '}
          <span className="text-soft text-sm">
            {free.length} of {units.length} free then
          </span>
          {mine.some((unit) => !free.includes(unit)) && <NotFree>not that many are free</NotFree>}
          {typed !== null && typed > units.length && (
            <NotFree>
              there {units.length === 1 ? 'is' : 'are'} only {units.length}
            </NotFree>
          )}
          {typed !== null && typed < 0 && <NotFree>fewer than none cannot be had</NotFree>}
        </span>
      </label>
    </li>
  )
}

/** The places in hand, each with how it stands then; and others that are free then, to be taken as well. */
const Which = ({
  reserved,
  people,
  onReserved,
  places,
}: {
  reserved: Reserved
  people: number | null
  onReserved: (reserved: Reserved) => void
  places: readonly PlaceLane[]
}) => {
  const { span, placeIds } = reserved
  const [text, setText] = useState('')
  const mine = placeIds.flatMap((id) => places.find((place) => place.id === id) ?? [])
  const put = (ids: readonly string[]) => onReserved({ span, placeIds: ids })
  const wanted = text.trim().toLowerCase()
  const others = placesThatFit(
    places.filter((place) => !placeIds.includes(place.id) && place.name.toLowerCase().includes(wanted)),
    span,
    () => 0,
    mine[0]?.siteId ?? '',
  )
  return (
    <fieldset className="flex flex-col gap-1.5">
      <legend className="mb-0.5 text-soft text-sm">Places and equipment</legend>
      <ul className="flex flex-col gap-1">
        {countUnits(mine.length ? withUnits(mine, places) : mine).map((one) =>
          isCounted(one) ? (
            <Units
              key={one.key}
              counted={one}
              span={span}
              taken={placeIds}
              onTaken={(ids) =>
                put([...placeIds.filter((id) => !one.units.some((unit) => unit.id === id)), ...ids])
              }
            />
          ) : (
            <OnePlace
              key={one.id}
              place={one}
              span={span}
              people={people}
              onOut={() => put(placeIds.filter((id) => id !== one.id))}
            />
          ),
        )}
      </ul>
      <input
        type="search"
        aria-label="Add a place or a piece of equipment"
        placeholder={mine.length ? 'Add another: Col, drone' : 'Which: Serac, drone'}
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="w-full rounded-md border border-soft/50 bg-paper px-2.5 py-1"
      />
      {wanted !== '' && (
        <div className="flex flex-wrap gap-1.5">
          {others.slice(0, MOST_OFFERED).map((place) => (
            <Button
              key={place.id}
              onClick={() => {
                put([...placeIds, place.id])
                setText('')
              }}
            >
              {places.find((one) => one.id === place.id)?.name}
            </Button>
          ))}
          {others.length === 0 && (
            <span className="text-soft text-sm">Nothing of that name is free then.</span>
          )}
        </div>
      )}
    </fieldset>
  )
}

const CONTACT = [
  { name: 'name', label: 'Name', most: 200 },
  { name: 'telephone', label: 'Telephone', most: 60 },
  { name: 'address', label: 'Mail address', most: 200 },
] as const

const ContactFields = ({ contact, onChange }: { contact: Contact; onChange: (contact: Contact) => void }) => (
  <fieldset className="grid grid-cols-2 gap-2">
    <legend className="mb-0.5 text-soft text-sm">Whom to ask about it</legend>
    {CONTACT.map(({ name, label, most }) => (
      <input
        key={name}
        aria-label={`Contact: ${label.toLowerCase()}`}
        placeholder={label}
        value={contact[name]}
        maxLength={most}
        onChange={(event) => onChange({ ...contact, [name]: event.target.value })}
        className="rounded-md border border-soft/50 bg-paper px-2.5 py-1 last:col-span-2"
      />
    ))}
  </fieldset>
)

/** What is rarely said: folded away until it is wanted. */
const More = ({ hand }: { hand: InHand }) => {
  const { person } = useMe()
  const { words, say, contact } = hand
  const categories = useCategories().data?.categories ?? []
  const sharing = useSharing()
  const others = (sharing.data?.toMe ?? []).filter((one) => one.does === 'stand-in')
  return (
    <>
      {others.length > 0 && (
        <Field label="For whom">
          {(props) => (
            <select {...props} value={words.of} onChange={(event) => say({ of: event.target.value })}>
              <option value="">Me, {person.name}</option>
              {others.map((one) => (
                <option key={one.ownerId} value={one.ownerId}>
                  {one.owner}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      <div className="grid grid-cols-2 gap-2">
        <Field label="Purpose">
          {(props) => (
            <input
              {...props}
              value={words.purpose}
              maxLength={200}
              onChange={(event) => say({ purpose: event.target.value })}
            />
          )}
        </Field>
        <Field label="How many will be there">
          {(props) => (
            <input
              {...props}
              type="number"
              min={1}
              max={10_000}
              value={words.headCount ?? ''}
              onChange={(event) =>
                say({
                  headCount: event.target.value
                    ? Math.max(1, Math.min(10_000, Number(event.target.value)))
                    : null,
                })
              }
            />
          )}
        </Field>
      </div>
      <Field label="Category">
        {(props) => (
          <select
            {...props}
            value={words.categoryId ?? ''}
            onChange={(event) => say({ categoryId: event.target.value || null })}
          >
            <option value="">None</option>
            {categories.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        )}
      </Field>
      {contact && <ContactFields contact={contact} onChange={hand.setContact} />}
      <Suspense fallback={<Loading what="the description" />}>
        <NoteField
          value={words.note}
          locked={false}
          pictures={hand.pictures}
          onChange={(note) => say({ note })}
        />
      </Suspense>
      <ZoneField
        label="Zone"
        value={hand.typedTime.zone}
        onChange={(zone) => hand.typedTime.type({}, { zone })}
      />
      <div>
        <Choice checked={words.takesTime} onChoose={(takesTime) => say({ takesTime })}>
          It takes my time: I count as busy then
        </Choice>
        <Choice checked={words.private} onChoose={(isPrivate) => say({ private: isPrivate })}>
          Private: others see only that it is taken
        </Choice>
      </div>
    </>
  )
}

/** By which rules a place is reserved, in words, where one reserves it. */
const Rules = ({ resource, named }: { resource: Resource; named: boolean }) => {
  const rules = rulesInWords(resource.rules)
  if (rules.length === 0) return null
  return (
    <p className="-mt-1.5 text-soft text-sm">
      {named && <b className="font-semibold">{resource.name}: </b>}
      {rules.join(' ')}
      {resource.rules.asksApproval && resource.steward && ` ${resource.steward} decides.`}
    </p>
  )
}

/** Makes a reservation: its time, its places, how it repeats; what is in the way before it is taken; and all of it in words. */
export const ReserveSheet = ({
  reserved,
  onReserved,
  places,
  about,
  onClose,
}: {
  reserved: Reserved
  onReserved: (reserved: Reserved) => void
  /** Every place, with what is reserved of it around that time. */
  places: readonly PlaceLane[]
  /** What there is to know of the place that one came by. */
  about?: ReactNode
  onClose: () => void
}) => {
  const { zone: home } = useMe()
  const navigate = useNavigate()
  const { change } = useBrief()
  const [more, setMore] = useState(false)
  const nameOf = (id: string) => places.find((place) => place.id === id)?.name ?? 'a place'
  const hand = useReserving({ reserved, onReserved, nameOf, onDone: onClose })
  const { words, say, clashing, trouble } = hand
  const table = zoneTable(hand.typedTime.zone)
  const mine = places.filter((place) => reserved.placeIds.includes(place.id))
  const deciding = mine.filter(({ resource }) => resource.rules.asksApproval && !resource.looksAfter)
  const asks = deciding.length > 0
  const invite = () => {
    change({
      title: words.title,
      start: reserved.span.start,
      minutes: minutesBetween(reserved.span.start, reserved.span.end),
      places: [...reserved.placeIds],
    })
    navigate('/arrange')
  }
  return (
    <Beside
      title={hand.places ? `Reserve ${hand.places}` : 'Reserve'}
      onClose={onClose}
      foot={
        <form
          className="flex flex-col gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            if (hand.ready) hand.take()
            else document.querySelector('[data-clashes]')?.scrollIntoView({ block: 'start' })
          }}
        >
          {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
          <Button
            type="submit"
            tone="primary"
            className="w-full"
            disabled={!hand.ready && clashing.length === 0}
          >
            {hand.busy
              ? 'Taking…'
              : !hand.places
                ? 'Choose a place'
                : clashing.length > 0
                  ? hand.repetition
                    ? `See ${clashing.length === 1 ? 'the date that clashes' : `the ${clashing.length} dates that clash`}`
                    : 'See what is in the way'
                  : `${asks ? 'Ask for' : 'Take'} ${hand.places}, ${hand.when.replace(/, in \d+ days?$|, (today|tomorrow)$/, '')}${hand.many}`}
          </Button>
        </form>
      }
    >
      <div className="flex flex-col gap-3">
        {about}
        <WhenFields when={hand.typedTime} />
        <Which reserved={reserved} people={words.headCount} onReserved={onReserved} places={places} />
        {mine.map(({ resource }) => (
          <Rules key={resource.id} resource={resource} named={mine.length > 1} />
        ))}
        {!hand.repetition && <DatesList hand={hand} nameOf={nameOf} zone={home} onAsked={onClose} />}
        <Field label="What for">
          {(props) => (
            <input
              {...props}
              data-first
              value={words.title}
              maxLength={200}
              placeholder={hand.places}
              onChange={(event) => say({ title: event.target.value })}
            />
          )}
        </Field>
        <RepeatField
          starts={wallFromText(hand.typedTime.starts) ?? 0}
          table={table}
          value={hand.repetition}
          locked={false}
          onChange={hand.setRepetition}
        />
        {hand.repetition && <DatesList hand={hand} nameOf={nameOf} zone={home} onAsked={onClose} />}
        {asks && (
          <Field label={`What for, for ${deciding[0]?.resource.steward ?? 'whoever'}, who decides`}>
            {(props) => (
              <input
                {...props}
                value={words.purpose}
                maxLength={200}
                onChange={(event) => say({ purpose: event.target.value })}
              />
            )}
          </Field>
        )}
        {more ? (
          <More hand={hand} />
        ) : (
          <button
            type="button"
            className="self-start underline underline-offset-2"
            onClick={() => setMore(true)}
          >
            More: purpose, how many, contact, description
          </button>
        )}
        <Button className="self-start" onClick={invite}>
          <Users size={15} aria-hidden /> Invite people to it
        </Button>
      </div>
    </Beside>
  )
}
