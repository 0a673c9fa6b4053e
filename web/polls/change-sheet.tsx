import {
  changePoll,
  type OrganizedPoll,
  type PollVoter,
  renewPollLink,
} from '@marmot/contract/organized-polls'
import {
  clockText,
  dayOf,
  instantOf,
  MINUTE,
  minuteOf,
  shortDay,
  shortTime,
  toWall,
  wallOf,
} from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useRef, useState } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, Choice, Field, Trouble } from '../ui/parts.tsx'
import { OwnTime } from './own-time.tsx'

const EVENING = 18 * 60
const DAYS = [0, 1, 2, 3, 5, 7, 10, 14, 21, 28]

interface Asked {
  readonly id: string | null
  readonly address: string
  readonly name: string
  readonly required: boolean
}

const askedOf = (poll: OrganizedPoll): Asked[] =>
  poll.voters
    .filter((voter) => voter.proved)
    .map((voter) => ({
      id: voter.personId,
      address: voter.address,
      name: voter.name,
      required: voter.required,
    }))

/** Who is asked; a guest's link can be replaced, which ends the one from before. */
const Who = ({
  poll,
  who,
  onWho,
}: {
  poll: OrganizedPoll
  who: readonly Asked[]
  onWho: (who: readonly Asked[]) => void
}) => {
  const search = useRef<HTMLInputElement>(null)
  const keyOf = useKeyOf()
  const renew = async (voter: PollVoter) => {
    const body = { voterId: voter.id }
    await call(renewPollLink, { params: { pollId: poll.pollId }, body, key: keyOf([body, Date.now()]) }).then(
      () => toast(`${voter.name} gets a new link by letter. The one from before has ended.`),
      (error) => toast.error(problemWords(error)),
    )
  }
  const turn = (one: Asked) =>
    onWho(who.map((each) => (each === one ? { ...one, required: !one.required } : each)))
  return (
    <section aria-label="Who is asked" className="flex flex-col gap-1">
      <h3 className="font-semibold">Who is asked</h3>
      <ul>
        {who.map((one) => {
          const guest = poll.voters.find((voter) => voter.personId === null && voter.address === one.address)
          return (
            <li
              key={one.id ?? one.address}
              className="flex items-center gap-2 border-line border-t first:border-t-0"
            >
              <span className="min-w-0 flex-1 truncate" title={one.address}>
                {one.name || one.address}
              </span>
              {guest && (
                <button
                  type="button"
                  className="rounded px-1 text-sm underline underline-offset-2"
                  onClick={() => renew(guest)}
                >
                  New link
                </button>
              )}
              <button
                type="button"
                className="min-h-8 rounded px-1 text-sm underline underline-offset-2 max-md:min-h-thumb"
                onClick={() => turn(one)}
              >
                {one.required ? 'required' : 'optional'}
              </button>
              <button
                type="button"
                aria-label={`Do not ask ${one.name || one.address}`}
                className="grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
                onClick={() => onWho(who.filter((each) => each !== one))}
              >
                <X size={15} aria-hidden />
              </button>
            </li>
          )
        })}
      </ul>
      <PeopleSearch
        inputRef={search}
        taken={new Set(who.flatMap((one) => one.id ?? []))}
        onPeople={(people) =>
          onWho([
            ...who,
            ...people
              .filter((person) => !who.some((one) => one.id === person.id))
              .map((person) => ({
                id: person.id,
                address: person.address,
                name: person.name,
                required: true,
              })),
          ])
        }
        onGuest={(guest) =>
          who.some((one) => one.address === guest.address)
            ? undefined
            : onWho([...who, { id: null, ...guest, required: true }])
        }
      />
    </section>
  )
}

/** How it is asked from now on: until when, about which times, whom. */
export const ChangeSheet = ({ poll, onClose }: { poll: OrganizedPoll; onClose: () => void }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const { busy, trouble, attempt } = useAttempt()
  const [closes, setCloses] = useState(Date.parse(poll.closes))
  const [added, setAdded] = useState<readonly number[]>([])
  const [who, setWho] = useState<readonly Asked[]>(() => askedOf(poll))
  const [settings, setSettings] = useState({
    holds: poll.holds,
    proposals: poll.proposals,
    oneMark: poll.oneMark,
    names: poll.names,
    results: poll.results,
    notices: poll.notices,
  })
  const today = dayOf(toWall(zone, now))
  const last = Math.max(...poll.times.map((time) => Date.parse(time.start)), ...added)
  const until = [
    ...new Set([Date.parse(poll.closes), ...DAYS.map((n) => instantOf(zone, wallOf(today + n, EVENING)))]),
  ]
    .filter((at) => (at > now && at <= last) || at === Date.parse(poll.closes))
    .sort((a, b) => a - b)
  const change = async () => {
    const same = JSON.stringify(who) === JSON.stringify(askedOf(poll))
    const done = await attempt(() =>
      call(changePoll, {
        params: { pollId: poll.pollId },
        body: {
          version: poll.version,
          ...settings,
          ...(closes === Date.parse(poll.closes) ? {} : { closes: new Date(closes).toISOString() }),
          add: added.map((start) => ({ start: new Date(start).toISOString(), places: [] })),
          ...(same
            ? {}
            : {
                people: who.flatMap(({ id, required }) => (id ? [{ id, required }] : [])),
                guests: who.flatMap(({ id, address, name, required }) =>
                  id ? [] : [{ address, name, required }],
                ),
              }),
        },
      }),
    )
    void queries.invalidateQueries()
    if (done) onClose()
  }
  return (
    <Beside
      title="How it is asked"
      onClose={onClose}
      foot={
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Back</Button>
          <Button tone="primary" disabled={busy} onClick={change}>
            {busy
              ? 'Changing…'
              : added.length
                ? `Change it, and tell all of ${added.length === 1 ? 'the new time' : 'the new times'}`
                : 'Change it'}
          </Button>
        </div>
      }
    >
      <div className="flex flex-col gap-3">
        <Field label="They can answer until">
          {(props) => (
            <select {...props} value={closes} onChange={(event) => setCloses(Number(event.target.value))}>
              {until.map((at) => (
                <option key={at} value={at}>
                  {shortDay(dayOf(toWall(zone, at)))}, {clockText(minuteOf(toWall(zone, at)))}
                </option>
              ))}
            </select>
          )}
        </Field>
        <section aria-label="More times" className="flex flex-col gap-1.5">
          {added.map((start) => (
            <p key={start} className="flex items-center gap-2">
              <span className="flex-1">{shortTime(start, zone)} is new</span>
              <button
                type="button"
                aria-label={`Leave out ${shortTime(start, zone)}`}
                className="grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
                onClick={() => setAdded(added.filter((one) => one !== start))}
              >
                <X size={15} aria-hidden />
              </button>
            </p>
          ))}
          <OwnTime
            key={added.length}
            length={poll.minutes * MINUTE}
            zone={zone}
            now={now}
            words="Ask about another time"
            hint="All who are asked are told of it."
            add={async (start) => setAdded([...added, start])}
          />
        </section>
        <Who poll={poll} who={who} onWho={setWho} />
        <div className="flex flex-col">
          <Choice checked={settings.holds} onChoose={(holds) => setSettings({ ...settings, holds })}>
            Keep these times free for me until it is decided
          </Choice>
          <Choice
            checked={settings.proposals}
            onChoose={(proposals) => setSettings({ ...settings, proposals })}
          >
            They may propose times of their own
          </Choice>
          <Choice checked={settings.oneMark} onChoose={(oneMark) => setSettings({ ...settings, oneMark })}>
            Each chooses one time alone
          </Choice>
          <Choice
            checked={settings.results === 'all'}
            onChoose={(all) => setSettings({ ...settings, results: all ? 'all' : 'organizer' })}
          >
            They see how many others can come
          </Choice>
          {settings.results === 'all' && (
            <Choice checked={settings.names} onChoose={(names) => setSettings({ ...settings, names })}>
              They see who that is
            </Choice>
          )}
        </div>
        {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      </div>
    </Beside>
  )
}
