import { useState } from 'react'
import { Button, flowerOf, Loading, Trouble } from '../ui/parts.tsx'
import type { Pictures } from '../ui/pictures.ts'
import { Notes } from './notes.tsx'
import { Points } from './points.tsx'
import { type AgendaAddress, type Other, type Standing, useTogether } from './together.ts'

const Others = ({ others, standing }: { others: readonly Other[]; standing: Standing }) => {
  const names = [...new Set(others.map((one) => one.name))]
  return (
    <p role="status" className="flex flex-wrap items-center gap-x-3 text-soft">
      {standing === 'away' ? (
        <span className="font-semibold text-ink">
          Not connected. What you write is kept here, and sent when the connection is back.
        </span>
      ) : names.length ? (
        <>
          Also here:
          {names.map((name) => (
            <span key={name} className="flex items-center gap-1.5 text-ink">
              <span className="size-2.5 rounded-full" style={{ background: flowerOf(name) }} aria-hidden />
              {name}
            </span>
          ))}
        </>
      ) : (
        'Everybody who takes part can write here.'
      )}
    </p>
  )
}

interface AgendaProps {
  readonly address: AgendaAddress
  readonly people: readonly string[]
  /** Of the meeting, in minutes. */
  readonly length: number
  readonly pictures: Pictures
}

const Open = ({ address, people, length, pictures, onAnew }: AgendaProps & { onAnew: () => void }) => {
  const { together, standing, others } = useTogether(address)
  if (typeof standing === 'object' && !together) return <Trouble>{standing.over}</Trouble>
  if (!together)
    return standing === 'away' ? (
      <p role="status">The agenda cannot be reached just now. It opens by itself when it can.</p>
    ) : (
      <Loading what="the agenda" />
    )
  return (
    <div className="flex flex-col gap-3">
      {typeof standing === 'object' ? (
        <Trouble action={<Button onClick={onAnew}>Open it again</Button>}>{standing.over}</Trouble>
      ) : (
        <Others others={others} standing={standing} />
      )}
      <Points together={together} others={others} people={people} length={length} />
      <section aria-label="Notes" className="flex flex-col gap-1">
        <h3 className="font-semibold">Notes</h3>
        <Notes together={together} pictures={pictures} />
      </section>
    </div>
  )
}

/** The agenda of a date of a meeting, which all who take part write together. Fetched only where one is written. */
export const AgendaEditor = (props: AgendaProps) => {
  const [times, setTimes] = useState(0)
  return <Open key={times} {...props} onAnew={() => setTimes(times + 1)} />
}
