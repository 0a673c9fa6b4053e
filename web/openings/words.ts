import type { Brief } from '@marmot/contract/briefs'
import type { Blocker, Change, Help, Opening, WhyNot } from '@marmot/core/openings'
import { minutesOf } from '@marmot/core/openings'
import { featureInWords } from '@marmot/core/reservations'
import {
  clockText,
  DAY,
  dayOf,
  HOUR,
  lengthInWords,
  minuteOf,
  shortDay,
  toWall,
  type ZoneTable,
} from '@marmot/core/time'
import { expectedInWords, horizonInWords } from '@marmot/core/weather'

/** Names for ids, as the screen shows them. */
export interface Names {
  /** First names of people and guests. */
  readonly person: (id: string) => string
  readonly site: (id: string) => string
  readonly zone: ZoneTable
}

/** "Tashi, Declan and Aroha". */
export const listed = (names: readonly string[]): string =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`

const until = (blocker: Blocker, zone: ZoneTable): string => {
  if (blocker.until === null || blocker.since === null) return ''
  const [begin, end] = [toWall(zone, blocker.since), toWall(zone, blocker.until)]
  const long = blocker.until - blocker.since >= DAY
  const lastDay = dayOf(minuteOf(end) === 0 ? end - 1 : end)
  if (long && dayOf(begin) === lastDay) return ' all day'
  return long ? ` until ${shortDay(lastDay)}` : ` until ${clockText(minuteOf(end))}`
}

/** Days are up to so long, where clocks change. */
const LONGEST_DAY = 25 * HOUR

const isOneDay = ({ since, until }: Blocker): boolean =>
  since !== null && until !== null && until - since <= LONGEST_DAY

/** What keeps somebody from coming: "Tashi is away until Mon 14 Dec". */
export const blockerWords = (blocker: Blocker, names: Names): string => {
  const name = names.person(blocker.id)
  switch (blocker.kind) {
    case 'hours':
      return `it lies outside ${name}’s hours`
    case 'lunch':
      return `${name} is at lunch`
    case 'bounds':
      return `it is too early or too late for ${name}`
    case 'gap':
      return `${name} has too little time between`
    case 'full':
      return `${name}’s day is full`
    case 'group':
      return `too few of ${blocker.title ?? 'the group'} can come`
    case 'tentative':
      return `${name} is perhaps busy${until(blocker, names.zone)}`
    case 'held':
      return `${name} keeps that time free${until(blocker, names.zone)}`
    case 'away':
      if (!blocker.title) return `${name} is away${until(blocker, names.zone)}`
      // A day that has a name ends with it; in whose hours needs no words.
      return `${name} is away${isOneDay(blocker) ? '' : until(blocker, names.zone)}: ${blocker.title}`
    default:
      return `${name} is ${blocker.kind}${until(blocker, names.zone)}`
  }
}

/** What is asked of places: "2 rooms in Nairobi with 2 screens". */
export const needWords = (need: Brief['needs'][number], names: Names): string => {
  const many = need.kind === 'equipment' ? 'pieces of equipment' : `${need.kind}s`
  const one = need.kind === 'equipment' ? 'equipment' : `a ${need.kind}`
  const features = Object.entries(need.features).map(([name, count]) => featureInWords(name, count))
  return [
    need.count > 1 ? `${need.count} ${many}` : one,
    need.siteId ? `in ${names.site(need.siteId)}` : 'on each site',
    ...(features.length ? [`with ${listed(features)}`] : []),
  ].join(' ')
}

/** Why there is no opening, in a sentence. */
export const whyWords = (why: WhyNot, names: Names): string => {
  if (why.rule === 'weekdays') return 'None of these days is one of the weekdays you asked for.'
  if (why.rule === 'notice') return 'All of it is sooner than the notice you asked for.'
  if (why.rule === 'window') return 'The meeting is longer than what is left of the window.'
  if (why.places.length > 0) {
    const sites = [...new Set(why.places.map((slot) => names.site(slot.siteId)))]
    return `Everybody could come, but the places are not free together in ${listed(sites)}.`
  }
  const hours = why.people.filter((one) => one.kind === 'hours').map((one) => names.person(one.id))
  const others = why.people.filter((one) => one.kind !== 'hours').map((one) => blockerWords(one, names))
  const together = why.people.length > 1
  const parts = [
    ...others,
    ...(hours.length > 1
      ? [`the working hours of ${listed([...new Set(hours)])} do not meet`]
      : hours.map((name) => `${together ? 'otherwise it' : 'all of it'} lies outside ${name}’s hours`)),
  ]
  const sentence = listed(parts)
  return sentence
    ? `${sentence.charAt(0).toUpperCase()}${sentence.slice(1)}.`
    : 'Nobody’s time leaves room for it.'
}

/** A change as a button says it. */
export const changeWords = (change: Change, names: Names): string => {
  switch (change.kind) {
    case 'optional':
      return `Make ${names.person(change.id)} optional`
    case 'shorten':
      return `Shorten to ${lengthInWords(change.minutes)}`
    case 'stretch':
      return `Allow ${lengthInWords(change.minutes)} outside hours`
    case 'later':
      return `Look ${change.days / 7 === 1 ? 'a week' : `${change.days / 7} weeks`} further`
    case 'tentative':
      return 'Use time that is not certain'
    case 'lunch':
      return 'Use lunch breaks'
    case 'gaps':
      return 'Without time free before and after'
    case 'bounds':
      return 'Without earliest and latest hour'
    case 'limit':
      return 'Without the limit a day'
    case 'weekdays':
      return 'On any weekday'
    case 'fewer':
      return `With ${change.atLeast} of the group`
    case 'seats':
      return `A room with ${change.seats} seats`
    case 'features':
      return 'Without the features'
    case 'site':
      return `A place in ${names.site(change.siteId)}`
    case 'no-places':
      return 'Even without a place'
    case 'split':
      return `Meet twice: with ${listed(change.first.map(names.person))}, then with ${listed(change.second.map(names.person))}`
  }
}

/** "Make Aroha optional and stretch hours by 45 min". */
export const helpWords = (help: Help, names: Names): string =>
  help.changes
    .map((change, i) => {
      const words = changeWords(change, names)
      return i === 0 ? words : words.charAt(0).toLowerCase() + words.slice(1)
    })
    .join(' and ')

/** The weather of a time out of doors, or that no forecast reaches so far. */
const weatherWords = (
  { expected, until }: NonNullable<Opening['parts']['weather']>,
  zone: ZoneTable,
): string => (expected ? expectedInWords(expected) : horizonInWords(until, zone))

/** Why an opening is as good as it is, each part in words; empty when it costs nobody anything. */
export const partsWords = ({ parts }: Opening, names: Names): string[] => {
  const each = (shares: Opening['parts']['stretch'], words: (name: string, length: string) => string) =>
    [...shares]
      .sort((a, b) => b.minutes - a.minutes)
      .map((share) => words(names.person(share.id), lengthInWords(share.minutes)))
  return [
    ...(parts.weather ? [weatherWords(parts.weather, names.zone)] : []),
    ...(parts.missing.length ? [`without ${listed(parts.missing.map(names.person))}`] : []),
    ...each(parts.stretch, (name, length) => `${length} outside ${name}’s hours`),
    ...(parts.spared.length
      ? [`easier on ${listed(parts.spared.map(names.person))}, who had the bad hours lately`]
      : []),
    ...each(parts.lunch, (name, length) => `${length} of ${name}’s lunch`),
    ...each(parts.tentative, (name) => `${name} is perhaps busy`),
    ...(parts.places?.lacking ? ['a place is missing'] : []),
    ...(parts.squeezed.length
      ? [`no break around it for ${listed(parts.squeezed.map((share) => names.person(share.id)))}`]
      : []),
  ]
}

/** Everything an opening was weighed by, a line each, with the numbers: for the card’s tooltip and the comparison. */
export const scoreLines = (opening: Opening, names: Names): string[] => {
  const { parts } = opening
  const sum = (shares: Opening['parts']['stretch']) => lengthInWords(minutesOf(shares))
  return [
    ...partsWords(opening, names),
    ...(parts.stretch.length ? [`${sum(parts.stretch)} outside hours in all`] : []),
    ...(parts.fairness
      ? [`whoever bears most would stand ${lengthInWords(parts.fairness)} above the average`]
      : []),
    ...(parts.scraps ? [`${lengthInWords(parts.scraps)} left in pieces too short to use`] : []),
    ...(parts.places ? [`${parts.places.seatsWasted} seats left empty`] : []),
    parts.days === 0 ? 'today' : `in ${parts.days} ${parts.days === 1 ? 'day' : 'days'} of the window`,
  ]
}
