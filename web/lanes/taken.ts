import type { LaneTime } from '@marmot/core/availability'
import { ribbonFill } from '@marmot/core/openings'
import { type Day, HOUR } from '@marmot/core/time'
import { RIBBON_DAYS } from './lens.ts'

/** How full each day of a lane is, of eight hours: the ribbon's fill when there is no brief. Whoever is away is so all day. */
export const takenFill = (time: LaneTime, zone: string, first: Day, days = RIBBON_DAYS): Float32Array => {
  const taken = time.spans.filter(
    (span) => span.state === 'away' || (span.state !== 'listed' && span.end - span.start < 20 * HOUR),
  )
  return ribbonFill(
    taken.map((span) => ({ ...span, missing: 0, stretch: 0 })),
    zone,
    first,
    days,
  )
}
