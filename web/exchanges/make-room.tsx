import { askForRoom, lookForRoom, type Room } from '@marmot/contract/exchanges'
import type { sendMeeting } from '@marmot/contract/meetings'
import { clocksInWords, shortTime } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { namesInWords } from '../ui/names.ts'
import { Button, counted, Field, Loading, Trouble } from '../ui/parts.tsx'

/** What is reserved once there is room. */
type Wish = z.input<(typeof sendMeeting)['body']>

/** "Tashi Lhendup would go from Névé Hall to Firn, 10:00 to 11:00": each that would move for it. */
const Moves = ({ room }: { room: Room }) => {
  const { zone } = useMe()
  return (
    <ul className="flex flex-col gap-1">
      {room.moves.map((one) => (
        <li key={one.reservationId} className="rounded-md bg-shade px-2.5 py-1.5">
          <b className="font-semibold">{one.mine ? 'You' : one.by === 'somebody' ? 'Somebody' : one.by}</b>{' '}
          would go from {one.from} to <b className="font-semibold">{one.to}</b>,{' '}
          {clocksInWords(Date.parse(one.start), Date.parse(one.end), zone)}.
        </li>
      ))}
    </ul>
  )
}

/**
 * Where places that would do are taken: looks whether somebody could go elsewhere without being worse off, and asks them. Nothing moves before
 * they agree.
 */
export const MakeRoom = ({
  wish,
  placeIds,
  invited = 0,
  atOnce = false,
  onAsked,
}: {
  wish: Wish
  /** Those that would do, best first; of a single one, those like it do as well. */
  placeIds: readonly string[]
  /** How many are invited once there is room. */
  invited?: number
  /** Whether it looks without being pressed. */
  atOnce?: boolean
  onAsked: () => void
}) => {
  const { zone } = useMe()
  const queries = useQueryClient()
  const [looks, setLooks] = useState(atOnce)
  const [purpose, setPurpose] = useState(wish.purpose ?? '')
  const { busy, trouble, attempt } = useAttempt()
  const keyOf = useKeyOf()
  const { starts, minutes, zone: written, allDay, headCount, of } = wish
  const time = {
    starts,
    minutes,
    zone: written,
    allDay,
    headCount,
    placeIds: [...placeIds],
    ...(of ? { of } : {}),
  }
  const found = useQuery({
    queryKey: ['room', time],
    queryFn: () => call(lookForRoom, { body: time }),
    enabled: looks,
    staleTime: 0,
    retry: false,
  })
  if (!looks)
    return (
      <Button className="self-start" onClick={() => setLooks(true)}>
        See whether somebody can go elsewhere…
      </Button>
    )
  if (found.isPending) return <Loading what="who could go elsewhere" />
  if (found.isError) return <Trouble>{problemWords(found.error)}</Trouble>
  const { room } = found.data
  if (!room)
    return (
      <p className="text-soft" role="status">
        Nobody there could go elsewhere without being worse off.
      </p>
    )
  const whom = [...new Set(room.moves.filter((one) => !one.mine).map((one) => one.by))]
  const ask = async () => {
    const body = {
      wish: { ...wish, title: wish.title || purpose.trim() || room.place, purpose },
      placeIds: [...placeIds],
      moves: room.moves.map((one) => ({ reservationId: one.reservationId, to: one.toId })),
    }
    const asked = await attempt(async () => {
      const { lapses } = await call(askForRoom, { body, key: keyOf(body) })
      toast(
        `Asked ${namesInWords(whom)}. You read the answer under Now; without one it lapses ${shortTime(Date.parse(lapses), zone)}.`,
        { duration: 8000 },
      )
      void queries.invalidateQueries({ queryKey: ['now'] })
      onAsked()
    })
    if (!asked) void found.refetch()
  }
  return (
    <section aria-label="Make room" className="flex flex-col gap-2 border-line border-t pt-2">
      <p role="status">
        <b className="font-semibold">{room.place}</b> would be free then, and nobody worse off:
      </p>
      <Moves room={room} />
      {whom.length === 0 ? (
        <p className="text-soft">Move your own one first: press it where it stands.</p>
      ) : (
        <>
          <Field label="What for (they read it)">
            {(props) => (
              <input
                {...props}
                value={purpose}
                maxLength={200}
                onChange={(event) => setPurpose(event.target.value)}
              />
            )}
          </Field>
          {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
          <Button className="self-start" disabled={busy} onClick={ask}>
            {busy ? 'Asking…' : `Ask ${namesInWords(whom)}`}
          </Button>
          <p className="text-soft text-sm">
            Nothing moves before they agree; then {room.place} is yours
            {invited > 0 && `, and ${counted(invited, 'invitation goes out', 'invitations go out')}`}.
          </p>
        </>
      )}
    </section>
  )
}
