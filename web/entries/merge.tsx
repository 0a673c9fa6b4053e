import type { EntryOnWire } from '@marmot/contract/entries'
import { textOfNote } from '@marmot/core/entries'
import type { SpanState } from '@marmot/core/sharing'
import { spanInWords } from '@marmot/core/time'
import { useMe, useNow } from '../platform/session.tsx'
import { Button } from '../ui/parts.tsx'
import { TAKES } from './takes-time.tsx'

/** A field of which mine and the newest differ. */
interface Difference {
  readonly name: string
  readonly mine: string
  readonly theirs: string
}

interface Mine {
  readonly title: string
  readonly place: string
  readonly note: string
  readonly shows: SpanState
  readonly private: boolean
  readonly start: number
  readonly end: number
}

const useDifferences = (mine: Mine, newest: EntryOnWire): Difference[] => {
  const { zone } = useMe()
  const now = useNow()
  const pairs: Difference[] = [
    { name: 'Title', mine: mine.title, theirs: newest.title },
    {
      name: 'Time',
      mine: spanInWords(mine.start, mine.end, zone, now),
      theirs: spanInWords(Date.parse(newest.start), Date.parse(newest.end), zone, now),
    },
    { name: 'Where', mine: mine.place, theirs: newest.placeText },
    { name: 'Description', mine: textOfNote(mine.note), theirs: textOfNote(newest.note) },
    { name: 'Takes time', mine: TAKES[mine.shows], theirs: TAKES[newest.shows] },
    {
      name: 'Read by',
      mine: mine.private ? 'nobody' : 'as shared',
      theirs: newest.private ? 'nobody' : 'as shared',
    },
  ]
  return pairs.filter((pair) => pair.mine !== pair.theirs)
}

/** Somebody changed the entry while it was open: mine beside the newest, and what to keep. */
export const Merge = ({
  mine,
  newest,
  busy,
  onMine,
  onTheirs,
  onBoth,
}: {
  mine: Mine
  newest: EntryOnWire
  busy: boolean
  onMine: () => void
  onTheirs: () => void
  onBoth: () => void
}) => {
  const differences = useDifferences(mine, newest)
  return (
    <div role="alert" className="flex flex-col gap-2 rounded-md border border-coral/60 bg-coral/8 p-3">
      <p>
        <b className="font-semibold">⚠ This was changed meanwhile.</b> Nothing of yours is lost. What is to
        stand?
      </p>
      <table className="w-full table-fixed text-sm">
        <thead>
          <tr className="text-left text-soft">
            <th className="w-20 font-normal" />
            <th className="font-normal">Yours</th>
            <th className="font-normal">Now</th>
          </tr>
        </thead>
        <tbody>
          {differences.map((one) => (
            <tr key={one.name} className="align-top">
              <th className="text-left font-normal text-soft">{one.name}</th>
              <td className="break-words pr-2">{one.mine || '(empty)'}</td>
              <td className="break-words">{one.theirs || '(empty)'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex flex-wrap gap-2">
        <Button disabled={busy} onClick={onMine}>
          Keep mine
        </Button>
        <Button disabled={busy} onClick={onTheirs}>
          Keep what is there now
        </Button>
        <Button disabled={busy} onClick={onBoth}>
          Keep both, mine as a new entry
        </Button>
      </div>
    </div>
  )
}
