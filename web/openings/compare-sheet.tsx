import { judge, minutesOf, type Opening, openingsByDay } from '@marmot/core/openings'
import { clocksThere, lengthInWords, shortTime, zoneTable } from '@marmot/core/time'
import { type ReactNode, Suspense, useState } from 'react'
import { part } from '../platform/part.tsx'
import { Button, Loading } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { presentOf } from './change-in-hand.tsx'
import type { Arranging } from './use-arranging.ts'
import { blockerWords, partsWords } from './words.ts'

const MOST = 4

/**
 * The time of a meeting that is to be moved first, then the chosen one, then the best openings of other days: at most four.
 */
const compared = ({ brief, chosen, found, me, search }: Arranging): Opening[] => {
  const best = openingsByDay(found.openings, me.zone, MOST).map((day) => day.best)
  if (!search) return best
  const judged = (span: { start: number; end: number }): Opening => {
    const { parts, cost } = judge(search, span)
    return { ...span, from: span.start, to: span.start, parts, cost }
  }
  const own = [...(brief.meeting ? [presentOf(brief.meeting)] : []), ...(chosen ? [chosen] : [])].map(judged)
  const all = [...own, ...best]
  return all.filter((one, i) => all.findIndex((each) => each.start === one.start) === i).slice(0, MOST)
}

const BalanceChart = part(() => import('./balance-chart.tsx').then((m) => m.BalanceChart))

/** A line of the comparison: what is said of each time, and how it is shown. Where all say the same, it helps nobody to choose. */
interface Row {
  readonly key: string
  readonly name: string
  readonly about: string
  /** Whether it is somebody who met outside their hours lately. */
  readonly bore: boolean
  readonly cells: readonly { readonly says: string; readonly said: ReactNode }[]
}

/** What can be said of some times, line by line: of each person, and of the whole. */
const rowsOf = (arranging: Arranging, times: readonly Opening[]): Row[] => {
  const { members, zone, names, search, placesById, past } = arranging
  const bore = new Map((past?.people ?? []).map((one) => [one.personId, one.minutes]))
  const judged = times.map((time) => (search ? judge(search, time) : null))
  const rowOf = (member: Arranging['members'][number]): Row => ({
    key: member.id,
    name: member.name,
    about: [
      ...(member.required ? [] : ['optional']),
      ...(bore.get(member.id) ? [`${lengthInWords(bore.get(member.id) ?? 0)} outside hours lately`] : []),
    ].join(', '),
    bore: (bore.get(member.id) ?? 0) > 0,
    cells: times.map((time, i) => {
      if (!member.time.known) return { says: 'unknown', said: <span className="text-soft">unknown</span> }
      const stretch = time.parts.stretch.find((share) => share.id === member.id)
      const blocker = judged[i]?.blockers.find((each) => each.id === member.id)
      const says = blocker
        ? `⚠ ${blockerWords(blocker, names)}`
        : stretch
          ? `${lengthInWords(stretch.minutes)} outside hours`
          : ''
      return {
        says,
        said: (
          <>
            {clocksThere(time.start, time.end, zoneTable(member.time.zone), zone)}
            {says && (
              <span className={`block text-[12.5px] ${blocker ? 'text-coral' : 'text-soft'}`}>{says}</span>
            )}
          </>
        ),
      }
    }),
  })
  const wordsRow = (key: string, name: string, wordsOf: (time: Opening) => string): Row => ({
    key,
    name,
    about: '',
    bore: false,
    cells: times.map((time) => ({ says: wordsOf(time), said: wordsOf(time) })),
  })
  return [
    ...members.map(rowOf),
    wordsRow('all', 'Outside hours in all', (time) => lengthInWords(minutesOf(time.parts.stretch))),
    wordsRow('most', 'Above the average, whoever bears most', (time) => lengthInWords(time.parts.fairness)),
    wordsRow('places', 'Places', (time) =>
      (time.parts.places?.places.flatMap((id) => placesById.get(id ?? '')?.name ?? []) ?? [])
        .concat(arranging.search?.places?.needs.length ? [] : [arranging.roomsAt(time)[0]?.name ?? 'no room'])
        .join(', '),
    ),
    wordsRow('also', 'Also', (time) => partsWords(time, names).join(', ') || 'nothing else'),
  ]
}

/** The balance of bad hours among those asked, in a picture; its numbers stand in the table above. */
const Balance = ({ arranging, time }: { arranging: Arranging; time: Opening | undefined }) => {
  const { past, asked, names, zone } = arranging
  if (!past || !time) return null
  const people = asked
    .filter((member) => member.time.known)
    .map(({ id }) => ({
      name: names.person(id),
      lately: past.people.find((one) => one.personId === id)?.minutes ?? 0,
      now: time.parts.stretch.find((share) => share.id === id)?.minutes ?? 0,
    }))
  if (people.every((one) => one.lately === 0 && one.now === 0))
    return <p className="pt-2 text-soft text-sm">Nobody met outside their hours lately.</p>
  return (
    <section aria-label="Who bore the bad hours" className="pt-3">
      <h3 className="font-semibold text-sm">Who bore the bad hours</h3>
      <Suspense fallback={<Loading what="the picture" />}>
        <BalanceChart people={people} weeks={past.weeks} adds={shortTime(time.start, zone)} />
      </Suspense>
    </section>
  )
}

/** Up to four times side by side: everyone's local hour, who is missing or stretched, places, how fairly it is shared. */
export const CompareSheet = ({
  arranging,
  onTake,
  onClose,
}: {
  arranging: Arranging
  onTake: (opening: Opening) => void
  onClose: () => void
}) => {
  const { brief, zone, chosen } = arranging
  const times = compared(arranging)
  const rows = rowsOf(arranging, times)
  const [all, setAll] = useState(false)
  // Who bore the bad hours lately is of interest whichever time it is.
  const differing = rows.filter((row) => row.bore || new Set(row.cells.map((cell) => cell.says)).size > 1)
  // Of one time, or of times that are all alike, everything is of interest.
  const alike = differing.length && times.length > 1 ? rows.filter((row) => !differing.includes(row)) : []
  const shown = all ? rows : rows.filter((row) => !alike.includes(row))
  return (
    <Sheet open onClose={onClose} title="Side by side" over>
      {times.length === 0 ? (
        <p>There is nothing to compare yet: no time works, and none is chosen.</p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full min-w-[480px] border-collapse text-left text-sm">
            <thead>
              <tr className="align-bottom">
                <th scope="col" className="pr-2 pb-1 font-normal text-soft">
                  In their own time
                </th>
                {times.map((time) => (
                  <th key={time.start} scope="col" className="pr-2 pb-1">
                    {shortTime(time.start, zone)}
                    {time.start === brief.meeting?.start && (
                      <span className="block font-normal text-soft">as it is</span>
                    )}
                    {time.start === chosen?.start && (
                      <span className="block font-normal text-soft">chosen</span>
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.map((row) => (
                <tr key={row.key} className="border-line border-t align-top">
                  <th scope="row" className="py-1 pr-2 font-normal">
                    {row.name}
                    {row.about && <span className="block text-[12.5px] text-soft">{row.about}</span>}
                  </th>
                  {row.cells.map((cell, i) => (
                    <td key={times[i]?.start} className="py-1 pr-2 tabular-nums">
                      {cell.said}
                    </td>
                  ))}
                </tr>
              ))}
              <tr className="border-line border-t">
                <td />
                {times.map((time) => (
                  <td key={time.start} className="py-2 pr-2">
                    <Button
                      disabled={time.start === chosen?.start}
                      onClick={() => {
                        onTake(time)
                        onClose()
                      }}
                    >
                      Choose it
                    </Button>
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
          {alike.length > 0 && (
            <p className="py-1.5 text-sm">
              {!all && (
                <span className="text-soft">
                  The same at each of these: {alike.map((row) => row.name).join(', ')}.{' '}
                </span>
              )}
              <button
                type="button"
                className="min-h-7 text-gentian underline underline-offset-2 max-md:min-h-thumb"
                onClick={() => setAll(!all)}
              >
                {all ? 'Only what differs' : 'Show everything'}
              </button>
            </p>
          )}
          <Balance arranging={arranging} time={times[0]} />
        </div>
      )}
    </Sheet>
  )
}
