import { undoChange } from '@marmot/contract/entries'
import { type ImportPreview, importProgress, previewImport } from '@marmot/contract/feeds'
import { shortTime } from '@marmot/core/time'
import { useRef, useState } from 'react'
import { call, upload } from '../platform/api.ts'
import { useMyTimeChanged } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { useUndo } from '../platform/undo.tsx'
import { Button, counted, Trouble } from '../ui/parts.tsx'

/** How many entries an import makes, changes and takes off. */
const doneBy = (plan: ImportPreview): number =>
  plan.made + plan.changed + plan.removed + plan.todos.made + plan.todos.changed

/** What a file brings of to-dos, in words; nothing where it has none. */
const todoWords = ({ todos }: ImportPreview): string =>
  todos.made + todos.changed === 0
    ? ''
    : `, ${counted(todos.made, 'new to-do', 'new to-dos')}${todos.changed ? ` and ${todos.changed} changed` : ''}`

const CHANGE_WORDS = { made: 'new', changed: 'changed', removed: 'cancelled' } as const

/** Reads an import's progress line by line. Throws the trouble in words. */
const follow = async (
  importId: string,
  signal: AbortSignal,
  onProgress: (done: number, of: number) => void,
) => {
  const response = await fetch(`/api/imports/${importId}/take`, { method: 'POST', signal })
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  let changeId: string | undefined
  let ended = false
  for (;;) {
    const part = await reader?.read()
    if (!part || part.done) break
    const lines = `${rest}${part.value}`.split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) {
      const read = importProgress.safeParse(JSON.parse(line))
      if (!read.success) continue
      if (read.data.trouble) throw new Error(read.data.trouble)
      changeId = read.data.changeId ?? changeId
      ended = read.data.done === read.data.of
      onProgress(read.data.done, read.data.of)
    }
  }
  if (!response.ok || !ended) throw new Error('The import broke off. Nothing was imported; try again.')
  return changeId
}

/** Brings entries in from an iCalendar file, and takes mine out as one. */
export const InAndOut = () => {
  const { zone, person } = useMe()
  const refresh = useMyTimeChanged(person.id)
  const say = useUndo()
  const input = useRef<HTMLInputElement>(null)
  const stop = useRef<AbortController | null>(null)
  const [name, setName] = useState('')
  const [preview, setPreview] = useState<ImportPreview | null>(null)
  const [progress, setProgress] = useState<{ done: number; of: number } | null>(null)
  const [looking, setLooking] = useState(false)
  const [trouble, setTrouble] = useState('')
  const look = async (file: File) => {
    setName(file.name)
    setTrouble('')
    setPreview(null)
    setLooking(true)
    try {
      setPreview(previewImport.answer.parse(await upload(previewImport.path, file)))
    } catch (error) {
      setTrouble(problemWords(error))
    }
    setLooking(false)
  }
  const take = async (plan: ImportPreview) => {
    const control = new AbortController()
    stop.current = control
    setProgress({ done: 0, of: doneBy(plan) })
    try {
      const changeId = await follow(plan.importId, control.signal, (done, of) => setProgress({ done, of }))
      if (changeId)
        say({
          words: `Imported ${counted(plan.made, 'new entry', 'new entries')}, ${plan.changed} changed${plan.removed ? `, ${plan.removed} removed` : ''}${todoWords(plan)}`,
          undo: async () => {
            await call(undoChange, { params: { changeId } })
            await refresh()
          },
        })
      setPreview(null)
      await refresh()
    } catch (error) {
      setTrouble(
        control.signal.aborted
          ? 'You stopped it. Nothing was imported.'
          : error instanceof Error
            ? error.message
            : problemWords(error),
      )
    }
    setProgress(null)
  }
  return (
    <div className="grid gap-6 lg:grid-cols-2">
      <section aria-labelledby="in" className="flex flex-col gap-2">
        <h2 id="in" className="font-semibold text-lg">
          Import
        </h2>
        <p className="text-soft">
          An iCalendar file (.ics). You see first what it would do; the same file twice changes nothing.
        </p>
        <div>
          <Button onClick={() => input.current?.click()} disabled={looking || progress !== null}>
            {looking ? `Looking at ${name}…` : 'Choose a file'}
          </Button>
          <input
            ref={input}
            type="file"
            hidden
            accept=".ics,text/calendar"
            aria-label="iCalendar file"
            onChange={(event) => {
              const [file] = event.target.files ?? []
              event.target.value = ''
              if (file) look(file)
            }}
          />
        </div>
        {trouble && <Trouble>{trouble}</Trouble>}
        {preview && (
          <div role="status" className="flex flex-col gap-2 rounded-lg bg-paper p-4">
            <p>
              <b className="font-semibold">{name}</b>: {counted(preview.made, 'new entry', 'new entries')},{' '}
              {preview.changed} changed{preview.removed > 0 && `, ${preview.removed} cancelled`}
              {todoWords(preview)}, {preview.same} as they are here already, {preview.refusedCount} refused.
            </p>
            <ul className="text-sm">
              {preview.samples.map((one) => (
                <li key={`${one.title}${one.start}`}>
                  {CHANGE_WORDS[one.change]}: <b className="font-semibold">{one.title || '(no title)'}</b>{' '}
                  <span className="text-soft">{shortTime(Date.parse(one.start), zone)}</span>
                </li>
              ))}
            </ul>
            {preview.refused.length > 0 && (
              <details className="text-sm" open={preview.refused.length < 8}>
                <summary className="cursor-pointer text-coral">⚠ Refused, with the line and why</summary>
                <ul className="mt-1 max-h-52 overflow-y-auto">
                  {preview.refused.map((one) => (
                    <li key={`${one.line}${one.reason}`}>
                      {one.line > 0 && `line ${one.line}: `}
                      {one.title && <b className="font-semibold">{one.title}: </b>}
                      {one.reason}
                    </li>
                  ))}
                </ul>
              </details>
            )}
            {progress ? (
              <div className="flex items-center gap-3">
                <progress className="flex-1" max={Math.max(1, progress.of)} value={progress.done} />
                <span className="text-sm">
                  {progress.done} of {progress.of}
                </span>
                <Button onClick={() => stop.current?.abort()}>Stop</Button>
              </div>
            ) : (
              <div className="flex gap-2">
                <Button onClick={() => setPreview(null)}>Leave it</Button>
                <Button tone="primary" disabled={doneBy(preview) === 0} onClick={() => take(preview)}>
                  {doneBy(preview) === 0
                    ? 'Nothing to import'
                    : `Import ${counted(doneBy(preview), 'entry', 'entries')}`}
                </Button>
              </div>
            )}
          </div>
        )}
      </section>
      <section aria-labelledby="out" className="flex flex-col gap-2">
        <h2 id="out" className="font-semibold text-lg">
          Take out
        </h2>
        <p className="text-soft">
          All entries of your own and the meetings you are invited to, with their repetitions, exceptions and
          reminders, as an iCalendar file.
        </p>
        <div>
          <a
            href="/api/export"
            download="marmot.ics"
            className="inline-flex min-h-8 items-center rounded-md border border-soft/50 bg-paper px-3 py-1 hover:bg-shade max-md:min-h-thumb"
          >
            Export my calendar
          </a>
        </div>
      </section>
    </div>
  )
}
