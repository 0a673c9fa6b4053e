import type { SiteDay } from '@marmot/contract/holidays'
import { type FormEvent, useState } from 'react'
import { problemFields, problemWords } from '../platform/problem.ts'
import { Button, Choice, Field, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot } from '../ui/sheet.tsx'
import { type DayBody, useSiteDayWrites } from './holidays.ts'

/** Days on which a site is closed are added or changed; of a public holiday only whether nobody gets in. */
export const DaySheet = ({
  site,
  day,
  today,
  onClose,
}: {
  site: { readonly id: string; readonly name: string }
  day: SiteDay | null
  /** As `YYYY-MM-DD`. */
  today: string
  onClose: () => void
}) => {
  const writes = useSiteDayWrites()
  const [typed, setTyped] = useState<DayBody>(day ?? { first: '', last: '', name: '', shut: false })
  const [key] = useState(() => crypto.randomUUID())
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<unknown>(null)
  const fields = problemFields(trouble)
  const set = (part: Partial<DayBody>) => setTyped((before) => ({ ...before, ...part }))
  const fixed = day?.kind === 'holiday'
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (busy) return
    setBusy(true)
    setTrouble(null)
    const body = { ...typed, last: typed.last || typed.first }
    try {
      await (day ? writes.change(day, body) : writes.add(site.id, body, key))
      onClose()
    } catch (error) {
      setTrouble(error)
      setBusy(false)
    }
  }
  const takeAway = async () => {
    if (!day) return
    setBusy(true)
    try {
      await writes.remove(day, site.name)
      onClose()
    } catch (error) {
      setTrouble(error)
      setBusy(false)
    }
  }
  const date = (name: 'first' | 'last', label: string, hint?: string) => (
    <Field label={label} error={fields[name]} hint={hint}>
      {(props) => (
        <input
          {...props}
          type="date"
          disabled={fixed}
          required={name === 'first'}
          min={name === 'last' ? typed.first || today : undefined}
          value={typed[name]}
          onChange={(event) => set({ [name]: event.target.value })}
        />
      )}
    </Field>
  )
  return (
    <Sheet open title={day ? day.name : `Days off in ${site.name}`} onClose={onClose}>
      <form onSubmit={submit} className="flex min-h-full flex-col gap-3">
        <p className="text-soft">
          {fixed
            ? 'A public holiday. Whoever works here is away then.'
            : `Whoever works in ${site.name} is away then, with what you call it, on lanes, in what is looked for, and in series.`}
        </p>
        {!fixed && (
          <Field label="What it is" error={fields.name}>
            {(props) => (
              <input
                {...props}
                data-first
                required
                maxLength={120}
                value={typed.name}
                placeholder="Staff outing"
                onChange={(event) => set({ name: event.target.value })}
              />
            )}
          </Field>
        )}
        {!fixed && (
          <div className="grid grid-cols-2 gap-3">
            {date('first', 'First day')}
            {date('last', 'Last day')}
          </div>
        )}
        <Choice checked={typed.shut} onChoose={(shut) => set({ shut })}>
          Nobody gets in: its places are closed, too
        </Choice>
        {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
        <SheetFoot>
          {day && (
            <Button tone="quiet" className="mr-auto text-coral" disabled={busy} onClick={takeAway}>
              {fixed ? `${site.name} works then` : 'Take away'}
            </Button>
          )}
          <Button onClick={onClose}>Leave it</Button>
          <Button tone="primary" type="submit" disabled={busy}>
            {day ? 'Keep' : 'Add'}
          </Button>
        </SheetFoot>
      </form>
    </Sheet>
  )
}
