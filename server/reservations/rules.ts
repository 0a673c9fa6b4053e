import { reservableOf } from '@marmot/contract/resources'
import { type PlaceRules, refusalInWords, refusalOf, rulesTrouble } from '@marmot/core/reservations'
import { DAY, instantText } from '@marmot/core/time'
import type { Sql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { lockRules, placeOfSteward, readResources, writeRules } from '../resources/index.ts'
import { type HitReservation, hitsOf } from './hits.ts'
import { lockResources } from './store.ts'

/** How far ahead something can be reserved at all. */
const AHEAD = 600 * DAY

/** Refuses rules that nobody can have meant. */
const checkRules = (rules: PlaceRules, teams: readonly string[]): void => {
  const trouble = rulesTrouble(rules)
  const unknown = rules.teams.find((name) => !teams.includes(name))
  if (!trouble && unknown === undefined) return
  const message = trouble?.message ?? `There is no team called "${unknown}".`
  throw new ProblemError(422, 'bad-rules', message, {
    fields: [{ path: trouble?.field ?? 'teams', message }],
  })
}

/** What rules that were written would refuse of what is reserved already, each as a sentence. */
const refusedNow = async (sql: Sql, resourceId: string, now: number) => {
  const hits = await hitsOf(sql, resourceId, [{ start: now, end: now + AHEAD }], now)
  const byOwner = new Map<string, HitReservation[]>()
  for (const hit of hits) byOwner.set(hit.ownerId, [...(byOwner.get(hit.ownerId) ?? []), hit])
  const found = []
  for (const [ownerId, its] of byOwner) {
    const [resource] = await readResources(sql, ownerId, now, [resourceId])
    if (!resource) continue
    const place = { ...reservableOf(resource), mine: 0 }
    // It is too late for what is had already in no case; and all of it is counted here.
    const lenient = { ...place, rules: { ...place.rules, notice: null } }
    for (const [had, hit] of its.entries()) {
      const refusal = refusalOf(lenient, [], hit, { now, had })
      if (refusal)
        found.push({
          reservationId: hit.id,
          by: hit.by,
          start: instantText(hit.start),
          end: instantText(hit.end),
          words: `${place.name} ${refusalInWords(refusal, place, hit, place.zone)}`,
        })
    }
  }
  return found.sort((a, b) => (a.start < b.start ? -1 : 1))
}

/**
 * Sets the rules of a place for whoever looks after it, in the caller's transaction, and gives what of it is reserved that they would
 * not allow: that stays. Looked at, the transaction is rolled back. Throws where they were set meanwhile by somebody else.
 */
export const setRules = async (
  sql: Sql,
  resourceId: string,
  stewardId: string,
  { version, ...rules }: PlaceRules & { readonly version?: number },
  now: number,
) => {
  await placeOfSteward(sql, resourceId, stewardId, now)
  await lockResources(sql, [resourceId])
  const known = await lockRules(sql, resourceId)
  checkRules(rules, known.teams)
  if (version !== undefined && version !== known.version)
    throw new ProblemError(
      409,
      'stale',
      'The rules were changed meanwhile. Nothing of yours was kept: look at them anew.',
      {
        more: { version: known.version },
      },
    )
  const written = await writeRules(sql, resourceId, rules)
  return { version: written, hits: await refusedNow(sql, resourceId, now) }
}
