import type { Brief } from '@marmot/contract/briefs'
import { type Change, relaxed } from '@marmot/core/openings'

/** The brief with these people asked too, required; nobody twice. */
export const withPeople = (brief: Brief, ids: readonly string[]): Partial<Brief> => {
  const fresh = ids.filter((id) => !brief.people.some((one) => one.id === id))
  return fresh.length === 0
    ? {}
    : { people: [...brief.people, ...fresh.map((id) => ({ id, required: true, group: null }))] }
}

/** The brief with a guest asked too, required; no address twice. */
export const withGuest = (brief: Brief, guest: { name: string; address: string }): Partial<Brief> =>
  brief.guests.some((one) => one.address === guest.address)
    ? {}
    : { guests: [...brief.guests, { ...guest, required: true }] }

/** The brief with a person (by id) or guest (by address) optional who was required, or the other way round. */
export const withRequiredTurned = (brief: Brief, id: string): Partial<Brief> => ({
  people: brief.people.map((one) => (one.id === id ? { ...one, required: !one.required, group: null } : one)),
  guests: brief.guests.map((one) => (one.address === id ? { ...one, required: !one.required } : one)),
})

/** The brief without a person (by id) or guest (by address). */
export const withoutMember = (brief: Brief, id: string): Partial<Brief> => ({
  people: brief.people.filter((one) => one.id !== id),
  guests: brief.guests.filter((one) => one.address !== id),
})

/** The brief with a place wanted that was not, or the other way round. */
export const withPlaceTurned = (brief: Brief, id: string): Partial<Brief> => ({
  places: brief.places.includes(id) ? brief.places.filter((each) => each !== id) : [...brief.places, id],
})

const withNeed = (brief: Brief, need: number, change: Partial<Brief['needs'][number]>): Partial<Brief> => ({
  needs: brief.needs.map((each, i) => (i === need ? { ...each, ...change } : each)),
})

const changed = (brief: Brief, change: Change): Partial<Brief> => {
  switch (change.kind) {
    case 'optional':
      return {
        people: brief.people.map((one) => (one.id === change.id ? { ...one, required: false } : one)),
        guests: brief.guests.map((one) => (one.address === change.id ? { ...one, required: false } : one)),
      }
    case 'shorten':
      return { minutes: change.minutes }
    case 'later':
      return { toDay: brief.toDay + change.days }
    case 'fewer':
      return {
        groups: brief.groups.map((group) =>
          group.id === change.group ? { ...group, atLeast: change.atLeast } : group,
        ),
      }
    case 'seats':
      return withNeed(brief, change.need, { seats: change.seats })
    case 'features':
      return withNeed(brief, change.need, { features: {} })
    case 'site':
      return withNeed(brief, change.need, { siteId: change.siteId })
    case 'no-places':
      return { placesMust: false }
    case 'split':
      return { people: brief.people.filter((one) => !change.second.includes(one.id)) }
    default:
      return {
        rules: { ...relaxed(brief.rules, change), weekdays: [...relaxed(brief.rules, change).weekdays] },
      }
  }
}

/** The brief of the second of two meetings, when the changes split one in two: the organizer is in both. */
export const secondOf = (brief: Brief, changes: readonly Change[], organizerId: string): Brief | null => {
  const split = changes.find((change) => change.kind === 'split')
  if (!split) return null
  return {
    ...brief,
    people: brief.people.filter((one) => one.id === organizerId || split.second.includes(one.id)),
    guests: [],
    start: null,
    hold: null,
  }
}

/** What of a brief becomes another by changes, one after the other: `applyChange` of core, for the brief in hand. */
export const changedBrief = (brief: Brief, changes: readonly Change[]): Partial<Brief> => {
  const sofar: Partial<Brief> = {}
  for (const change of changes) Object.assign(sofar, changed({ ...brief, ...sofar }, change))
  return sofar
}
