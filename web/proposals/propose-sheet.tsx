import { laneOf } from '@marmot/contract/availability'
import type { Meeting } from '@marmot/contract/meetings'
import { during, duringInWords, type LaneTime } from '@marmot/core/availability'
import {
  dayOf,
  HOUR,
  type Instant,
  instantOf,
  lengthInWords,
  minuteOf,
  minutesBetween,
  offsetAt,
  offsetInWords,
  shortDay,
  spanInWords,
  toWall,
  wallOf,
  zoneTable,
} from '@marmot/core/time'
import { useMemo } from 'react'
import { useTime } from '../availability/time.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import type { BoardGroup } from '../lanes/types.ts'
import { useMeeting } from '../meetings/meeting.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { useProposalWrites } from './proposals.ts'
import { ProposedTime, ProposedWords, proposeWords, useProposed } from './proposed.tsx'

/** Hours before and after the proposed time that are shown at the least. */
const HOURS_AROUND = 5

/** The lanes of all who take part, on the day of the proposed time: mine first, the others as far as I may see them. */
const useLanes = (
  meeting: Meeting,
  { start }: { start: Instant },
  chosen: { start: Instant; end: Instant },
) => {
  const { zone, person, session } = useMe()
  const day = dayOf(toWall(zone, start))
  const dayStart = instantOf(zone, wallOf(day))
  const people = meeting.participants.filter((one) => one.personId !== null)
  const known = useTime(
    people.flatMap((one) => one.personId ?? []),
    dayStart - 12 * HOUR,
    dayStart + 48 * HOUR,
  )
  const axis = useMemo(() => {
    const first = minuteOf(toWall(zone, start))
    const from = Math.max(0, Math.min(7 * 60, first - HOURS_AROUND * 60))
    return wallAxis(zone, day, from, Math.min(1440 + 360, Math.max(19 * 60, first + HOURS_AROUND * 60)))
  }, [zone, day, start])
  const lanes = new Map(
    known.data?.people.map((each): [string, LaneTime] => {
      const lane = laneOf(each)
      // What is to be moved stands in nobody's way.
      return [
        each.personId,
        { ...lane, spans: lane.spans.filter((span) => span.entryId !== meeting.entryId) },
      ]
    }),
  )
  const mine = people.filter((one) => one.personId === person.id)
  const others = people.filter((one) => one.personId !== person.id)
  const zones = [...new Set([...mine, ...others].map((one) => one.zone ?? zone.zone))]
  const groups = zones.map((name): BoardGroup => {
    const table = zoneTable(name)
    const site = session.sites.find((one) => one.zone === name)?.name ?? ''
    return {
      id: name,
      zone: table,
      axis,
      title: (
        <>
          <b>{site}</b> <span className="text-soft">{offsetInWords(offsetAt(table, start))}</span>
        </>
      ),
      rows: [...mine, ...others]
        .filter((one) => (one.zone ?? zone.zone) === name)
        .flatMap((one) => {
          const lane = lanes.get(one.personId ?? '')
          if (!lane) return []
          const how = during(lane, zoneTable(lane.zone), chosen)
          const blocked = !['free', 'stretch', 'unknown'].includes(how.state)
          const words = duringInWords(how, zoneTable(lane.zone))
          return [
            {
              id: one.id,
              name: `${one.name}, ${site}`,
              time: lane,
              axis,
              label: (
                <span className="flex min-w-0 flex-col leading-tight">
                  <span className="truncate font-semibold text-[13px]">
                    {one.personId === person.id ? 'You' : one.name}
                  </span>
                  <span className={`truncate text-xs ${blocked ? 'text-coral' : 'text-soft'}`}>
                    {blocked && '⚠ '}
                    {words.replace(': shares nothing', '')}
                  </span>
                </span>
              ),
            },
          ]
        }),
    }
  })
  return { groups, pending: known.isPending, failed: known.isError, day }
}

const Form = ({ meeting, onClose }: { meeting: Meeting; onClose: () => void }) => {
  const { zone } = useMe()
  const now = useNow()
  const writes = useProposalWrites()
  const { entryId, recurrence, organizer } = meeting
  const was = { start: Date.parse(meeting.start), end: Date.parse(meeting.end), recurrence }
  const proposed = useProposed(was, zone, now, async (body, key) => {
    await writes.propose(entryId, body, key)
    toast(`${organizer} is told. Until they answer, ${meeting.title} stays where it is.`)
    onClose()
  })
  const { time, same } = proposed
  const { groups, pending, failed, day } = useLanes(meeting, time, time)
  const length = minutesBetween(time.start, time.end)
  return (
    <form className="flex flex-col gap-4" onSubmit={proposed.submit}>
      <div className="flex flex-col gap-2">
        <ProposedTime proposed={proposed} />
        {proposed.readable && (
          <p role="status">
            <b className="font-semibold">{spanInWords(time.start, time.end, zone, now)}</b>
            {`, ${lengthInWords(length)}`}
            {!same && (
              <>
                <br />
                <span className="text-soft">Now it is {spanInWords(was.start, was.end, zone, now)}</span>
              </>
            )}
          </p>
        )}
      </div>
      {pending && <Loading what="everybody’s day" />}
      {failed && (
        <p className="text-coral text-sm">⚠ Nobody’s day could be fetched. You can propose all the same.</p>
      )}
      {!pending && !failed && (
        <div
          className="overflow-hidden rounded-md bg-ground pb-2 [--label:172px] max-md:[--label:0px]"
          style={{ '--lane': '36px' }}
        >
          <Board
            label={`Everybody’s day, ${shortDay(day)}`}
            groups={groups}
            home={zone}
            now={now}
            step={15}
            minutes={length}
            across="all"
            chosen={{ ...time, rowId: null }}
            present={was}
            days={false}
            onChoose={(chosen) => chosen && proposed.choose(chosen.start, chosen.end)}
          />
        </div>
      )}
      <ProposedWords proposed={proposed} organizer={organizer} />
      {proposed.trouble && <Trouble>{proposed.trouble}</Trouble>}
      <div className="flex flex-wrap justify-end gap-2">
        <Button onClick={onClose} disabled={proposed.busy}>
          Back
        </Button>
        <Button type="submit" tone="primary" disabled={!proposed.ready}>
          {proposeWords(proposed, organizer)}
        </Button>
      </div>
    </form>
  )
}

/** Another time for a meeting to which I was invited: typed or drawn on the lanes of everybody, as far as I may see them. */
export const ProposeSheet = ({
  entryId,
  recurrence,
  onClose,
}: {
  entryId: string
  recurrence: string | null
  onClose: () => void
}) => {
  const meeting = useMeeting(entryId, recurrence)
  return (
    <Sheet open onClose={onClose} title={`Another time for ${meeting.data?.title ?? 'a meeting'}`} wide>
      {meeting.isPending && <Loading what="the meeting" />}
      {meeting.isError && (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      )}
      {meeting.data && <Form meeting={meeting.data} onClose={onClose} />}
    </Sheet>
  )
}
