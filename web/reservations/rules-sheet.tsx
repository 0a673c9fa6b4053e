import { lookAtRules, putRules, readRules } from '@marmot/contract/resources'
import type { WorkingHours } from '@marmot/core/availability'
import { type PlaceRules, rulesInWords, rulesTrouble } from '@marmot/core/reservations'
import { clockText, lengthInWords, parseClock, parseLength, spanInWords, WEEKDAYS } from '@marmot/core/time'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useRested } from '../platform/rested.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, Choice, counted, Field, Loading, Trouble } from '../ui/parts.tsx'

const hoursText = (hours: readonly WorkingHours[], weekday: number): string =>
  hours
    .filter((part) => part.weekday === weekday)
    .map((part) => `${clockText(part.from)}-${part.to === 1440 ? '24:00' : clockText(part.to)}`)
    .join(', ')

/** "7-12, 13-17:30" as the parts of a weekday; null where it cannot be read. Nothing is closed. */
const readHours = (text: string, weekday: number): WorkingHours[] | null => {
  const parts = text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)
  const read = parts.map((part) => {
    const [first = '', second = ''] = part.split(/\s*(?:-|–|to)\s*/)
    const from = parseClock(first)
    const to = /^24(?::00)?$/.test(second) ? 1440 : parseClock(second)
    return from === null || to === null || to <= from ? null : { weekday, from, to }
  })
  return read.some((part) => part === null) ? null : read.flatMap((part) => part ?? [])
}

/** A length as it is typed, "45m", "2h", "3 days"; nothing is no limit, and what cannot be read is undefined. */
const LengthField = ({
  label,
  value,
  onChange,
}: {
  label: string
  value: number | null
  onChange: (minutes: number | null) => void
}) => {
  const [text, setText] = useState(value === null ? '' : lengthInWords(value))
  const read = text.trim() === '' ? null : (parseLength(text.replace(/\s*days?$/, 'd')) ?? undefined)
  return (
    <Field label={label} error={read === undefined ? 'not a length: try 45m or 2h' : undefined}>
      {(props) => (
        <input
          {...props}
          value={text}
          placeholder="no limit"
          maxLength={20}
          onChange={(event) => {
            setText(event.target.value)
            const next = event.target.value.trim()
            const minutes = next === '' ? null : parseLength(next.replace(/\s*days?$/, 'd'))
            if (next === '' || minutes !== null) onChange(minutes)
          }}
        />
      )}
    </Field>
  )
}

const CountField = ({
  label,
  value,
  onChange,
}: {
  label: string
  value: number | null
  onChange: (count: number | null) => void
}) => (
  <Field label={label}>
    {(props) => (
      <input
        {...props}
        inputMode="numeric"
        placeholder="no limit"
        maxLength={4}
        value={value ?? ''}
        onChange={(event) => {
          const count = Number.parseInt(event.target.value, 10)
          onChange(Number.isNaN(count) ? null : Math.max(1, count))
        }}
      />
    )}
  </Field>
)

/** When it is open, weekday by weekday, as one types it. */
const Hours = ({
  hours,
  onChange,
}: {
  hours: readonly WorkingHours[]
  onChange: (hours: WorkingHours[]) => void
}) => {
  const [texts, setTexts] = useState(() => WEEKDAYS.map((_, i) => hoursText(hours, i + 1)))
  const put = (i: number, text: string) => {
    const next = texts.map((each, k) => (k === i ? text : each))
    setTexts(next)
    const read = next.map((each, k) => readHours(each, k + 1))
    if (read.every((part) => part !== null)) onChange(read.flatMap((part) => part ?? []))
  }
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="mb-0.5 text-soft text-sm">Open, on the clock of its site</legend>
      {WEEKDAYS.map((name, i) => {
        const wrong = readHours(texts[i] ?? '', i + 1) === null
        return (
          <label key={name} className="flex items-center gap-2">
            <span className="w-24">{name}</span>
            <input
              value={texts[i]}
              placeholder="closed"
              maxLength={60}
              aria-invalid={wrong || undefined}
              onChange={(event) => put(i, event.target.value)}
              className={`min-w-0 flex-1 rounded-md border bg-paper px-2 py-0.5 ${wrong ? 'border-coral' : 'border-soft/50'}`}
            />
          </label>
        )
      })}
    </fieldset>
  )
}

const RulesForm = ({
  place,
  known,
  onClose,
}: {
  place: PlaceLane
  known: { readonly rules: PlaceRules; readonly version: number; readonly teams: readonly string[] }
  onClose: () => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const [rules, setRules] = useState(known.rules)
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<unknown>(null)
  const set = (part: Partial<PlaceRules>) => setRules((before) => ({ ...before, ...part }))
  const wrong = rulesTrouble(rules)
  const body = { ...rules, teams: [...rules.teams], hours: rules.hours.map((part) => ({ ...part })) }
  const differs = JSON.stringify(rules) !== JSON.stringify(known.rules)
  const asked = JSON.stringify(wrong || !differs ? null : body)
  const rested = useRested(asked)
  const params = { resourceId: place.id }
  const look = useQuery({
    queryKey: ['reservations', 'rules', place.id, rested],
    queryFn: () => call(lookAtRules, { params, body: JSON.parse(rested) }),
    enabled: rested !== 'null',
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
  })
  const hits = asked === 'null' ? [] : (look.data?.hits ?? [])
  const ready = differs && !wrong && !busy && asked === rested && !look.isPending && !look.isPlaceholderData
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (!ready) return
    setBusy(true)
    try {
      await call(putRules, { params, body: { ...body, version: known.version } })
      toast(`The rules of ${place.name} are set.`)
      void queries.invalidateQueries()
      onClose()
    } catch (error) {
      setTrouble(error)
      setBusy(false)
    }
  }
  return (
    <form className="flex flex-col gap-3" onSubmit={submit}>
      <Hours hours={rules.hours} onChange={(hours) => set({ hours })} />
      <div className="grid grid-cols-2 gap-2">
        <LengthField label="For at least" value={rules.shortest} onChange={(shortest) => set({ shortest })} />
        <LengthField label="For at most" value={rules.longest} onChange={(longest) => set({ longest })} />
        <CountField
          label="Days ahead, at most"
          value={rules.aheadDays}
          onChange={(aheadDays) => set({ aheadDays })}
        />
        <LengthField
          label="How long before, at least"
          value={rules.notice}
          onChange={(notice) => set({ notice })}
        />
        <LengthField
          label="Kept free before"
          value={rules.before || null}
          onChange={(before) => set({ before: before ?? 0 })}
        />
        <LengthField
          label="Kept free after"
          value={rules.after || null}
          onChange={(after) => set({ after: after ?? 0 })}
        />
        <CountField label="At once per person" value={rules.atOnce} onChange={(atOnce) => set({ atOnce })} />
      </div>
      <fieldset>
        <legend className="mb-0.5 text-soft text-sm">
          Who may reserve it: everybody, where none is chosen
        </legend>
        {known.teams.map((name) => (
          <Choice
            key={name}
            checked={rules.teams.includes(name)}
            onChoose={(chosen) =>
              set({
                teams: chosen ? [...rules.teams, name].sort() : rules.teams.filter((one) => one !== name),
              })
            }
          >
            {name}
          </Choice>
        ))}
        <Choice checked={rules.trainedOnly} onChoose={(trainedOnly) => set({ trainedOnly })}>
          Trained people only
        </Choice>
      </fieldset>
      <Choice checked={rules.asksApproval} onChoose={(asksApproval) => set({ asksApproval })}>
        I decide about each reservation
      </Choice>
      {rules.asksApproval && (
        <CountField
          label="Lapses after so many hours without a decision"
          value={rules.approvalHours}
          onChange={(hours) => set({ approvalHours: Math.min(720, hours ?? 48) })}
        />
      )}
      <p className="rounded-md bg-shade px-2.5 py-1.5 text-sm">
        {rulesInWords(rules).join(' ') || 'No rules: everybody, always.'}
      </p>
      {wrong && <p className="text-coral">⚠ {wrong.message}</p>}
      {hits.length > 0 && (
        <section aria-label="What they hit" className="text-sm">
          <p>
            <b className="font-semibold">{counted(hits.length, 'reservation', 'reservations')}</b> would not
            be allowed any more. {hits.length === 1 ? 'It stays' : 'They stay'}:
          </p>
          <ul>
            {hits.map((one) => (
              <li key={one.reservationId} className="border-line border-t py-1">
                {one.by}, {spanInWords(Date.parse(one.start), Date.parse(one.end), zone, now)}
                <span className="block text-soft">{one.words}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {(trouble ?? look.error) ? <Trouble>{problemWords(trouble ?? look.error)}</Trouble> : null}
      <Button type="submit" tone="primary" className="w-full" disabled={!ready}>
        {busy ? 'Setting…' : differs ? 'Set these rules' : 'Nothing is changed yet'}
      </Button>
    </form>
  )
}

/** The rules of a place, set by whoever looks after it; what they hit is said before. */
export const RulesSheet = ({ place, onClose }: { place: PlaceLane; onClose: () => void }) => {
  const rules = useQuery({
    queryKey: ['resources', 'rules', place.id],
    queryFn: () => call(readRules, { params: { resourceId: place.id } }),
    staleTime: 0,
    gcTime: 0,
  })
  return (
    <Beside title={`Rules of ${place.name}`} onClose={onClose}>
      {rules.isPending && <Loading what="the rules" />}
      {rules.isError && (
        <Trouble action={<Button onClick={() => rules.refetch()}>Try again</Button>}>
          {problemWords(rules.error)}
        </Trouble>
      )}
      {rules.data && (
        <RulesForm key={rules.data.version} place={place} known={rules.data} onClose={onClose} />
      )}
    </Beside>
  )
}
