import { clocksInWords, dayOf, shortDay, shortTime, toWall } from '@marmot/core/time'
import { X } from 'lucide-react'
import { problemWords } from '../platform/problem.ts'
import { Beside } from '../ui/beside.tsx'
import { namesInWords } from '../ui/names.ts'
import { Button, Choice, counted, Field, Trouble } from '../ui/parts.tsx'
import { AskHow, Narrow } from './ask-how.tsx'
import { useBrief } from './brief.tsx'
import type { Arranging } from './use-arranging.ts'
import { type Asking, useAsking } from './use-asking.ts'
import { listed } from './words.ts'

/** The times that are asked about, each by its number on the lanes; more of them, and others instead. */
const Times = ({ arranging, asking }: { arranging: Arranging; asking: Asking }) => {
  const { brief, change } = useBrief()
  const { asks } = brief
  const { zone, chosen } = arranging
  const { candidates, addable, add, narrowing, narrow } = asking
  return (
    <section aria-label="The times" className="flex flex-col gap-1">
      {asks.length === 0 ? (
        <p className="text-soft">
          {arranging.settled
            ? 'No times yet. Press the hours that could do, and add them.'
            : 'Looking for times…'}
        </p>
      ) : (
        <ol className="flex flex-col">
          {candidates.map((one, i) => (
            <li key={one.start} className="flex items-start gap-2 border-line border-t py-1 first:border-t-0">
              <button
                type="button"
                className={`flex min-w-0 flex-1 flex-col rounded px-1 text-left hover:bg-shade ${chosen?.start === one.start ? 'bg-gentian/12' : ''}`}
                onClick={() => change({ start: one.start })}
              >
                <span className="whitespace-nowrap">
                  <span className="mr-1.5 inline-grid min-w-5 place-items-center rounded bg-gentian px-1 text-[12px] text-gentian-ink">
                    {i + 1}
                  </span>
                  <b className="font-semibold">{shortDay(dayOf(toWall(zone, one.start)))}</b>{' '}
                  {clocksInWords(one.start, one.end, zone)}
                  {one.places.length > 0 && (
                    <span className="text-soft"> {namesInWords(one.places.map((place) => place.name))}</span>
                  )}
                </span>
                {(one.words.length > 0 || one.lost.length > 0) && (
                  <span
                    className={`text-[12.5px] ${one.blocked || one.lost.length ? 'text-coral' : 'text-soft'}`}
                  >
                    {one.blocked || one.lost.length ? '⚠ ' : ''}
                    {[
                      ...one.words.slice(0, 3),
                      ...(one.lost.length ? [`${namesInWords(one.lost)} cannot be had`] : []),
                    ].join(', ')}
                  </span>
                )}
              </button>
              <button
                type="button"
                aria-label={`Do not ask about ${shortTime(one.start, zone)}`}
                className="grid size-8 shrink-0 place-items-center rounded hover:bg-shade max-md:size-thumb"
                onClick={() => change({ asks: asks.filter((start) => start !== one.start) })}
              >
                <X size={15} aria-hidden />
              </button>
            </li>
          ))}
        </ol>
      )}
      <Button className="self-start" disabled={!addable} onClick={() => addable && add(addable.start)}>
        {addable ? `Add ${shortTime(addable.start, zone)}` : 'Press other hours, or a card, to add another'}
      </Button>
      <Narrow narrowing={narrowing} onChange={narrow} />
    </section>
  )
}

/**
 * Several people are asked which of some times suit them: the times, found by the search or chosen on the lanes, which stay live
 * beside it; until when; how. From here it is sent.
 */
export const AskSheet = ({ arranging, onClose }: { arranging: Arranging; onClose: () => void }) => {
  const { brief, change } = useBrief()
  const asking = useAsking(arranging, onClose)
  const { settings, setSettings, deadline, invited, missing, busy, trouble, ask } = asking
  const { asks } = brief
  return (
    <Beside
      title="Ask which times suit"
      onClose={onClose}
      foot={
        <div className="flex flex-col items-end gap-1.5">
          {missing.length > 0 && <span className="text-soft text-sm">Still missing: {listed(missing)}</span>}
          <Button
            tone="primary"
            disabled={busy || missing.length > 0}
            onClick={ask}
            className="max-md:min-h-thumb"
          >
            {busy
              ? 'Asking…'
              : `Ask ${counted(invited.length, 'person', 'people')} about ${counted(asks.length, 'time', 'times')}`}
          </Button>
        </div>
      }
    >
      <div className="flex flex-col gap-3">
        {!brief.title.trim() && (
          <Field label="What is it about?">
            {(props) => (
              <input
                {...props}
                maxLength={200}
                defaultValue={brief.title}
                onBlur={(event) => change({ title: event.target.value })}
              />
            )}
          </Field>
        )}
        <Times arranging={arranging} asking={asking} />
        {deadline.options.length > 0 && (
          <Field label="They can answer until">
            {(props) => (
              <select
                {...props}
                value={deadline.days ?? ''}
                onChange={(event) => deadline.setDays(Number(event.target.value))}
              >
                {deadline.options.map((one) => (
                  <option key={one.days} value={one.days}>
                    {one.words}
                  </option>
                ))}
              </select>
            )}
          </Field>
        )}
        <Field label="How many have to come">
          {(props) => (
            <select
              {...props}
              value={settings.needed ?? ''}
              onChange={(event) =>
                setSettings({ ...settings, needed: event.target.value ? Number(event.target.value) : null })
              }
            >
              <option value="">all who are required</option>
              {invited.map((one, i) => (
                <option key={one.id} value={i + 1}>
                  those, and {i + 1} in all
                </option>
              ))}
            </select>
          )}
        </Field>
        <div>
          <Choice checked={settings.holds} onChoose={(holds) => setSettings({ ...settings, holds })}>
            Keep these times free for me until it is decided
          </Choice>
          {!asking.wantsPlaces && (
            <Choice checked={asking.withRoom} onChoose={asking.setWithRoom}>
              With a room that seats all, at each time
            </Choice>
          )}
        </div>
        {asking.whose}
        <Field label="Words to everybody (optional)">
          {(props) => (
            <textarea
              {...props}
              rows={2}
              maxLength={10_000}
              value={brief.note}
              onChange={(event) => change({ note: event.target.value })}
            />
          )}
        </Field>
        <AskHow
          settings={settings}
          anyone={asking.anyone}
          onChange={setSettings}
          onAnyone={asking.setAnyone}
        />
        {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      </div>
    </Beside>
  )
}
