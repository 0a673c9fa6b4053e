import { plainWords } from '@marmot/core/search'
import { X } from 'lucide-react'
import { useId, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { Button } from '../ui/parts.tsx'
import { type Subject, useAbout, useContactInAddress, useContacts, useContactWrites } from './contacts.ts'

/** So many are offered by a few letters. */
const MOST_OFFERED = 8

/** Finds one of one's contacts by some letters; they are fetched once somebody is looked for. */
const FindContact = ({
  besides,
  onTake,
  onClose,
}: {
  besides: readonly { readonly id: string }[]
  onTake: (id: string) => void
  onClose: () => void
}) => {
  const contacts = useContacts()
  const [text, setText] = useState('')
  const list = useId()
  const looked = plainWords(text)
  const found = (contacts.data?.contacts ?? [])
    .filter((one) => !besides.some((each) => each.id === one.id))
    .filter((one) => {
      const said = plainWords(`${one.name} ${one.organisation}`)
      return looked.every((word) => said.some((each) => each.startsWith(word)))
    })
    .sort((a, b) => a.name.localeCompare(b.name))
    .slice(0, MOST_OFFERED)
  return (
    <div className="flex flex-col gap-1">
      <input
        // biome-ignore lint/a11y/noAutofocus: it was asked for by a press, and is where one goes on.
        autoFocus
        aria-label="Find a contact"
        aria-controls={list}
        placeholder="One of your contacts"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') {
            event.stopPropagation()
            onClose()
          }
          const [first] = found
          if (event.key === 'Enter' && first) {
            event.preventDefault()
            onTake(first.id)
          }
        }}
        className="min-h-8 rounded-md border border-soft/50 bg-paper px-2.5 max-md:min-h-thumb"
      />
      <ul id={list} className="flex flex-col">
        {found.map((one) => (
          <li key={one.id}>
            <button
              type="button"
              className="w-full rounded px-2 py-1 text-left hover:bg-shade max-md:min-h-thumb"
              onClick={() => onTake(one.id)}
            >
              {one.name} <span className="text-soft text-sm">{one.organisation}</span>
            </button>
          </li>
        ))}
      </ul>
      <p role="status" className="text-soft text-sm">
        {contacts.isPending ? 'Looking…' : found.length === 0 ? 'None of your contacts is called so.' : ''}
      </p>
    </div>
  )
}

/** Whom an entry or a to-do is about: pressed, they open; another is added by their name. */
export const About = ({ subject }: { subject: Subject }) => {
  const about = useAbout(subject)
  const writes = useContactWrites()
  const { show } = useContactInAddress()
  const [busy, setBusy] = useState(false)
  const chosen = about.data?.contacts ?? []
  const [finding, setFinding] = useState(false)
  const set = async (id: string, is: boolean) => {
    setBusy(true)
    try {
      await writes.setAbout(id, subject, is)
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  if (!about.data) return null
  return (
    <fieldset className="flex flex-col items-start gap-1">
      <legend className={chosen.length || finding ? 'mb-0.5 text-soft text-sm' : 'sr-only'}>
        It is about
      </legend>
      {chosen.length > 0 && (
        <ul className="flex flex-wrap gap-1.5">
          {chosen.map((one) => (
            <li key={one.id} className="flex items-center rounded-full bg-shade text-sm">
              <button
                type="button"
                className="py-0.5 pl-2.5 hover:underline max-md:min-h-thumb"
                onClick={() => show(one.id)}
              >
                {one.name}
              </button>
              <button
                type="button"
                aria-label={`Not about ${one.name}`}
                disabled={busy}
                className="grid size-7 place-items-center rounded-full hover:bg-line max-md:size-thumb"
                onClick={() => set(one.id, false)}
              >
                <X size={13} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
      {finding ? (
        <FindContact
          besides={chosen}
          onClose={() => setFinding(false)}
          onTake={(id) => {
            setFinding(false)
            void set(id, true)
          }}
        />
      ) : (
        <Button tone="quiet" disabled={busy} onClick={() => setFinding(true)} className="max-md:min-h-thumb">
          {chosen.length ? 'and about…' : 'About somebody…'}
        </Button>
      )}
    </fieldset>
  )
}
