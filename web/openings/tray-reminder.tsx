import { shortTime } from '@marmot/core/time'
import { Link } from 'react-router'
import { useMe } from '../platform/session.tsx'
import { asFoot } from '../ui/foot.ts'
import { useBrief } from './brief.tsx'

/** On other screens the brief in hand is one line at the bottom, so that it is not forgotten. */
export const TrayReminder = () => {
  const { brief, untouched, clear } = useBrief()
  const { zone } = useMe()
  if (untouched) return null
  const others = brief.people.length + brief.guests.length - 1
  return (
    <aside
      ref={asFoot}
      aria-label="This meeting"
      className="on-screen flex items-center gap-3 border-line border-t bg-paper px-4 py-2 max-md:flex-wrap"
    >
      <b className="truncate">{brief.title || 'A meeting without a title'}</b>
      <span className="whitespace-nowrap text-soft">
        {others} {others === 1 ? 'other' : 'others'}
        {brief.start === null ? ', no time yet' : `, ${shortTime(brief.start, zone)}`}
        {brief.places.length
          ? `, ${brief.places.length} ${brief.places.length === 1 ? 'place' : 'places'}`
          : ''}
      </span>
      <button type="button" className="ml-auto rounded px-2 py-1 text-soft hover:bg-shade" onClick={clear}>
        Forget it
      </button>
      <Link to="/arrange" className="rounded-md bg-gentian px-3 py-1 font-semibold text-gentian-ink">
        Go on arranging
      </Link>
    </aside>
  )
}
