import { X } from 'lucide-react'
import { useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { type Subject, useAbout, useContactInAddress, useContacts, useContactWrites } from './contacts.ts'

/** Whom an entry or a to-do is about: pressed, they open; another is added by their name. */
export const About = ({ subject }: { subject: Subject }) => {
  const about = useAbout(subject)
  const contacts = useContacts()
  const writes = useContactWrites()
  const { show } = useContactInAddress()
  const [busy, setBusy] = useState(false)
  const chosen = about.data?.contacts ?? []
  const others = (contacts.data?.contacts ?? []).filter((one) => !chosen.some((each) => each.id === one.id))
  const set = async (id: string, is: boolean) => {
    setBusy(true)
    try {
      await writes.setAbout(id, subject, is)
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  if (!about.data || (chosen.length === 0 && others.length === 0)) return null
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="mb-0.5 text-soft text-sm">It is about</legend>
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
      {others.length > 0 && (
        <select
          aria-label="About somebody"
          value=""
          disabled={busy}
          onChange={(event) => event.target.value && void set(event.target.value, true)}
          className="min-h-8 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb"
        >
          <option value="">{chosen.length ? 'and about…' : 'one of your contacts…'}</option>
          {others.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
              {one.organisation ? `, ${one.organisation}` : ''}
            </option>
          ))}
        </select>
      )}
    </fieldset>
  )
}
