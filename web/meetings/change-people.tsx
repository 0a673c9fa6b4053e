import type { Telling } from '@marmot/contract/meetings'
import type { During } from '@marmot/core/availability'
import { clocksThere, zoneTable } from '@marmot/core/time'
import { X } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { useMe } from '../platform/session.tsx'
import { Standing, useStanding } from './standing.tsx'
import type { ChangeInHand } from './use-change.ts'
import { inScope, type Member, membersOf, withMore, without } from './wanted.ts'

const STANDS: Record<string, string> = {
  accepted: 'their yes stands',
  tentative: 'their perhaps stands',
  declined: 'their no stands',
  'needs-action': 'has not answered',
}

/** What somebody gets of the change, in words; `answer` is what they said before. */
const getsWords = ({ gets, asksAgain }: Telling, answer: string | undefined): string => {
  switch (gets) {
    case 'invitation':
      return 'is invited'
    case 'cancellation':
      return 'is told not to come'
    case 'nothing':
      return 'is not written to: nothing changes'
    default:
      return asksAgain
        ? 'is told, and asked again'
        : `is told${answer && STANDS[answer] ? `; ${STANDS[answer]}` : ''}`
  }
}

/** When it is for somebody, and when it was, where that is another time. */
const TheirTime = ({ change, zone, fresh }: { change: ChangeInHand; zone: string; fresh: boolean }) => {
  const me = useMe()
  const there = zoneTable(zone)
  const { time, base } = change
  const [wasStart, wasEnd] = [Date.parse(base.start), Date.parse(base.end)]
  const moved = time.start !== wasStart || time.end !== wasEnd
  return (
    <span className="text-right tabular-nums leading-tight max-md:order-last max-md:col-span-2 max-md:text-left">
      {clocksThere(time.start, time.end, there, me.zone)}
      {moved && !fresh && (
        <s className="block text-[12.5px] text-soft max-md:ml-2 max-md:inline">
          {clocksThere(wasStart, wasEnd, there, me.zone)}
        </s>
      )}
    </span>
  )
}

const Row = ({
  change,
  member,
  telling,
  how,
}: {
  change: ChangeInHand
  member: Member
  telling: Telling | undefined
  how: During | undefined
}) => {
  const { base, fields, set, scope } = change
  const before = [...base.participants, ...base.elsewhere].find(
    (one) => (one.personId ?? one.address) === member.key,
  )
  const out = !inScope(fields.members, scope).some((one) => one.key === member.key)
  // Whether somebody must come holds for all dates of a series.
  const one = scope === 'this' && base.repeats
  return (
    <li className="grid grid-cols-[1fr_auto_auto] items-start gap-x-3 border-line border-t py-1.5 max-md:grid-cols-[1fr_auto]">
      <span className="min-w-0">
        <span className={`block truncate ${out ? 'line-through' : ''}`}>{member.name}</span>
        {base.repeats && <SomeDates change={change} member={member} known={before !== undefined} />}
        <span className={`block text-[13px] ${telling?.asksAgain ? 'font-semibold' : 'text-soft'}`}>
          {telling ? getsWords(telling, before?.answer) : ''}
        </span>
        {!out && <Standing how={how} />}
      </span>
      {out || !member.zone ? (
        <span className="text-soft text-sm max-md:hidden">{out ? '' : 'guest'}</span>
      ) : (
        <TheirTime change={change} zone={member.zone} fresh={!before} />
      )}
      <span className="flex items-center">
        {out ? (
          <button
            type="button"
            className="min-h-8 rounded px-1.5 text-sm underline underline-offset-2 max-md:min-h-thumb"
            onClick={() => set({ members: withMore(fields.members, [member], scope) })}
          >
            keep
          </button>
        ) : (
          <>
            {one ? (
              <span className="w-[68px] px-1 text-soft text-sm">
                {member.required ? 'required' : 'optional'}
              </span>
            ) : (
              <button
                type="button"
                aria-label={`${member.name} is ${member.required ? 'required' : 'optional'}: change`}
                className="min-h-8 w-[68px] rounded px-1 text-sm underline decoration-soft/60 underline-offset-2 hover:bg-shade max-md:min-h-thumb"
                onClick={() =>
                  set({
                    members: fields.members.map((one) =>
                      one.key === member.key ? { ...one, required: !one.required } : one,
                    ),
                  })
                }
              >
                {member.required ? 'required' : 'optional'}
              </button>
            )}
            <button
              type="button"
              aria-label={`Take ${member.name} out`}
              className="grid size-8 place-items-center rounded text-soft hover:bg-shade hover:text-ink max-md:size-thumb"
              onClick={() => set({ members: without(fields.members, member.key, scope) })}
            >
              <X size={15} aria-hidden />
            </button>
          </>
        )}
      </span>
    </li>
  )
}

/** Of a series: that somebody takes part in some of its dates alone, or not in this one; and how to ask them to all. */
const SomeDates = ({ change, member, known }: { change: ChangeInHand; member: Member; known: boolean }) => {
  const { fields, set, scope } = change
  if (scope === 'this')
    return known && member.everyDate ? null : (
      <span className="block text-[13px] text-soft">
        {known ? 'asked to some dates only' : 'this date only'}
      </span>
    )
  if (member.everyDate)
    return member.here ? null : <span className="block text-[13px] text-soft">not on this date</span>
  return (
    <span className="flex flex-wrap items-center gap-x-2 text-[13px] text-soft">
      {member.toAll ? 'to all dates' : 'some dates only'}
      <button
        type="button"
        className="min-h-7 rounded px-1 underline underline-offset-2 hover:text-ink max-md:min-h-thumb"
        onClick={() =>
          set({
            members: fields.members.map((one) =>
              one.key === member.key ? { ...one, toAll: !member.toAll } : one,
            ),
          })
        }
      >
        {member.toAll ? 'leave it at those' : 'ask to all dates'}
      </button>
    </span>
  )
}

/** How somebody takes part who is added. */
const FRESH = { required: true, here: true, everyDate: true }

/** Who takes part, each with their time, what they get of the change, and what they can be made. */
export const ChangePeople = ({
  change,
  first = false,
}: {
  change: ChangeInHand
  /** Whether people are what one came for. */
  first?: boolean
}) => {
  const { base, fields, set, scope, tellings, looking, differs } = change
  const search = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (first) search.current?.focus()
  }, [first])
  const members = inScope(fields.members, scope)
  const before = inScope(membersOf(base), scope)
  const gone = before.filter((one) => !members.some((each) => each.key === one.key))
  const organizer = base.participants.find((one) => one.organizer)
  const tellingOf = ({ key }: Member) => tellings?.find((one) => (one.personId ?? one.address) === key)
  const standing = useStanding(
    fields.members.flatMap((one) => one.personId ?? []),
    change.time,
    { entryId: base.entryId, recurrence: scope === 'all' ? null : base.recurrence },
  )
  const add = (fresh: readonly Member[]) => set({ members: withMore(fields.members, fresh, scope) })
  return (
    <section aria-label="Who is told what" aria-busy={differs && looking}>
      <div className="flex flex-wrap items-center justify-between gap-2">
        <h3 className="font-semibold">
          {differs ? 'Who is told what' : 'Who takes part'}
          {differs && looking && <span className="font-normal text-soft"> …</span>}
        </h3>
        <div className="w-60 max-w-full">
          <PeopleSearch
            inputRef={search}
            taken={new Set([organizer?.personId ?? '', ...members.map((one) => one.key)])}
            onPeople={(people) =>
              add(
                people.flatMap((person) =>
                  person.id === organizer?.personId
                    ? []
                    : [{ ...person, ...FRESH, key: person.id, personId: person.id }],
                ),
              )
            }
            onGuest={({ address, name }) =>
              add([{ ...FRESH, key: address, personId: null, address, name: name || address, zone: null }])
            }
          />
        </div>
      </div>
      <ul className="mt-1">
        {[...members, ...gone].map((member) => (
          <Row
            key={member.key}
            change={change}
            member={member}
            telling={differs ? tellingOf(member) : undefined}
            how={standing(member.key)}
          />
        ))}
      </ul>
      {members.length === 0 && <p className="py-1 text-soft">Nobody but the organizer.</p>}
    </section>
  )
}
