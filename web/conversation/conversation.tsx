import type { MeetingFile, Message, Conversation as Talk } from '@marmot/contract/conversation'
import { deleteAttachment, restoreAttachment } from '@marmot/contract/entries'
import { meantIn } from '@marmot/core/conversation'
import { clockText, dayOf, minuteOf, shortDay, toWall, wallFromText, type ZoneTable } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Paperclip, X } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { sizeInWords } from '../entries/files.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { Button, Empty, flowerOf, Loading, Trouble } from '../ui/parts.tsx'
import { Composer } from './composer.tsx'
import type { Way } from './ways.ts'

/** What was said about a meeting, asked anew whenever somebody says something. */
export const useConversation = (way: Way | null) =>
  useQuery({
    queryKey: way?.key ?? ['conversation'],
    queryFn: () => way?.read() ?? Promise.reject(new Error('nothing is asked for')),
    enabled: way !== null,
    meta: { heeds: way?.heeds ?? [] },
  })

const attempt = async (work: () => Promise<unknown>): Promise<void> => {
  try {
    await work()
  } catch (error) {
    toast.error(problemWords(error))
  }
}

const File = ({ file, way }: { file: MeetingFile; way: Way }) => (
  <a
    className="inline-flex min-w-0 items-center gap-1.5 underline underline-offset-2"
    href={way.fileAddress(file.id)}
    download
  >
    <Paperclip size={14} className="shrink-0 text-soft" aria-hidden />
    <span className="truncate">{file.name}</span>
  </a>
)

const Files = ({
  files,
  way,
  onChanged,
}: {
  files: readonly MeetingFile[]
  way: Way
  onChanged: () => unknown
}) => {
  if (files.length === 0) return null
  const remove = (file: MeetingFile) =>
    attempt(async () => {
      const params = { attachmentId: file.id }
      await call(deleteAttachment, { params })
      onChanged()
      toast(`Taken off: ${file.name}`, {
        action: {
          label: 'Undo',
          onClick: () =>
            attempt(async () => {
              await call(restoreAttachment, { params })
              onChanged()
            }),
        },
      })
    })
  return (
    <section aria-label="Files" className="flex flex-col gap-0.5">
      <h3 className="font-semibold">Files</h3>
      <ul>
        {files.map((file) => (
          <li key={file.id} className="flex min-h-8 items-center gap-2 text-sm max-md:min-h-thumb">
            <File file={file} way={way} />
            <span className="whitespace-nowrap text-soft">{sizeInWords(file.size)}</span>
            <span className="min-w-0 flex-1 truncate text-right text-soft">{file.who}</span>
            {file.mayRemove && way.restore && (
              <button
                type="button"
                aria-label={`Take ${file.name} off`}
                className="grid size-7 shrink-0 place-items-center max-md:size-thumb"
                onClick={() => remove(file)}
              >
                <X size={14} aria-hidden />
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

const dateWords = (recurrence: string | null): string => {
  const wall = recurrence === null ? null : wallFromText(recurrence)
  return wall === null ? '' : `about ${shortDay(dayOf(wall))}`
}

/** Something that was said: who and when, the words, and its files. */
const Said = ({
  message,
  files,
  names,
  zone,
  way,
  onChanged,
}: {
  message: Message
  files: readonly MeetingFile[]
  names: readonly string[]
  zone: ZoneTable
  way: Way
  onChanged: () => unknown
}) => {
  const remove = () =>
    attempt(async () => {
      await way.remove(message.id)
      onChanged()
      const { restore } = way
      toast('Message deleted', {
        ...(restore
          ? {
              action: {
                label: 'Undo',
                onClick: () => attempt(() => restore(message.id).then(onChanged)),
              },
            }
          : {}),
      })
    })
  return (
    <li className="group border-l-[3px] py-1 pl-2.5" style={{ borderColor: flowerOf(message.who) }}>
      <p className="flex items-baseline gap-2 text-sm">
        <b className="font-semibold">{message.mine ? 'You' : message.who}</b>
        <span className="text-soft tabular-nums">
          {clockText(minuteOf(toWall(zone, Date.parse(message.at))))}
        </span>
        <span className="text-soft">{dateWords(message.recurrence)}</span>
        {message.mine && (
          <button
            type="button"
            className="ml-auto text-soft underline underline-offset-2 opacity-0 focus:opacity-100 group-hover:opacity-100 max-md:opacity-100"
            onClick={remove}
          >
            delete
          </button>
        )}
      </p>
      {message.text && (
        <p className="whitespace-pre-wrap break-words">
          {meantIn(message.text, names).map((part) =>
            part.meant ? (
              <b key={part.at} className="font-semibold text-gentian">
                {part.words}
              </b>
            ) : (
              part.words
            ),
          )}
        </p>
      )}
      {files.map((file) => (
        <div key={file.id} className="text-sm">
          <File file={file} way={way} />
        </div>
      ))}
    </li>
  )
}

const dayIn = (zone: ZoneTable, message: Message): string =>
  shortDay(dayOf(toWall(zone, Date.parse(message.at))))

/** Whoever is so near the end of what was said reads what comes. In pixels. */
const NEAR_END = 40

/** The conversation about a meeting, for those who take part: what was said, its files, and where one says something. */
export const Conversation = ({ way, zone }: { way: Way; zone: ZoneTable }) => {
  const queries = useQueryClient()
  const talk = useConversation(way)
  const [older, setOlder] = useState<readonly Message[]>([])
  const [fetching, setFetching] = useState(false)
  const list = useRef<HTMLDivElement>(null)
  // Whoever reads what was said earlier is left there.
  const atEnd = useRef(true)
  const newest = talk.data?.messages.at(-1)
  const unread = talk.data?.unread ?? 0
  const refresh = () => queries.invalidateQueries({ queryKey: way.key })
  // What is shown has been read.
  const { seen } = way
  useEffect(() => {
    if (unread > 0 && document.visibilityState === 'visible') seen().catch(() => undefined)
  }, [unread, seen])
  useEffect(() => {
    // The list alone: the page around it stays where it is.
    if (list.current && newest && (atEnd.current || newest.mine))
      list.current.scrollTop = list.current.scrollHeight
  }, [newest])
  if (talk.isPending) return <Loading what="the conversation" />
  if (talk.isError && !talk.data)
    return (
      <Trouble action={<Button onClick={() => talk.refetch()}>Try again</Button>}>
        {problemWords(talk.error)}
      </Trouble>
    )
  const data: Talk = talk.data
  const shown = [...older, ...data.messages]
  const fetchOlder = async () => {
    setFetching(true)
    await attempt(async () => {
      const before = await way.read(shown[0]?.at)
      setOlder((already) => [...before.messages, ...already])
    })
    setFetching(false)
  }
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3">
      <Files files={data.files} way={way} onChanged={refresh} />
      <section aria-label="Conversation" className="flex min-h-0 flex-1 flex-col gap-2">
        <h3 className="font-semibold">Conversation</h3>
        <div
          ref={list}
          className="min-h-0 flex-1 overflow-y-auto"
          aria-live="polite"
          onScroll={({ currentTarget: { scrollHeight, scrollTop, clientHeight } }) => {
            atEnd.current = scrollHeight - scrollTop - clientHeight < NEAR_END
          }}
        >
          {data.more && older.length === 0 && (
            <Button disabled={fetching} onClick={fetchOlder} className="mb-2">
              {fetching ? 'Fetching…' : 'Show older ones'}
            </Button>
          )}
          {shown.length === 0 && (
            <Empty>
              No messages yet. Everybody in this meeting can read what you write here, guests too.
            </Empty>
          )}
          <ul className="flex flex-col gap-1.5">
            {shown.flatMap((message, i) => {
              const day = dayIn(zone, message)
              const before = shown[i - 1]
              const said = (
                <Said
                  key={message.id}
                  message={message}
                  files={data.files.filter((file) => message.files.includes(file.id))}
                  names={data.names}
                  zone={zone}
                  way={way}
                  onChanged={refresh}
                />
              )
              return before && dayIn(zone, before) === day
                ? [said]
                : [
                    <li key={`day ${message.id}`} className="pt-1 text-soft text-sm">
                      {day}
                    </li>,
                    said,
                  ]
            })}
          </ul>
        </div>
        <Composer way={way} names={data.names} onSaid={refresh} />
      </section>
    </div>
  )
}
