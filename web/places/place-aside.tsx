import type { Span } from '@marmot/core/availability'
import { HOUR, instantOf, wallOf } from '@marmot/core/time'
import { Suspense, useState } from 'react'
import type { Lens } from '../lanes/lens.ts'
import { part } from '../platform/part.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import { PlaceSheet } from './place-sheet.tsx'
import { MORNING, nextStart } from './place-state.ts'

const CloseSheet = part(() => import('../reservations/close-sheet.tsx').then((m) => m.CloseSheet))

const RulesSheet = part(() => import('../reservations/rules-sheet.tsx').then((m) => m.RulesSheet))

/** All about a place beside its lane, and what can be done with it. */
export const PlaceAside = ({
  place,
  day,
  chosen,
  onReserve,
  onClose,
}: {
  place: PlaceLane
  day: Lens
  chosen: Span | null
  onReserve: (span: Span) => void
  onClose: () => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const [doing, setDoing] = useState<'close' | 'rules' | null>(null)
  const start = nextStart(now, instantOf(zone, wallOf(day.first, MORNING)))
  const span = chosen ?? { start, end: start + HOUR }
  if (doing)
    return (
      <Suspense>
        {doing === 'close' ? (
          <CloseSheet place={place} start={span} onClose={() => setDoing(null)} />
        ) : (
          <RulesSheet place={place} onClose={() => setDoing(null)} />
        )}
      </Suspense>
    )
  return (
    <PlaceSheet
      place={place}
      day={day}
      onReserve={() => onReserve({ start: span.start, end: span.end })}
      onShut={() => setDoing('close')}
      onRules={() => setDoing('rules')}
      onClose={onClose}
    />
  )
}
