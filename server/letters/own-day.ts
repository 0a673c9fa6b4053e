import type { LaneTime } from '@marmot/core/availability'
import { type OwnDay, ownDay } from '@marmot/core/lanes'
import { OWN_LEVEL } from '@marmot/core/sharing'
import { DAY, type Instant, zoneTable } from '@marmot/core/time'
import { ownFeedTime } from '../availability/index.ts'
import { gapsOf, ownOccurrences } from '../entries/index.ts'
import { readOffOf } from '../holidays/index.ts'
import { hoursOf } from '../people/index.ts'
import { type Sql, together } from '../platform/database.ts'

/** A meeting as it is told to somebody: where their own day around it is wanted. */
export interface Around {
  readonly personId: string
  readonly zone: string
  readonly entryId: string
  readonly title: string
  readonly start: Instant
  readonly end: Instant
}

/**
 * Somebody's own day around a time that they are invited to, without what they are invited to itself. It goes out by mail: what
 * they keep private is not named.
 */
export const readOwnDay = async (
  sql: Sql,
  { personId, zone, entryId, title, start, end }: Around,
  now: Instant,
): Promise<OwnDay> => {
  const [from, to] = [start - DAY, end + DAY]
  const [occurrences, gaps, hours, feeds, off] = await together([
    ownOccurrences(sql, personId, from, to, { level: OWN_LEVEL, owns: true }, now),
    gapsOf(sql, [personId], from, to),
    hoursOf(sql, [personId]),
    ownFeedTime(sql, [personId], from, to),
    readOffOf(sql, personId, from, to),
  ])
  const elsewhere = feeds.get(personId)
  const lane: LaneTime = {
    zone,
    known: true,
    hours: hours.get(personId) ?? [],
    outside: 'outside',
    unknown: elsewhere?.unknown ?? [],
    spans: [
      ...off,
      ...(elsewhere?.spans ?? []).map((span) => ({ ...span, title: 'something in another calendar' })),
      ...occurrences.flatMap((one) =>
        one.state === null || one.entryId === entryId
          ? []
          : {
              start: Date.parse(one.start),
              end: Date.parse(one.end),
              state: one.state,
              title: one.private ? 'private' : one.title || '(no title)',
            },
      ),
      ...gaps.map((gap) => ({
        start: gap.start,
        end: gap.end,
        state: 'held' as const,
        title: 'kept free',
        gap: true,
      })),
    ],
  }
  return ownDay(lane, zoneTable(zone), { start, end }, title)
}
