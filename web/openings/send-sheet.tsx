import { sendMeeting } from '@marmot/contract/meetings'
import { itemsIn } from '@marmot/core/agenda'
import { stateInWords } from '@marmot/core/availability'
import { noteOfText } from '@marmot/core/entries'
import { clocksThere, DAY, lengthInWords, spanInWords, toWall, wallText, zoneTable } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { Suspense, useState } from 'react'
import { useNavigate } from 'react-router'
import { z } from 'zod'
import { useMeetingWrites } from '../meetings/writes.ts'
import { call } from '../platform/api.ts'
import { useReservationsChanged } from '../platform/live.ts'
import { part } from '../platform/part.tsx'
import { ApiProblem, problemWords } from '../platform/problem.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import { Button, Choice, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot } from '../ui/sheet.tsx'
import { useBrief } from './brief.tsx'
import { useJoining } from './joining-choice.tsx'
import { lackingIn } from './room-then.ts'
import { stillMissing } from './tray.tsx'
import type { Arranging } from './use-arranging.ts'
import { useWhose } from './whose.tsx'

const refusal = z.object({
  placeId: z.string(),
  free: z.array(z.object({ id: z.string(), name: z.string(), seats: z.number() })),
})

/** What else is free, when a place was taken meanwhile. */
const alternativesIn = (error: unknown) => {
  const read = refusal.safeParse(error instanceof ApiProblem ? error.problem.more : null)
  return read.success ? read.data : null
}

const MakeRoom = part(() => import('../exchanges/make-room.tsx').then((m) => m.MakeRoom))

/** What everybody reads with the invitation. */
const WhatItSays = ({ note, points }: { note: string; points: readonly string[] }) =>
  !note.trim() && points.length === 0 ? null : (
    <section aria-label="What it says">
      <h3 className="font-semibold">What it says</h3>
      {note.trim() && <p className="line-clamp-4 whitespace-pre-wrap">{note}</p>}
      {points.length > 0 && (
        <p className="whitespace-pre-wrap">{points.map((point, i) => `${i + 1}. ${point}`).join('\n')}</p>
      )}
    </section>
  )

/** The last look before it goes: when for everybody, who is told, which places are taken; then the sending itself. */
export const SendSheet = ({ arranging, onClose }: { arranging: Arranging; onClose: () => void }) => {
  const { brief, change, clear } = useBrief()
  const queries = useQueryClient()
  const reservationsChanged = useReservationsChanged()
  const navigate = useNavigate()
  const writes = useMeetingWrites()
  const [state, setState] = useState<'ready' | 'sending'>('ready')
  const [error, setError] = useState<unknown>(null)
  const keyOf = useKeyOf()
  const { chosen, zone, now, me, members, chosenPlaces, reasons, placeReasons } = arranging
  const missing = stillMissing(arranging, brief.title)
  const { of, whose } = useWhose()
  const [autoNudge, setAutoNudge] = useState(false)
  const [rsvp, setRsvp] = useState(true)
  const { conference, choice } = useJoining(arranging)
  const invited = members.filter((member) => member.id !== (of || me.id))

  const body = chosen && {
    title: brief.title,
    note: noteOfText(brief.note),
    agenda: itemsIn(
      brief.agenda,
      members.map((member) => member.name),
    ),
    starts: wallText(toWall(zone, chosen.start)),
    minutes: brief.minutes,
    zone: me.zone,
    people: brief.people
      .filter((one) => one.id !== (of || me.id))
      .map(({ id, required }) => ({ id, required })),
    guests: brief.guests.map((one) => ({ ...one })),
    places: chosenPlaces.map((place) => place.id),
    hold: brief.hold,
    conference,
    outdoors: brief.outdoors?.siteId ?? null,
    autoNudge: autoNudge && rsvp,
    rsvp,
    ...(of ? { of } : {}),
  }
  const lacking = lackingIn(arranging, brief)
  const send = async () => {
    if (!body) return
    setState('sending')
    setError(null)
    try {
      const sent = await call(sendMeeting, { body, key: keyOf(body) })
      clear()
      onClose()
      queries.invalidateQueries()
      // Taken back, it is in hand again as it was, but for the hold that it took the place of.
      writes.done(`Made ${brief.title}`, { ...sent, told: sent.invited }, () => {
        change({ ...brief, hold: null })
        navigate('/arrange')
      })
      navigate(`/now?meeting=${sent.entryId}`)
    } catch (problem) {
      setError(problem)
      setState('ready')
      reservationsChanged()
    }
  }
  const alternatives = alternativesIn(error)
  const swap = (placeId: string) => {
    // From here on they are these particular places, whichever way they were found.
    change({
      needs: [],
      places: chosenPlaces.map(({ id }) => (id === alternatives?.placeId ? placeId : id)),
    })
    setError(null)
  }
  const busy = state === 'sending'
  const names = chosenPlaces.map((place) => place.name).join(' and ')
  const press = `Send ${invited.length} ${invited.length === 1 ? 'invitation' : 'invitations'}${names ? ` and take ${names}` : ''}`
  const lost = placeReasons.filter((reason) => !reason.free)
  return (
    <Sheet
      open
      onClose={busy ? () => undefined : onClose}
      title={brief.title.trim() || 'Before it goes'}
      wide
    >
      {missing.length > 0 || !chosen || !body ? (
        <p>Still missing: {missing.join(', ')}.</p>
      ) : (
        <div className="flex min-h-full flex-col gap-4">
          <div>
            <p className="font-semibold text-lg">{spanInWords(chosen.start, chosen.end, zone, now)}</p>
            <p className="text-soft">
              {lengthInWords(brief.minutes)}
              {names ? `, in ${names}` : ', no room'}
            </p>
          </div>
          {error === null && lost.length > 0 && (
            <Trouble>
              {lost.map((reason) => reason.place.name).join(' and ')} cannot be had then. Choose another place
              or another time.
            </Trouble>
          )}
          {lacking && !busy && (
            <Suspense>
              <MakeRoom
                key={lacking.placeIds.join()}
                wish={{ ...body, headCount: lacking.seats || null }}
                placeIds={lacking.placeIds}
                atOnce
                invited={invited.length}
                onAsked={() => {
                  clear()
                  onClose()
                  navigate('/now')
                }}
              />
            </Suspense>
          )}
          <section aria-label="Who will be told">
            <h3 className="font-semibold">Who will be told</h3>
            <ul className="mt-1">
              {invited.map((member) => {
                const how = reasons.find((reason) => reason.id === member.id)?.how
                const blocked = how && !['free', 'stretch', 'unknown'].includes(how.state)
                return (
                  <li key={member.id} className="grid grid-cols-[1fr_auto] gap-x-3 border-line border-t py-1">
                    <span className="min-w-0 truncate">
                      {member.name}
                      {!member.required && <span className="text-soft"> optional</span>}
                    </span>
                    <span className="text-right">
                      {member.person ? (
                        <>
                          {clocksThere(chosen.start, chosen.end, zoneTable(member.time.zone), zone)}{' '}
                          <span className="text-soft text-sm">{member.siteName}</span>
                        </>
                      ) : (
                        <span className="text-soft text-sm">by mail, no account</span>
                      )}
                    </span>
                    {how && how.state === 'stretch' && (
                      <span className="col-span-2 text-sm text-soft">
                        {how.stretch > 0 && `${lengthInWords(how.stretch)} outside their hours`}
                        {how.stretch > 0 && how.lunch > 0 && ', '}
                        {how.lunch > 0 && `${lengthInWords(how.lunch)} of their lunch`}
                      </span>
                    )}
                    {blocked && (
                      <span className="col-span-2 text-coral text-sm">⚠ {stateInWords(how)} then</span>
                    )}
                  </li>
                )
              })}
            </ul>
          </section>
          {whose}
          <WhatItSays note={brief.note} points={body.agenda.map((item) => item.title)} />
          {choice}
          <Choice checked={rsvp} onChoose={setRsvp}>
            Ask everybody whether they come
          </Choice>
          {rsvp && chosen.start - now > 2 * DAY && (
            <Choice checked={autoNudge} onChoose={setAutoNudge}>
              Remind those who have not answered, two days before
            </Choice>
          )}
          {error !== null && (
            <Trouble
              action={alternatives?.free.slice(0, 4).map((place) => (
                <Button key={place.id} onClick={() => swap(place.id)}>
                  Take {place.name} instead ({place.seats} seats)
                </Button>
              ))}
            >
              {problemWords(error)}
            </Trouble>
          )}
          <SheetFoot>
            <Button onClick={onClose} disabled={busy}>
              Back
            </Button>
            <Button tone="primary" onClick={send} disabled={busy} data-first>
              {busy ? (names ? `Taking ${names}, sending…` : 'Sending…') : press}
            </Button>
          </SheetFoot>
        </div>
      )}
    </Sheet>
  )
}
