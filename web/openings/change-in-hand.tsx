import type { Brief } from '@marmot/contract/briefs'
import { MINUTE, spanInWords } from '@marmot/core/time'
import { Suspense } from 'react'
import { useNavigate } from 'react-router'
import { timeFields } from '../meetings/wanted.ts'
import { part } from '../platform/part.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import { useBrief } from './brief.tsx'
import type { Arranging } from './use-arranging.ts'

const ChangeSheet = part(() => import('../meetings/change-sheet.tsx').then((m) => m.ChangeSheet))

type InHand = NonNullable<Brief['meeting']>

/** When the meeting that is changed is as yet. */
export const presentOf = ({ start, minutes }: InHand): { start: number; end: number } => ({
  start,
  end: start + minutes * MINUTE,
})

/** Which meeting is changed, when it is as yet, and the ways back: to its time, or out of the change. */
export const ChangeInHand = ({ meeting }: { meeting: InHand }) => {
  const { brief, change, clear } = useBrief()
  const { zone } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const { start, end } = presentOf(meeting)
  const away = brief.start !== meeting.start || brief.minutes !== meeting.minutes
  const leave = () => {
    clear()
    navigate(`/now?meeting=${meeting.entryId}`)
  }
  const button = 'min-h-[25px] rounded px-1 underline underline-offset-2 max-md:min-h-thumb'
  return (
    <p className="flex flex-wrap items-baseline gap-x-3 pb-1.5 text-sm">
      <span>
        Another time for <b className="font-semibold">{meeting.title}</b>
        <span className="text-soft">, which is {spanInWords(start, end, zone, now)}</span>
        {meeting.recurrence !== null && <span className="text-soft">; the other dates stay</span>}
      </span>
      {away && (
        <button
          type="button"
          className={button}
          onClick={() => change({ start: meeting.start, minutes: meeting.minutes })}
        >
          Back to its time
        </button>
      )}
      <button type="button" className={`${button} text-soft`} onClick={leave}>
        Leave it as it is
      </button>
    </p>
  )
}

/** The last look at a change that was found on the lanes. */
export const ChangeLook = ({
  arranging,
  meeting,
  onClose,
}: {
  arranging: Arranging
  meeting: InHand
  onClose: () => void
}) => {
  const { clear } = useBrief()
  const navigate = useNavigate()
  const { brief, chosen, zone, members, chosenPlaces } = arranging
  if (!chosen) return null
  const wanted = {
    title: brief.title,
    note: brief.note,
    ...timeFields(chosen.start, chosen.end, zone),
    places: chosenPlaces.map((place) => place.id),
    members: members.flatMap(({ id, person, name, required }) =>
      id === meeting.organizerId
        ? []
        : [
            {
              key: id,
              personId: person ? id : null,
              address: person?.address ?? id,
              name,
              zone: person?.zone ?? null,
              required,
            },
          ],
    ),
  }
  return (
    <Suspense>
      <ChangeSheet
        entryId={meeting.entryId}
        recurrence={meeting.recurrence}
        wanted={wanted}
        onClose={onClose}
        onChanged={(entryId) => {
          clear()
          navigate(`/now?meeting=${entryId}`)
        }}
      />
    </Suspense>
  )
}
