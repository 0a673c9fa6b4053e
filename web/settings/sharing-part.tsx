import { laneOf } from '@marmot/contract/availability'
import { deleteSharing, type GrantOnWire, putSharing } from '@marmot/contract/sharing'
import { DOES, SEES } from '@marmot/core/sharing'
import { DAY, dayOf, instantOf, parseDay, shortDay, shortTime, toWall, wallOf } from '@marmot/core/time'
import { useMemo, useRef, useState } from 'react'
import { useTimeAsSeenBy } from '../availability/time.ts'
import { useChanges } from '../entries/entries.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { PeopleSearch } from '../people/people-search.tsx'
import { call } from '../platform/api.ts'
import { useAttempt } from '../platform/attempt.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { useUndo } from '../platform/undo.tsx'
import { useSharing } from '../sharing/sharing.ts'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'

const SEES_WORDS = {
  nothing: 'nothing',
  busy: 'busy times',
  headlines: 'headlines: title and where',
  everything: 'everything',
} as const
const DOES_WORDS = { look: 'only look', change: 'change', 'stand-in': 'act as my stand-in' } as const

type Receiver = Pick<GrantOnWire, 'to' | 'id' | 'name'>
type Draft = Pick<GrantOnWire, 'sees' | 'does' | 'seesPrivate' | 'until'>

const nameOf = (receiver: Receiver): string =>
  receiver.to === 'organisation'
    ? 'Everybody at the institute'
    : receiver.to === 'team'
      ? `Team ${receiver.name}`
      : receiver.name

/** My own time as somebody else sees it. */
const AsTheySee = ({ receiver, onClose }: { receiver: Receiver; onClose: () => void }) => {
  const { zone } = useMe()
  const now = useNow()
  const today = dayOf(toWall(zone, now))
  const from = instantOf(zone, wallOf(today))
  const seen = useTimeAsSeenBy(receiver.to, receiver.id, from, from + 7 * DAY)
  const lane = useMemo(() => (seen.data ? laneOf(seen.data) : null), [seen.data])
  const axis = wallAxis(zone, today, 7 * 60, 20 * 60)
  return (
    <Sheet open wide onClose={onClose} title={`My time as ${nameOf(receiver)} sees it`}>
      {seen.isError && <Trouble>{problemWords(seen.error)}</Trouble>}
      {!lane && !seen.isError && <Loading what="what they see" />}
      {lane && seen.data && (
        <>
          <p className="mb-2">
            They see <b className="font-semibold">{SEES_WORDS[seen.data.sees]}</b> and may{' '}
            <b className="font-semibold">{DOES_WORDS[seen.data.does]}</b>
            {seen.data.sees === 'nothing' && ': to them you are unknown, never free'}.
          </p>
          <div style={{ '--lane': '34px', '--label': '92px' }}>
            <Board
              label="As they see it"
              still
              groups={[
                {
                  id: 'seen',
                  zone,
                  axis,
                  title: '',
                  rows: Array.from({ length: 7 }, (_, i) => ({
                    id: String(today + i),
                    name: shortDay(today + i),
                    label: <span className="text-sm">{shortDay(today + i)}</span>,
                    time: lane,
                    axis: wallAxis(zone, today + i, 7 * 60, 20 * 60),
                    still: false,
                    today: i === 0,
                  })),
                },
              ]}
              home={zone}
              now={now}
              step={15}
              minutes={30}
              across="row"
              chosen={null}
              days={false}
              onChoose={() => undefined}
            />
          </div>
        </>
      )}
    </Sheet>
  )
}

/** One receiver: what they see, what they may do, and until when. Nothing of it holds, and nobody is told, before it is confirmed. */
const GrantRow = ({
  receiver,
  grant,
  fresh = false,
  onKeep,
  onDrop,
  onPreview,
}: {
  receiver: Receiver
  grant: Draft
  /** Somebody who was just added: nothing is shared with them as yet. */
  fresh?: boolean
  onKeep: (draft: Draft) => void
  onDrop: (() => void) | null
  onPreview: () => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const today = dayOf(toWall(zone, now))
  const wordsOf = (until: string | null) =>
    until ? shortDay(dayOf(toWall(zone, Date.parse(until) - 1))) : ''
  const [draft, setDraft] = useState(grant)
  const [text, setText] = useState(() => wordsOf(grant.until))
  const name = nameOf(receiver)
  const day = text.trim() ? parseDay(text.replace(/^[A-Za-z]+ (?=\d)/, ''), today) : null
  const unclear = text.trim() !== '' && day === null
  const until =
    text === wordsOf(grant.until)
      ? grant.until
      : day === null
        ? null
        : new Date(instantOf(zone, wallOf(day + 1))).toISOString()
  const wanted = { ...draft, until }
  const differs =
    wanted.sees !== grant.sees ||
    wanted.does !== grant.does ||
    wanted.seesPrivate !== grant.seesPrivate ||
    until !== grant.until
  const change = (part: Partial<Draft>) => setDraft({ ...draft, ...part })
  const field = 'rounded-md border border-soft/50 bg-paper px-2 py-1'
  return (
    <tr className="border-line/60 border-b align-top max-md:grid max-md:grid-cols-2 max-md:gap-x-2 max-md:py-1.5 max-md:[&>td]:min-w-0 max-md:[&>td]:py-1 max-md:[&_select]:w-full max-md:[&>th]:col-span-2">
      <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
        {name}
      </th>
      <td className="py-1.5 pr-3">
        <select
          aria-label={`What ${name} sees`}
          value={draft.sees}
          className={field}
          onChange={(event) => {
            const sees = SEES.find((each) => each === event.target.value) ?? 'busy'
            change({
              sees,
              ...(sees === 'everything' ? {} : { does: 'look' as const, seesPrivate: false }),
            })
          }}
        >
          {SEES.map((each) => (
            <option key={each} value={each}>
              {SEES_WORDS[each]}
            </option>
          ))}
        </select>
      </td>
      <td className="py-1.5 pr-3">
        <select
          aria-label={`What ${name} may do`}
          value={draft.does}
          className={field}
          onChange={(event) => {
            const does = DOES.find((each) => each === event.target.value) ?? 'look'
            // Whoever may change has to see everything of it.
            change({
              does,
              ...(does === 'look' ? {} : { sees: 'everything' as const }),
              ...(does === 'stand-in' ? {} : { seesPrivate: false }),
            })
          }}
        >
          {DOES.filter((each) => each !== 'stand-in' || receiver.to === 'person').map((each) => (
            <option key={each} value={each}>
              {DOES_WORDS[each]}
            </option>
          ))}
        </select>
        {draft.does === 'stand-in' && (
          <label className="mt-1 flex items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              checked={draft.seesPrivate}
              onChange={(event) => change({ seesPrivate: event.target.checked })}
            />
            private entries, too
          </label>
        )}
      </td>
      <td className="py-1.5 pr-3">
        <input
          aria-label={`Until when for ${name}`}
          aria-invalid={unclear || undefined}
          placeholder="for good"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className={`${field} w-28 ${unclear ? 'border-coral' : ''}`}
        />
      </td>
      <td className="whitespace-nowrap py-1.5 text-right">
        {differs || fresh ? (
          <>
            <Button tone="primary" disabled={unclear} onClick={() => onKeep(wanted)}>
              {fresh ? `Share with ${name}` : 'Save'}
            </Button>
            <Button
              className="ml-2"
              onClick={() => {
                if (fresh) onDrop?.()
                setDraft(grant)
                setText(wordsOf(grant.until))
              }}
            >
              Leave it
            </Button>
          </>
        ) : (
          <>
            <button
              type="button"
              className="min-h-8 text-sm underline underline-offset-2 max-md:min-h-thumb"
              onClick={onPreview}
            >
              See it as they do
            </button>
            {onDrop && (
              <Button
                tone="quiet"
                className="ml-2"
                aria-label={`Nothing special for ${name}`}
                onClick={onDrop}
              >
                Remove
              </Button>
            )}
          </>
        )}
      </td>
    </tr>
  )
}

const USUAL: Draft = { sees: 'busy', does: 'look', seesPrivate: false, until: null }

/** What was done for me, and what I did for others. */
const Acts = () => {
  const { zone, person } = useMe()
  const changes = useChanges()
  if (!changes.data) return null
  return (
    <section aria-labelledby="acts">
      <h2 id="acts" className="mb-1 font-semibold text-lg">
        What stand-ins did
      </h2>
      {changes.data.changes.length === 0 && (
        <Empty>No stand-in has done anything for you, nor you for anybody.</Empty>
      )}
      <ul>
        {changes.data.changes.map((one) => (
          <li key={one.id} className="border-line/60 border-b py-1">
            <b className="font-semibold">
              {one.actor === person.name ? 'You' : one.actor} for{' '}
              {one.owner === person.name ? 'you' : one.owner}
            </b>
            : {one.kind} {one.title || 'an entry'}
            <span className="text-soft">
              {' '}
              {shortTime(Date.parse(one.at), zone)}
              {one.undone && ', taken back since'}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** Who can see and do what of mine, and who shares with me: one page. */
export const SharingPart = () => {
  const { zone, person } = useMe()
  const say = useUndo()
  const input = useRef<HTMLInputElement>(null)
  const sharing = useSharing()
  const [shown, setShown] = useState<Receiver | null>(null)
  const [adding, setAdding] = useState<readonly Receiver[]>([])
  const add = (more: readonly Receiver[]) =>
    setAdding((before) => [...before, ...more.filter((one) => !before.some((each) => each.id === one.id))])
  const addNoMore = (one: Receiver) => setAdding((before) => before.filter((each) => each.id !== one.id))
  const { trouble, attempt, refresh } = useAttempt()
  const keep = (receiver: Receiver, draft: Draft) =>
    attempt(async () => {
      const { to, id } = receiver
      const body = {
        to,
        id,
        sees: draft.sees,
        does: draft.does,
        seesPrivate: draft.seesPrivate,
        until: draft.until,
      }
      const { before, grantId, told } = await call(putSharing, { body })
      say({
        words: `${nameOf(receiver)}: ${SEES_WORDS[draft.sees]}, ${DOES_WORDS[draft.does]}${told ? '. They are told.' : ''}`,
        undo: async () => {
          if (before) await call(putSharing, { body: { to, id, ...before } })
          else await call(deleteSharing, { params: { grantId } })
          await refresh()
        },
      })
    })
  const drop = (grant: GrantOnWire) =>
    attempt(async () => {
      await call(deleteSharing, { params: { grantId: grant.grantId } })
      say({
        words: `Nothing special for ${nameOf(grant)} any more`,
        undo: async () => {
          const { to, id, sees, does, seesPrivate, until } = grant
          await call(putSharing, { body: { to, id, sees, does, seesPrivate, until } })
          await refresh()
        },
      })
    })
  if (sharing.isError)
    return (
      <Trouble action={<Button onClick={() => sharing.refetch()}>Try again</Button>}>
        {problemWords(sharing.error)}
      </Trouble>
    )
  if (!sharing.data) return <Loading what="what you share" />
  const { mine, toMe, teams } = sharing.data
  const everybody = mine.find((grant) => grant.to === 'organisation')
  const others = mine.filter((grant) => grant.to !== 'organisation')
  const all: Receiver = { to: 'organisation', id: null, name: '' }
  const taken = new Set([...mine, ...adding].flatMap((one) => one.id ?? []))
  return (
    <div className="flex flex-col gap-6">
      <section aria-labelledby="mine">
        <h2 id="mine" className="mb-1 font-semibold text-lg">
          What others see of my time
        </h2>
        <p className="mb-2 text-soft">
          What you say of one person counts before what you say of their team, and that before everybody. What
          nobody may read is a busy time to all but a stand-in whom you allow it.
        </p>
        <div className="overflow-x-auto">
          <table className="w-full max-md:block max-md:[&>tbody]:block">
            <thead className="max-md:hidden">
              <tr className="border-line border-b text-left text-soft text-sm">
                <th className="py-1 font-normal">Who</th>
                <th className="py-1 font-normal">sees</th>
                <th className="py-1 font-normal">may</th>
                <th className="py-1 font-normal">until</th>
                <th />
              </tr>
            </thead>
            <tbody>
              <GrantRow
                key={`everybody ${JSON.stringify(everybody)}`}
                receiver={all}
                grant={everybody ?? USUAL}
                onKeep={(draft) => keep(all, draft)}
                onDrop={everybody ? () => drop(everybody) : null}
                onPreview={() => setShown(all)}
              />
              {others.map((grant) => (
                <GrantRow
                  key={JSON.stringify(grant)}
                  receiver={grant}
                  grant={grant}
                  onKeep={(draft) => keep(grant, draft)}
                  onDrop={() => drop(grant)}
                  onPreview={() => setShown(grant)}
                />
              ))}
              {adding.map((receiver) => (
                <GrantRow
                  key={`fresh ${receiver.id}`}
                  fresh
                  receiver={receiver}
                  grant={{ ...USUAL, sees: 'headlines' }}
                  onKeep={async (draft) => {
                    await keep(receiver, draft)
                    addNoMore(receiver)
                  }}
                  onDrop={() => addNoMore(receiver)}
                  onPreview={() => setShown(receiver)}
                />
              ))}
            </tbody>
          </table>
        </div>
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <div className="w-72">
            <PeopleSearch
              inputRef={input}
              taken={new Set([...taken, person.id])}
              onPeople={(people) =>
                add(
                  people
                    .filter((one) => !taken.has(one.id))
                    .map((one) => ({ to: 'person', id: one.id, name: one.name })),
                )
              }
            />
          </div>
          <select
            aria-label="Add a team"
            value=""
            className="rounded-md border border-soft/50 bg-paper px-2 py-1"
            onChange={(event) => {
              const team = teams.find((each) => each.id === event.target.value)
              if (team) add([{ to: 'team', ...team }])
            }}
          >
            <option value="">Add a team</option>
            {teams
              .filter((team) => !taken.has(team.id))
              .map((team) => (
                <option key={team.id} value={team.id}>
                  {team.name}
                </option>
              ))}
          </select>
        </div>
        {trouble && (
          <div className="mt-2">
            <Trouble>{trouble}</Trouble>
          </div>
        )}
      </section>
      <section aria-labelledby="to-me">
        <h2 id="to-me" className="mb-1 font-semibold text-lg">
          Shared with me, more than usual
        </h2>
        {toMe.length === 0 && <Empty>Nobody shares more with you than with everybody.</Empty>}
        <ul>
          {toMe.map((one) => (
            <li key={one.ownerId} className="border-line/60 border-b py-1">
              <b className="font-semibold">{one.owner}</b>: {SEES_WORDS[one.sees]}
              {one.does !== 'look' && (
                <>
                  , and you may {DOES_WORDS[one.does].replace('my ', 'their ')}{' '}
                  <a className="text-gentian underline" href={`/time?of=${one.ownerId}`}>
                    Go to their time
                  </a>
                </>
              )}
              {one.until && (
                <span className="text-soft">
                  {' '}
                  until {shortDay(dayOf(toWall(zone, Date.parse(one.until) - 1)))}
                </span>
              )}
            </li>
          ))}
        </ul>
      </section>
      <Acts />
      {shown && <AsTheySee receiver={shown} onClose={() => setShown(null)} />}
    </div>
  )
}
