import { lookAtPlaces, type PlacesLooked, takePlaces } from '@marmot/contract/place-list'
import { PLACE_COLUMNS } from '@marmot/core/reservations'
import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { upload } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, counted, Trouble } from '../ui/parts.tsx'

const DOES = { made: 'new', changed: 'changed', same: 'as it is', refused: 'wrong' } as const
const MOST_SHOWN = 200

/** What there is to say about a list that was looked at, the trouble first. */
const Lines = ({ lines }: { lines: PlacesLooked['lines'] }) => {
  const shown = ['refused', 'made', 'changed']
    .flatMap((does) => lines.filter((line) => line.does === does))
    .slice(0, MOST_SHOWN)
  return (
    <ul className="text-sm">
      {shown.map((line) => (
        <li key={line.line} className="border-line border-t py-1">
          <span className="text-soft">Line {line.line}: </span>
          <b className="font-semibold">{line.name || '(no name)'}</b>{' '}
          <span className={line.does === 'refused' ? 'text-coral' : 'text-soft'}>
            {line.does === 'refused' ? '⚠ ' : `${DOES[line.does]}${line.words ? ': ' : ''}`}
            {line.words}
          </span>
        </li>
      ))}
    </ul>
  )
}

/** Brings a list of places in: what it would do is seen first, and all of it is taken, or nothing. */
export const PlaceImport = ({ onClose }: { onClose: () => void }) => {
  const queries = useQueryClient()
  const input = useRef<HTMLInputElement>(null)
  const [file, setFile] = useState<File | null>(null)
  const [looked, setLooked] = useState<PlacesLooked | null>(null)
  const { busy, trouble, attempt } = useAttempt()
  const act = async (work: () => Promise<unknown>) => {
    if (!(await attempt(work))) setLooked(null)
  }
  const look = (chosen: File) =>
    act(async () => {
      setFile(chosen)
      setLooked(null)
      setLooked(lookAtPlaces.answer.parse(await upload(lookAtPlaces.path, chosen)))
    })
  const take = (plan: string) =>
    act(async () => {
      if (!file) return
      const { made, changed } = takePlaces.answer.parse(await upload(`${takePlaces.path}?plan=${plan}`, file))
      toast(`${counted(made, 'place', 'places')} added, ${changed} changed.`)
      void queries.invalidateQueries()
      onClose()
    })
  const count = (does: PlacesLooked['lines'][number]['does']) =>
    looked?.lines.filter((line) => line.does === does).length ?? 0
  const [made, changed, wrong] = [count('made'), count('changed'), count('refused')]
  return (
    <Beside
      title="Places from a list"
      onClose={onClose}
      foot={
        looked && (
          <div className="flex justify-end">
            <Button
              tone="primary"
              disabled={busy || wrong > 0 || made + changed === 0}
              onClick={() => take(looked.plan)}
            >
              {busy
                ? 'Taking…'
                : wrong > 0
                  ? `Mend ${counted(wrong, 'line', 'lines')} first`
                  : made + changed === 0
                    ? 'Nothing to change'
                    : `Add ${made}, change ${changed}`}
            </Button>
          </div>
        )
      }
    >
      <div className="flex flex-col gap-3">
        <p>
          A CSV file whose first line names its columns: {PLACE_COLUMNS.join(', ')}. The first three have to
          be there. A place that there is already is known by its name; what has no column stays as it is.
        </p>
        <div>
          <Button data-first disabled={busy} onClick={() => input.current?.click()}>
            {busy && !looked ? `Looking at ${file?.name}…` : file ? 'Choose another file' : 'Choose a file'}
          </Button>
          <input
            ref={input}
            type="file"
            hidden
            accept=".csv,.txt,text/csv"
            aria-label="List of places"
            onChange={(event) => {
              const [chosen] = event.target.files ?? []
              event.target.value = ''
              if (chosen) look(chosen)
            }}
          />
        </div>
        {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
        {looked && (
          <div role="status">
            <p>
              <b className="font-semibold">{file?.name}</b>: {made} new, {changed} changed, {count('same')} as
              they are, <span className={wrong > 0 ? 'font-semibold text-coral' : ''}>{wrong} wrong</span>.
            </p>
            <Lines lines={looked.lines} />
          </div>
        )}
      </div>
    </Beside>
  )
}
