import { type Category, deleteCategory, putCategory } from '@marmot/contract/entries'
import { type Preferences as Chosen, putPreferences, readPreferences } from '@marmot/contract/people'
import { hoursTrouble } from '@marmot/core/availability'
import { clockText, dayText, LOCALES, parseClock, parseDay, WEEKDAYS } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { useCategories } from '../entries/entries.ts'
import { RemindersField } from '../entries/reminders-field.tsx'
import { ZoneField } from '../entries/zone-field.tsx'
import { call } from '../platform/api.ts'
import { useAttempt } from '../platform/attempt.ts'
import { problemWords } from '../platform/problem.ts'
import { sessionKey, useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { Button, Field, flower, Loading, TONES_COUNT, Trouble } from '../ui/parts.tsx'
import { OtherSessions } from './other-sessions.tsx'

const plainClock = (minutes: number): string =>
  minutes === 1440
    ? '24:00'
    : `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`

const readHours = (text: string): { from: number; to: number }[] | null => {
  if (!text.trim()) return []
  const parts = text.split(/[,;]/).map((part) => {
    const [from = '', to = ''] = part.split(/[-–]/)
    const [start, end] = [parseClock(from), to.trim() === '24:00' ? 1440 : parseClock(to)]
    return start === null || end === null ? null : { from: start, to: end > start ? end : end + 1440 }
  })
  return parts.some((part) => part === null) ? null : parts.flatMap((part) => part ?? [])
}

/** Working hours of a weekday, as "8:00-12:00, 13:00-17:00": what lies between two parts is a break. */
const HoursFields = ({
  hours,
  onChange,
}: {
  hours: Chosen['hours']
  onChange: (hours: Chosen['hours'], fine: boolean) => void
}) => {
  const [texts, setTexts] = useState(() =>
    WEEKDAYS.map((_, i) =>
      hours
        .filter((part) => part.weekday === i + 1)
        .map((part) => `${plainClock(part.from)}–${plainClock(part.to % 1440 || 1440)}`)
        .join(', '),
    ),
  )
  const change = (at: number, text: string) => {
    const next = texts.map((each, i) => (i === at ? text : each))
    setTexts(next)
    const read = next.map(readHours)
    const all = read.flatMap((parts, i) => (parts ?? []).map((part) => ({ weekday: i + 1, ...part })))
    onChange(all, read.every((parts) => parts !== null) && hoursTrouble(all) === null)
  }
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="text-soft text-sm">
        Working hours: with a break, write 8:00–12:00, 13:00–17:00
      </legend>
      {WEEKDAYS.map((name, i) => {
        const read = readHours(texts[i] ?? '')
        const wrong = read === null || hoursTrouble(read.map((part) => ({ weekday: 1, ...part }))) !== null
        return (
          <label key={name} className="flex items-center gap-2">
            <span className="w-24">{name}</span>
            <input
              value={texts[i]}
              placeholder="not working"
              aria-invalid={wrong || undefined}
              onChange={(event) => change(i, event.target.value)}
              className={`min-w-0 flex-1 rounded-md border bg-paper px-2 py-0.5 ${wrong ? 'border-coral' : 'border-soft/50'}`}
            />
          </label>
        )
      })}
    </fieldset>
  )
}

/** My categories: name, colour, gone again. */
const Categories = () => {
  const categories = useCategories()
  const say = useUndo()
  const [name, setName] = useState('')
  const { trouble, attempt } = useAttempt()
  const keep = (one: Category) =>
    attempt(() =>
      call(putCategory, { params: { categoryId: one.id }, body: { name: one.name, tone: one.tone } }),
    )
  const list = categories.data?.categories ?? []
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="text-soft text-sm">Categories</legend>
      {list.map((one) => (
        <div key={one.id} className="flex items-center gap-2">
          <button
            type="button"
            aria-label={`Another colour for ${one.name}`}
            title="Another colour"
            onClick={() => keep({ ...one, tone: (one.tone + 1) % TONES_COUNT })}
            className="grid min-w-5 place-items-center max-md:min-w-thumb"
          >
            <span className="size-5 rounded-full" style={{ background: flower(one.tone) }} />
          </button>
          <input
            aria-label={`Name of ${one.name}`}
            defaultValue={one.name}
            onBlur={(event) =>
              event.target.value.trim() !== one.name && keep({ ...one, name: event.target.value })
            }
            className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2 py-0.5"
          />
          <Button
            tone="quiet"
            onClick={() =>
              attempt(async () => {
                await call(deleteCategory, { params: { categoryId: one.id } })
                say({ words: `Category gone: ${one.name}`, undo: () => keep(one) })
              })
            }
          >
            Remove
          </Button>
        </div>
      ))}
      <div className="flex gap-2">
        <input
          aria-label="A new category"
          placeholder="A new category"
          value={name}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' || !name.trim()) return
            event.preventDefault()
            keep({ id: crypto.randomUUID(), name, tone: list.length % TONES_COUNT }).then(() => setName(''))
          }}
          className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2 py-0.5"
        />
        <Button
          disabled={!name.trim()}
          onClick={() =>
            keep({ id: crypto.randomUUID(), name, tone: list.length % TONES_COUNT }).then(() => setName(''))
          }
        >
          Add
        </Button>
      </div>
      {trouble && <Trouble>{trouble}</Trouble>}
    </fieldset>
  )
}

const HOURS = Array.from({ length: 25 }, (_, hour) => hour)
const LOCALE_SAMPLE = Date.UTC(2026, 11, 3)

const Form = ({ kept }: { kept: Chosen }) => {
  const { session } = useMe()
  const queries = useQueryClient()
  const [chosen, setChosen] = useState(kept)
  const [hoursFine, setHoursFine] = useState(true)
  const [travel, setTravel] = useState({ day: '', zone: kept.zone })
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState('')
  const set = (part: Partial<Chosen>) => setChosen((before) => ({ ...before, ...part }))
  const today = Math.floor(Date.parse(session.now) / 86_400_000)
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    setBusy(true)
    try {
      await call(putPreferences, { body: chosen })
      await queries.invalidateQueries({ queryKey: sessionKey })
      await queries.invalidateQueries()
      setBusy(false)
      toast('Your settings are saved.')
    } catch (error) {
      setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  const clock = (name: 'shownFrom' | 'shownTo', label: string) => (
    <Field label={label}>
      {(props) => (
        <select
          {...props}
          value={chosen[name]}
          onChange={(event) => set({ [name]: Number(event.target.value) })}
        >
          {HOURS.map((hour) => (
            <option key={hour} value={hour * 60}>
              {hour === 24 ? '24:00' : clockText(hour * 60)}
            </option>
          ))}
        </select>
      )}
    </Field>
  )
  const addTravel = () => {
    const day = parseDay(travel.day, today)
    if (day === null) return
    set({
      zoneChanges: [
        ...chosen.zoneChanges.filter((each) => each.fromDay !== dayText(day)),
        { fromDay: dayText(day), zone: travel.zone },
      ],
    })
    setTravel({ day: '', zone: travel.zone })
  }
  return (
    <form onSubmit={submit} className="flex max-w-xl flex-col gap-4">
      <div className="grid grid-cols-2 gap-2">
        <Field label="A week begins on">
          {(props) => (
            <select
              {...props}
              value={chosen.firstWeekday}
              onChange={(event) => set({ firstWeekday: Number(event.target.value) })}
            >
              {WEEKDAYS.map((name, i) => (
                <option key={name} value={i + 1}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Clock">
          {(props) => (
            <select
              {...props}
              value={chosen.halfDayClock ? '12' : '24'}
              onChange={(event) => set({ halfDayClock: event.target.value === '12' })}
            >
              <option value="24">24 hours, 14:30</option>
              <option value="12">12 hours, 2:30 pm</option>
            </select>
          )}
        </Field>
        {clock('shownFrom', 'Days are shown from')}
        {clock('shownTo', 'to')}
        <Field label="Dates are worded as">
          {(props) => (
            <select
              {...props}
              value={chosen.locale}
              onChange={(event) => {
                const locale = LOCALES.find((each) => each === event.target.value)
                if (locale) set({ locale })
              }}
            >
              {LOCALES.map((locale) => (
                <option key={locale} value={locale}>
                  {new Intl.DateTimeFormat(locale, { weekday: 'long', day: 'numeric', month: 'long' }).format(
                    LOCALE_SAMPLE,
                  )}
                </option>
              ))}
            </select>
          )}
        </Field>
      </div>
      <ZoneField label="My zone" value={chosen.zone} onChange={(zone) => set({ zone })} />
      <div className="flex flex-col gap-1">
        <span className="text-soft text-sm">Journeys: another zone from a day on</span>
        {chosen.zoneChanges.map((change) => (
          <div key={change.fromDay} className="flex items-center gap-2">
            <span className="flex-1">
              {change.zone} from {change.fromDay}
            </span>
            <Button
              tone="quiet"
              onClick={() =>
                set({ zoneChanges: chosen.zoneChanges.filter((each) => each.fromDay !== change.fromDay) })
              }
            >
              Remove
            </Button>
          </div>
        ))}
        <div className="flex items-end gap-2">
          <input
            aria-label="From which day"
            placeholder="3 dec"
            value={travel.day}
            onChange={(event) => setTravel({ ...travel, day: event.target.value })}
            className="w-24 rounded-md border border-soft/50 bg-paper px-2 py-0.5"
          />
          <ZoneField
            label="to"
            compact
            value={travel.zone}
            onChange={(zone) => setTravel({ ...travel, zone })}
          />
          <Button disabled={!travel.day} onClick={addTravel}>
            Add
          </Button>
        </div>
      </div>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={chosen.secondZone !== null}
          onChange={(event) => set({ secondZone: event.target.checked ? 'UTC' : null })}
        />
        A second zone’s hours beside mine
      </label>
      {chosen.secondZone !== null && (
        <ZoneField
          label="Second zone"
          value={chosen.secondZone}
          onChange={(zone) => set({ secondZone: zone })}
        />
      )}
      <HoursFields
        hours={chosen.hours}
        onChange={(hours, fine) => {
          setHoursFine(fine)
          if (fine) set({ hours })
        }}
      />
      <RemindersField
        value={chosen.reminders}
        usual={false}
        onChange={(reminders) => set({ reminders: reminders ?? [] })}
      />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={chosen.remindsByMail}
          onChange={(event) => set({ remindsByMail: event.target.checked })}
        />
        Remind me by mail, too
      </label>
      {'Notification' in window && Notification.permission === 'default' && (
        <Button onClick={() => Notification.requestPermission()}>Let this browser show reminders</Button>
      )}
      <Categories />
      <OtherSessions />
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="sticky -bottom-4 flex gap-2 border-line border-t bg-ground py-3">
        <Button type="submit" tone="primary" disabled={busy || !hoursFine}>
          {busy ? 'Saving…' : 'Save'}
        </Button>
      </div>
    </form>
  )
}

const preferencesKey = () => ['preferences']

/** How my days are drawn and said, when I work, and how I am reminded. */
export const Preferences = () => {
  const kept = useQuery({ queryKey: preferencesKey(), queryFn: () => call(readPreferences), staleTime: 0 })
  if (kept.isError)
    return (
      <Trouble action={<Button onClick={() => kept.refetch()}>Try again</Button>}>
        {problemWords(kept.error)}
      </Trouble>
    )
  return kept.data && kept.isFetchedAfterMount ? (
    <Form kept={kept.data} />
  ) : (
    <Loading what="your preferences" />
  )
}
