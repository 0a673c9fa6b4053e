import { exportSiteDays, type SiteDay, type SiteHolidays } from '@marmot/contract/holidays'
import { civilOf, DAY, dayOf, dayText, shortDay, toWall } from '@marmot/core/time'
import { Download, Plus } from 'lucide-react'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Empty, Field, Loading, Trouble } from '../ui/parts.tsx'
import { DaySheet } from './day-sheet.tsx'
import { useRegions, useSiteDays, useSiteDayWrites } from './holidays.ts'

const dayNumber = (text: string): number => Date.parse(text) / DAY

/** "Tue 8 Dec 2026", or from when until when. */
const daysInWords = ({ first, last }: Pick<SiteDay, 'first' | 'last'>): string => {
  const [from, to] = [dayNumber(first), dayNumber(last)]
  const end = `${shortDay(to)} ${civilOf(to).year}`
  return from === to ? end : `${shortDay(from)} to ${end}`
}

const daysOf = ({ first, last }: SiteDay): string[] =>
  Array.from({ length: dayNumber(last) - dayNumber(first) + 1 }, (_, i) => dayText(dayNumber(first) + i))

/** By whose public holidays a site goes. */
const Region = ({ site, name }: { site: SiteHolidays; name: string }) => {
  const regions = useRegions()
  const writes = useSiteDayWrites()
  const [open, setOpen] = useState(false)
  const { busy, attempt, trouble } = useAttempt()
  const all = regions.data?.regions ?? []
  const nameOf = (code: string | null) => all.find((one) => one.code === code)?.name ?? code ?? ''
  const choose = (code: string) =>
    attempt(async () => {
      const words = code
        ? `${name} goes by the holidays of ${nameOf(code)}`
        : `${name} has no public holidays`
      await writes.region(site.siteId, code || null, site.region, words)
      setOpen(false)
    })
  return (
    <div className="mb-3 flex flex-wrap items-center gap-3">
      <p>
        {site.region ? (
          <>
            {name} has the public holidays of <b className="font-semibold">{nameOf(site.region)}</b>
            {site.until && `, as they are known until the end of ${site.until.slice(0, 4)}`}.
          </>
        ) : (
          <>
            Nobody has said which public holidays {name} has
            {site.mayChange ? '.' : ': its own days stand below.'}
          </>
        )}
      </p>
      {site.mayChange && !open && <Button onClick={() => setOpen(true)}>Change…</Button>}
      {open && (
        <Field
          label={`Public holidays of ${name}`}
          error={trouble === null ? undefined : problemWords(trouble)}
          hint="If its country is not here, Marmot does not know its holidays: add them as days of its own."
        >
          {(props) => (
            <select
              {...props}
              disabled={busy || regions.isPending}
              value={site.region ?? ''}
              onChange={(event) => choose(event.target.value)}
            >
              <option value="">{regions.isPending ? 'Looking…' : 'none'}</option>
              {all.map((one) => (
                <option key={one.code} value={one.code}>
                  {one.name}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
    </div>
  )
}

/** Public holidays and other days off: of one's own site, and of the others. */
export const HolidaysPart = () => {
  const { session, person, zone } = useMe()
  const { sites } = session
  const [search, setSearch] = useSearchParams()
  const days = useSiteDays()
  const writes = useSiteDayWrites()
  const now = useNow()
  const { attempt, trouble } = useAttempt()
  const [edited, setEdited] = useState<SiteDay | 'new' | null>(null)
  if (days.isPending) return <Loading what="holidays" />
  if (days.isError)
    return (
      <Trouble action={<Button onClick={() => days.refetch()}>Try again</Button>}>
        {problemWords(days.error)}
      </Trouble>
    )
  const today = dayText(dayOf(toWall(zone, now)))
  const chosen = search.get('site') ?? person.siteId
  const site = days.data.sites.find((one) => one.siteId === chosen)
  const siteName = (id: string) => sites.find((one) => one.id === id)?.name ?? ''
  const mayChange = (day: SiteDay) => days.data.sites.find((one) => one.siteId === day.siteId)?.mayChange
  const rows = days.data.days.filter((day) => day.last >= today && (!site || day.siteId === site.siteId))
  const worked = new Set(days.data.worked)
  const what = (day: SiteDay) =>
    [
      day.kind === 'holiday' ? 'public holiday' : 'closed',
      day.shut ? 'nobody gets in' : '',
      day.uncertain ? 'by the moon: not certain yet' : '',
    ]
      .filter(Boolean)
      .join(', ')
  const columns: ListColumn<SiteDay>[] = [
    {
      id: 'day',
      head: 'Day',
      value: (day) => day.first,
      words: daysInWords,
      cell: (day) => (
        <span className="whitespace-nowrap tabular-nums max-md:whitespace-normal">{daysInWords(day)}</span>
      ),
      csv: (day) => (day.first === day.last ? day.first : `${day.first} to ${day.last}`),
    },
    {
      id: 'name',
      head: 'What it is',
      value: (day) => day.name,
      cell: (day) =>
        mayChange(day) ? (
          <button
            type="button"
            onClick={() => setEdited(day)}
            className="text-left font-semibold hover:underline max-md:min-h-thumb"
          >
            {day.name}
          </button>
        ) : (
          <b className="font-semibold">{day.name}</b>
        ),
    },
    {
      id: 'site',
      head: 'Site',
      value: (day) => siteName(day.siteId),
      group: (day) => siteName(day.siteId),
      wide: true,
    },
    { id: 'kind', head: 'Kind', value: what, group: what, wide: true },
    {
      id: 'mine',
      head: 'You',
      value: (day) =>
        day.siteId !== person.siteId ? '' : daysOf(day).every((one) => worked.has(one)) ? 'work' : 'off',
      cell: (day) => {
        if (day.siteId !== person.siteId) return null
        const works = daysOf(day).every((one) => worked.has(one))
        return (
          <label className="flex items-center gap-2 whitespace-nowrap max-md:min-h-thumb">
            <input
              type="checkbox"
              className="accent-gentian"
              checked={works}
              aria-label={`I work on ${day.name}`}
              onChange={(event) => attempt(() => writes.work(day, daysOf(day), event.target.checked))}
            />
            I work
          </label>
        )
      },
    },
  ]
  return (
    <>
      {site && <Region key={site.siteId} site={site} name={siteName(site.siteId)} />}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      <ListTable
        label="Days off"
        one="day off"
        many="days off"
        columns={columns}
        rows={rows}
        keyOf={(day) => day.id}
        sortedBy="day"
        csvName="days-off.csv"
        empty={
          <Empty>
            No day off is known here.{' '}
            {site?.mayChange ? 'Say which public holidays the site has, or add days of its own.' : ''}
          </Empty>
        }
        tools={
          <>
            <select
              aria-label="Site"
              className="min-h-8 rounded-md border border-soft/50 bg-paper px-2 max-md:min-h-thumb"
              value={site ? site.siteId : 'all'}
              onChange={(event) =>
                setSearch((before) => {
                  const next = new URLSearchParams(before)
                  next.set('site', event.target.value)
                  return next
                })
              }
            >
              <option value="all">all sites</option>
              {sites.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </select>
            {site && (
              <a
                href={exportSiteDays.path.replace(':siteId', site.siteId)}
                download
                className="inline-flex min-h-8 items-center gap-1.5 rounded-md border border-soft/50 bg-paper px-3 py-1 hover:bg-shade max-md:min-h-thumb"
              >
                <Download size={15} aria-hidden /> As a calendar
              </a>
            )}
            {site?.mayChange && (
              <Button tone="primary" className="max-md:min-h-thumb" onClick={() => setEdited('new')}>
                <Plus size={16} aria-hidden /> Add days
              </Button>
            )}
          </>
        }
      />
      {edited && (
        <DaySheet
          site={{
            id: edited === 'new' ? (site?.siteId ?? person.siteId) : edited.siteId,
            name: siteName(edited === 'new' ? (site?.siteId ?? person.siteId) : edited.siteId),
          }}
          day={edited === 'new' ? null : edited}
          today={today}
          onClose={() => setEdited(null)}
        />
      )}
    </>
  )
}
