import { beingMeant, MOST_WORDS } from '@marmot/core/conversation'
import { Paperclip, SendHorizontal, X } from 'lucide-react'
import { type KeyboardEvent, useEffect, useId, useRef, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { Button, Trouble } from '../ui/parts.tsx'
import { usePickFiles } from '../ui/pick-files.tsx'
import type { Way } from './ways.ts'

const MOST_OFFERED = 6

const draftKey = (way: Way): string => `draft ${way.path}`

/** What is typed and not sent yet; it is there again when one comes back in this window. */
const useDraft = (way: Way) => {
  const key = draftKey(way)
  const [text, setText] = useState(() => sessionStorage.getItem(key) ?? '')
  useEffect(() => {
    if (text) sessionStorage.setItem(key, text)
    else sessionStorage.removeItem(key)
  }, [key, text])
  return [text, setText] as const
}

/** Where something is said: Enter sends, "@" offers those who can be meant by name, files go with it. */
export const Composer = ({
  way,
  names,
  onSaid,
}: {
  way: Way
  names: readonly string[]
  onSaid: () => Promise<unknown>
}) => {
  const [text, setText] = useDraft(way)
  const [caret, setCaret] = useState(0)
  const [chosen, setChosen] = useState(0)
  const [files, setFiles] = useState<readonly { id: string; name: string }[]>([])
  const [busy, setBusy] = useState<'' | 'Sending…' | 'Attaching…'>('')
  const [trouble, setTrouble] = useState('')
  // The same words sent again after a failure are the same message.
  const key = useRef(crypto.randomUUID())
  const field = useRef<HTMLTextAreaElement>(null)
  const list = useId()
  const typed = beingMeant(text, caret)
  const offered = typed
    ? names
        .filter((name) => {
          const begins = name.toLowerCase().split(/\s+/)
          const part = typed.typed.toLowerCase()
          return name.toLowerCase().startsWith(part) || begins.some((one) => one.startsWith(part))
        })
        .filter((name) => name.toLowerCase() !== typed.typed.trim().toLowerCase())
        .slice(0, MOST_OFFERED)
    : []
  const at = Math.min(chosen, offered.length - 1)

  const put = (name: string) => {
    if (!typed) return
    const before = `${text.slice(0, typed.from)}@${name} `
    setText(before + text.slice(caret).trimStart())
    setCaret(before.length)
    requestAnimationFrame(() => {
      field.current?.focus()
      field.current?.setSelectionRange(before.length, before.length)
    })
  }
  const send = async () => {
    if ((text.trim() === '' && files.length === 0) || busy) return
    setBusy('Sending…')
    try {
      await way.say(
        text,
        files.map((one) => one.id),
        key.current,
      )
      key.current = crypto.randomUUID()
      setText('')
      setFiles([])
      setTrouble('')
      await onSaid()
    } catch (error) {
      setTrouble(problemWords(error))
    }
    setBusy('')
    field.current?.focus()
  }
  const attach = async (given: readonly File[]) => {
    setBusy('Attaching…')
    setTrouble('')
    for (const file of given)
      try {
        const made = await way.addFile(file)
        setFiles((before) => [...before, made])
      } catch (error) {
        setTrouble(problemWords(error))
      }
    setBusy('')
  }
  const picking = usePickFiles({ label: 'Attach files to the message', onPick: attach })
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.nativeEvent.isComposing) return
    if (offered.length && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault()
      setChosen((at + (event.key === 'ArrowDown' ? 1 : offered.length - 1)) % offered.length)
    } else if (offered.length && (event.key === 'Enter' || event.key === 'Tab')) {
      event.preventDefault()
      put(offered[at] ?? '')
    } else if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault()
      send()
    }
  }
  return (
    <div className="flex flex-col gap-1.5">
      {trouble && <Trouble>{trouble}</Trouble>}
      {files.length > 0 && (
        <ul className="flex flex-wrap gap-1.5">
          {files.map((file) => (
            <li key={file.id} className="flex items-center gap-1 rounded bg-shade px-2 text-sm">
              {file.name}
              <button
                type="button"
                aria-label={`Send without ${file.name}`}
                className="grid size-6 place-items-center"
                onClick={() => setFiles((before) => before.filter((one) => one !== file))}
              >
                <X size={13} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="relative">
        {offered.length > 0 && (
          <div
            id={list}
            role="listbox"
            aria-label="Who is meant"
            className="absolute bottom-full left-0 z-10 mb-1 w-64 overflow-hidden rounded-md border border-line bg-paper shadow-lg"
          >
            {offered.map((name, i) => (
              <div
                key={name}
                id={`${list}-${i}`}
                role="option"
                aria-selected={i === at}
                tabIndex={-1}
                onMouseDown={(event) => {
                  event.preventDefault()
                  put(name)
                }}
                className="cursor-pointer px-3 py-1.5 hover:bg-shade aria-selected:bg-shade"
              >
                {name}
              </div>
            ))}
          </div>
        )}
        <textarea
          ref={field}
          aria-label="Message"
          placeholder="Write to everybody in this meeting; @ for one of them"
          rows={2}
          maxLength={MOST_WORDS}
          value={text}
          {...(offered.length ? { 'aria-activedescendant': `${list}-${at}`, 'aria-controls': list } : {})}
          onChange={(event) => {
            setText(event.target.value)
            setCaret(event.target.selectionStart)
            setChosen(0)
          }}
          onSelect={(event) => setCaret(event.currentTarget.selectionStart)}
          onKeyDown={onKeyDown}
          className="w-full resize-y rounded-md border border-soft/50 bg-paper px-2.5 py-1.5"
        />
      </div>
      <div className="flex items-center gap-2">
        <button
          type="button"
          disabled={busy !== ''}
          onClick={picking.pick}
          className="flex min-h-8 items-center gap-1.5 text-gentian text-sm underline underline-offset-2 max-md:min-h-thumb"
        >
          <Paperclip size={14} aria-hidden /> {busy === 'Attaching…' ? busy : 'Attach a file'}
        </button>
        {picking.field}
        <span className="flex-1" />
        <Button
          tone="primary"
          className="max-md:min-h-thumb"
          disabled={busy !== '' || (text.trim() === '' && files.length === 0)}
          onClick={send}
        >
          <SendHorizontal size={15} aria-hidden /> {busy === 'Sending…' ? busy : 'Send'}
        </Button>
      </div>
    </div>
  )
}
