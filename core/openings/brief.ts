import type { LaneTime } from '../availability/index.ts'
import type { Place } from '../reservations/index.ts'
import { DAY, type Instant, isZone, MINUTE } from '../time/index.ts'
import type { Avoidable, Forecast } from '../weather/index.ts'

/** Somebody whose time an opening must, or should, fit. */
export interface Asked {
  readonly id: string
  readonly required: boolean
  /** The group they are one of: then they are neither required nor optional themselves. */
  readonly group?: string
  /** Where they would sit, when they come to a room. */
  readonly siteId?: string
  readonly time: LaneTime
}

/** People of whom any `atLeast` are enough. */
export interface Group {
  readonly id: string
  readonly name: string
  readonly atLeast: number
}

/** What an opening may cost those who are required. Minutes, unless said otherwise. */
export interface Rules {
  /** How far an opening may lie outside somebody's working hours: 0 is strict, null is any hour. */
  readonly stretch: number | null
  /** The earliest and latest local hour for anyone, in minutes since their midnight; null is none. */
  readonly earliest: number | null
  readonly latest: number | null
  /** Weekdays in the organizer's zone, 1 is Monday. */
  readonly weekdays: readonly number[]
  /** Whether lunch breaks are kept. */
  readonly lunch: boolean
  /** What must stay free before and after, for each person. */
  readonly before: number
  readonly after: number
  /** The most that may stand in somebody's day, this meeting counted; null is no limit. */
  readonly mostADay: number | null
  /** How long before it begins a meeting must be known. */
  readonly notice: number
  /** Whether time that is only tentative or held may be used. */
  readonly tentative: boolean
}

export const USUAL_RULES: Rules = {
  stretch: 0,
  earliest: null,
  latest: null,
  weekdays: [1, 2, 3, 4, 5, 6, 7],
  lunch: true,
  before: 0,
  after: 0,
  mostADay: null,
  notice: 5,
  tentative: false,
}

/** What kind of place a meeting needs: `count` of a kind, on one site or on each where enough of the people are. */
export interface PlaceNeed {
  readonly kind: 'room' | 'lab' | 'desk' | 'equipment'
  /** A site's id, or null: on every site where at least `least` of the people are. */
  readonly siteId: string | null
  readonly least: number
  readonly count: number
  /** Seats together; null is as many as there are people on that site. */
  readonly seats: number | null
  /** Features with their quantities: `{"screens": 2}`. */
  readonly features: Readonly<Record<string, number>>
}

/** A place as the search sees it. */
export interface SearchPlace extends Place {
  readonly kind: PlaceNeed['kind']
  readonly floor: string
  readonly features: Readonly<Record<string, number>>
}

export interface PlacesWanted {
  /** Particular places, by id. */
  readonly ids: readonly string[]
  readonly needs: readonly PlaceNeed[]
  /** True when a time without them is no opening; else it is one that says what is missing. */
  readonly must: boolean
  readonly all: readonly SearchPlace[]
  /** How many guests come to the organizer's site, where nobody knows better. */
  readonly guests: number
  readonly homeSite: string
}

/** That a meeting is out of doors: what is expected there, as far as it is known, and what of it is rather to be avoided. */
export interface Outdoors {
  readonly forecast: Forecast | null
  readonly avoid: readonly Avoidable[]
}

/** What a meeting needs, as far as the search goes. Instants in milliseconds, lengths in minutes. */
export interface SearchBrief {
  readonly people: readonly Asked[]
  readonly groups?: readonly Group[]
  readonly minutes: number
  /** The opening lies inside `[from, to)`. */
  readonly from: Instant
  readonly to: Instant
  readonly step: number
  /** The organizer's zone: starts lie on the grid of `step` minutes of its clock, and days and weekdays are its. */
  readonly zone: string
  readonly now: Instant
  readonly rules: Rules
  readonly places?: PlacesWanted
  /** Null, or left out, where it is under a roof. */
  readonly outdoors?: Outdoors | null
  /** Minutes that people were stretched lately, by id: who bore most is spared. */
  readonly past?: Readonly<Record<string, number>>
}

export const STEPS = [5, 10, 15, 30, 60] as const
const LONGEST_WINDOW = 732 * DAY
export const MOST_PEOPLE = 500
export const MOST_PLACES_ASKED = 8

export type BadBriefCode =
  | 'no-window'
  | 'window-past'
  | 'window-too-long'
  | 'bad-length'
  | 'longer-than-window'
  | 'bad-step'
  | 'bad-rules'
  | 'nobody-required'
  | 'same-person-twice'
  | 'too-many-people'
  | 'group-too-small'
  | 'no-such-place'
  | 'too-many-places'
  | 'bad-zone'

/** A brief that cannot be searched; `code` is stable, the message is for a person. */
export class BadBrief extends Error {
  constructor(
    readonly code: BadBriefCode,
    message: string,
  ) {
    super(message)
  }
}

const twice = (ids: readonly string[]): string | undefined => ids.find((id, i) => ids.indexOf(id) !== i)

/** Throws `BadBrief` for the first thing that makes a brief unsearchable, in the order a person would fix it. */
export const checkBrief = (brief: SearchBrief): void => {
  const refuse = (code: BadBriefCode, message: string): never => {
    throw new BadBrief(code, message)
  }
  const { people, groups = [], rules, places } = brief
  if (people.length > MOST_PEOPLE)
    refuse('too-many-people', `A search takes at most ${MOST_PEOPLE} people; this one has ${people.length}.`)
  if (twice(people.map((one) => one.id)) !== undefined)
    refuse('same-person-twice', 'The same person is in it twice. Take one of the two out.')
  if (!people.some((one) => one.required && !one.group) && groups.length === 0)
    refuse('nobody-required', 'At least one person has to be required.')
  for (const group of groups) {
    const size = people.filter((one) => one.group === group.id).length
    if (group.atLeast < 1 || group.atLeast > size)
      refuse(
        'group-too-small',
        `${group.name} has ${size} people: at least ${group.atLeast} of them cannot come.`,
      )
  }
  if (!isZone(brief.zone)) refuse('bad-zone', `There is no time zone called "${brief.zone}".`)
  if (!Number.isInteger(brief.minutes) || brief.minutes < 1)
    refuse('bad-length', 'A meeting needs a length of at least a minute.')
  if (!STEPS.some((step) => step === brief.step))
    refuse('bad-step', `Starts can be ${STEPS.slice(0, -1).join(', ')} or ${STEPS.at(-1)} minutes apart.`)
  if (!(brief.to > brief.from)) refuse('no-window', 'The window ends before it starts.')
  if (brief.to - brief.from > LONGEST_WINDOW)
    refuse('window-too-long', 'The window is longer than two years.')
  if (brief.to <= brief.now) refuse('window-past', 'The window is over. Choose days that are still to come.')
  if (brief.minutes * MINUTE > brief.to - brief.from)
    refuse('longer-than-window', 'The meeting is longer than the window it should lie in.')
  const negative = [rules.stretch, rules.before, rules.after, rules.notice].some(
    (each) => each !== null && each < 0,
  )
  const turned =
    rules.earliest !== null && rules.latest !== null && rules.latest - rules.earliest < brief.minutes
  if (negative || turned || rules.weekdays.length === 0 || (rules.mostADay !== null && rules.mostADay < 1))
    refuse(
      'bad-rules',
      turned
        ? 'Between the earliest and the latest hour there is no room for the meeting.'
        : 'The rules leave no time at all: look at the weekdays, the gaps and the limit a day.',
    )
  if (!places) return
  if (places.ids.some((id) => !places.all.some((place) => place.id === id)))
    refuse('no-such-place', 'One of the places does not exist any more. Take it out of this meeting.')
  const asked = places.ids.length + places.needs.reduce((sum, need) => sum + need.count, 0)
  if (asked > MOST_PLACES_ASKED)
    refuse('too-many-places', `A meeting can ask for at most ${MOST_PLACES_ASKED} places.`)
}
