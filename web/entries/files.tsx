import {
  type Attachment,
  deleteAttachment,
  MOST_FILE_BYTES,
  restoreAttachment,
} from '@marmot/contract/entries'
import { Paperclip, X } from 'lucide-react'
import { useState } from 'react'
import { call, upload } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useUndo } from '../platform/undo.tsx'
import { Trouble } from '../ui/parts.tsx'
import { usePickFiles } from '../ui/pick-files.tsx'

/** So many bytes, in words. */
export const sizeInWords = (bytes: number): string =>
  bytes < 1024
    ? `${bytes} B`
    : bytes < 1024 * 1024
      ? `${Math.round(bytes / 1024)} kB`
      : `${(bytes / 1048576).toFixed(1)} MB`

const tooLarge = (file: File): string[] =>
  file.size > MOST_FILE_BYTES ? [`${file.name} is larger than 10 MB. It was not attached.`] : []

/** Sends files to an entry, one after the other; gives what could not be attached, in words. */
export const attachFiles = async (entryId: string, files: readonly File[]): Promise<string[]> => {
  const troubles: string[] = []
  for (const file of files) {
    const large = tooLarge(file)
    troubles.push(...large)
    if (large.length) continue
    try {
      await upload(`/api/entries/${entryId}/attachments?name=${encodeURIComponent(file.name)}`, file)
    } catch (error) {
      troubles.push(problemWords(error))
    }
  }
  return troubles
}

/** An entry's files. Of one that is not made yet they wait, and are attached when it is. */
export const Files = ({
  entryId,
  attached,
  waiting,
  locked,
  onWaiting,
  onChanged,
}: {
  entryId: string | null
  attached: readonly Attachment[]
  waiting: readonly File[]
  locked: boolean
  onWaiting: (files: readonly File[]) => void
  onChanged: () => void
}) => {
  const say = useUndo()
  const [busy, setBusy] = useState(false)
  const [troubles, setTroubles] = useState<readonly string[]>([])
  const add = async (files: readonly File[]) => {
    if (!entryId) {
      setTroubles(files.flatMap(tooLarge))
      onWaiting([...waiting, ...files.filter((file) => tooLarge(file).length === 0)])
      return
    }
    setBusy(true)
    setTroubles(await attachFiles(entryId, files))
    setBusy(false)
    onChanged()
  }
  const remove = async (file: Attachment) => {
    const params = { attachmentId: file.id }
    try {
      await call(deleteAttachment, { params })
      say({
        words: `Taken off: ${file.name}`,
        undo: async () => {
          await call(restoreAttachment, { params })
          onChanged()
        },
      })
      onChanged()
    } catch (error) {
      setTroubles([problemWords(error)])
    }
  }
  const files = usePickFiles({ label: 'Attach files', onPick: add })
  if (locked && attached.length === 0) return null
  return (
    <div className="flex flex-col gap-1">
      <span className="text-soft text-sm">Files</span>
      {attached.map((file) => (
        <div key={file.id} className="flex items-center gap-2 text-sm">
          <Paperclip size={14} className="shrink-0 text-soft" aria-hidden />
          <a className="min-w-0 truncate underline" href={`/api/attachments/${file.id}`} download>
            {file.name}
          </a>
          <span className="text-soft">{sizeInWords(file.size)}</span>
          {!locked && (
            <button
              type="button"
              aria-label={`Take ${file.name} off`}
              className="grid size-[25px] place-items-center"
              onClick={() => remove(file)}
            >
              <X size={14} aria-hidden />
            </button>
          )}
        </div>
      ))}
      {waiting.map((file, i) => (
        <div key={`${file.name}${file.lastModified}`} className="flex items-center gap-2 text-sm">
          <Paperclip size={14} className="shrink-0 text-soft" aria-hidden />
          <span className="min-w-0 truncate">{file.name}</span>
          <span className="text-soft">{sizeInWords(file.size)}, is attached when you keep this</span>
          <button
            type="button"
            aria-label={`Not ${file.name}`}
            onClick={() => onWaiting(waiting.filter((_, j) => j !== i))}
          >
            <X size={14} aria-hidden />
          </button>
        </div>
      ))}
      {!locked && (
        <button
          type="button"
          disabled={busy}
          onClick={files.pick}
          className="w-fit text-gentian text-sm underline"
        >
          {busy ? 'Attaching…' : 'Attach a file (10 MB each)'}
        </button>
      )}
      {files.field}
      {troubles.map((words) => (
        <Trouble key={words}>{words}</Trouble>
      ))}
    </div>
  )
}
