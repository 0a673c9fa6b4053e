import { canJoin, codeInWords, type Joining } from '@marmot/core/conferences'
import { clockText, MINUTE, minuteOf, toWall, type ZoneTable } from '@marmot/core/time'
import { Phone, Video } from 'lucide-react'
import { useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { Button } from '../ui/parts.tsx'

/** Opens the conference in a window of its own. The window is opened at the press: later, a browser would not let us. */
const openJoined = async (link: () => Promise<string>): Promise<void> => {
  const opened = window.open('', '_blank')
  try {
    const address = await link()
    if (opened) opened.location.replace(address)
    else location.assign(address)
  } catch (error) {
    opened?.close()
    throw error
  }
}

/** The way into a meeting from afar: lit from ten minutes before, with the number and the code for a telephone. */
export const Join = ({
  joining,
  start,
  end,
  now,
  zone,
  there = 0,
  link,
}: {
  joining: Joining
  start: number
  end: number
  now: number
  zone: ZoneTable
  /** How many are in it. */
  there?: number
  link: () => Promise<string>
}) => {
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState('')
  const on = canJoin({ start, end }, now, there)
  const join = async () => {
    setBusy(true)
    setTrouble('')
    try {
      await openJoined(link)
    } catch (error) {
      setTrouble(problemWords(error))
    }
    setBusy(false)
  }
  const { telephone, code } = joining
  if (!joining.link && !telephone)
    return <p className="text-soft">The conference service has not answered yet. The link comes by itself.</p>
  const over = !on && now > start
  if (over) return null
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      {joining.link && (
        <Button
          tone={on ? 'primary' : 'plain'}
          disabled={!on || busy}
          onClick={join}
          className="max-md:min-h-thumb"
        >
          <Video size={16} aria-hidden />
          {busy
            ? 'Joining…'
            : on
              ? there
                ? `Join (${there} there)`
                : 'Join'
              : `Join from ${clockText(minuteOf(toWall(zone, start - 10 * MINUTE)))}`}
        </Button>
      )}
      {telephone && (
        <span className="flex items-center gap-1.5 text-soft text-sm tabular-nums">
          <Phone size={14} aria-hidden /> {telephone}
          {code && `, code ${codeInWords(code)}`}
        </span>
      )}
      {trouble && <p className="basis-full text-coral text-sm">⚠ {trouble}</p>}
    </div>
  )
}
