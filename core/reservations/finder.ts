/** What somebody looks for in a place, beside when. */
export interface Wish {
  /** Every word has to be found in its name, site, floor, kind or description. */
  readonly words: readonly string[]
  readonly kind: string | null
  readonly siteId: string | null
  readonly floor: string | null
  /** 0 for any. */
  readonly seats: number
  /** Features with how many of each. */
  readonly features: Readonly<Record<string, number>>
}

/** What of a place is looked at. */
export interface Findable {
  readonly id: string
  readonly name: string
  readonly kind: string
  readonly siteId: string
  readonly site: string
  readonly floor: string
  readonly seats: number
  readonly features: Readonly<Record<string, number>>
  readonly about: string
}

const NUMBERS = [
  'zero',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
]
const SEATS = /^(seats?|people|persons|places)$/
/** Longer texts are no wish. */
const MOST_WORDS = 20

const plain = (text: string): string => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
const numberIn = (word: string): number | null => {
  const at = NUMBERS.indexOf(word)
  if (at >= 0) return at
  return /^\d{1,4}$/.test(word) ? Number(word) : null
}
/** A word without the ending of many: "screens" and "screen" are one. */
const single = (word: string): string => plain(word).replace(/(?<=[a-z]{3})s$/, '')

/** The feature whose name some words begin with, and how many of them it takes: "band saw", "height-adjustable". */
const featureAt = (
  words: readonly string[],
  features: readonly string[],
): { name: string; many: number } | null => {
  let best: { name: string; many: number } | null = null
  for (const name of features) {
    const parts = name.split(/[\s-]+/).map(single)
    const given = words.slice(0, parts.length).map(single)
    const whole = given.length === parts.length && parts.every((part, i) => part === given[i])
    const joined = words[0] !== undefined && single(words[0]) === single(name)
    const many = joined ? 1 : whole ? parts.length : 0
    if (many > (best?.many ?? 0)) best = { name, many }
  }
  return best
}

/**
 * What is typed, read as a wish: "two screens" and "2 screens" as features with how many, "8 seats" and "for 8" as seats; every
 * other word is looked for. `features` are the names of those that any place has.
 */
export const readWish = (
  text: string,
  features: readonly string[],
): Pick<Wish, 'words' | 'seats' | 'features'> => {
  const typed = plain(text)
    .split(/[\s,;]+/)
    .filter(Boolean)
    .slice(0, MOST_WORDS)
  const words: string[] = []
  const wanted: Record<string, number> = {}
  let seats = 0
  for (let i = 0; i < typed.length; ) {
    const word = typed[i] ?? ''
    const next = typed[i + 1] ?? ''
    const count = numberIn(word)
    if (word === 'for' && numberIn(next) !== null) {
      seats = numberIn(next) ?? 0
      i += 2
    } else if (count !== null && SEATS.test(next)) {
      seats = count
      i += 2
    } else {
      const from = count === null ? i : i + 1
      const feature = featureAt(typed.slice(from), features)
      if (feature) {
        wanted[feature.name] = count ?? 1
        i = from + feature.many
      } else {
        words.push(word)
        i++
      }
    }
  }
  return {
    words: words.filter((word) => !['with', 'and', 'a', 'the'].includes(word)),
    seats,
    features: wanted,
  }
}

/** A wish by its parts, each of which can be given up. */
type Part =
  | { readonly kind: 'words' | 'kind' | 'site' | 'floor' | 'seats' }
  | { readonly kind: 'feature'; readonly name: string }

const partsOf = (wish: Wish): Part[] => [
  ...(wish.words.length ? [{ kind: 'words' as const }] : []),
  ...(wish.kind ? [{ kind: 'kind' as const }] : []),
  ...(wish.siteId ? [{ kind: 'site' as const }] : []),
  ...(wish.floor ? [{ kind: 'floor' as const }] : []),
  ...(wish.seats ? [{ kind: 'seats' as const }] : []),
  ...Object.keys(wish.features).map((name) => ({ kind: 'feature' as const, name })),
]

/** A wish without one of its parts. */
export const withoutPart = (wish: Wish, part: Part): Wish => {
  switch (part.kind) {
    case 'words':
      return { ...wish, words: [] }
    case 'kind':
      return { ...wish, kind: null }
    case 'site':
      return { ...wish, siteId: null }
    case 'floor':
      return { ...wish, floor: null }
    case 'seats':
      return { ...wish, seats: 0 }
    case 'feature': {
      const { [part.name]: _, ...features } = wish.features
      return { ...wish, features }
    }
  }
}

/** Whether a place is what somebody wishes, whenever that is. */
export const fits = (place: Findable, wish: Wish): boolean => {
  if (wish.kind !== null && place.kind !== wish.kind) return false
  if (wish.siteId !== null && place.siteId !== wish.siteId) return false
  if (wish.floor !== null && place.floor !== wish.floor) return false
  if (place.seats < wish.seats) return false
  for (const name in wish.features) if ((place.features[name] ?? 0) < (wish.features[name] ?? 0)) return false
  if (wish.words.length === 0) return true
  const text = plain(
    `${place.name} ${place.site} ${place.floor} ${place.kind} ${place.about} ${Object.keys(place.features).join(' ')}`,
  )
  return wish.words.every((word) => text.includes(word))
}

/** A part of a wish that can be given up, and how many places that opens. */
export interface GivenUp {
  readonly part: Part
  readonly opens: number
}

export interface Found<P extends Findable> {
  /** What fits, best first: at home before elsewhere, then the fewest seats and features too many. */
  readonly places: readonly P[]
  /** Where nothing does: what to give up, that which opens most first. `free` counts as a wish, too. */
  readonly instead: readonly (
    | GivenUp
    | { readonly part: { readonly kind: 'free' }; readonly opens: number }
  )[]
}

const tooMuch = (place: Findable, wish: Wish): number =>
  Math.max(0, place.seats - Math.max(1, wish.seats)) +
  Object.entries(place.features).reduce(
    (sum, [name, count]) => sum + Math.max(0, count - (wish.features[name] ?? 0)),
    0,
  )

/**
 * The places that somebody looks for. `isFree` says whether one is free then, where that is wished, too; null where it is not.
 * Where nothing fits, each part of the wish is tried without.
 */
export const findPlaces = <P extends Findable>(
  places: readonly P[],
  wish: Wish,
  isFree: ((place: P) => boolean) | null,
  homeSite: string,
): Found<P> => {
  const found = places.filter((place) => fits(place, wish) && (isFree === null || isFree(place)))
  if (found.length > 0) {
    const fit = new Map(found.map((place) => [place, tooMuch(place, wish)]))
    return {
      places: found.sort(
        (a, b) =>
          Number(b.siteId === homeSite) - Number(a.siteId === homeSite) ||
          (fit.get(a) ?? 0) - (fit.get(b) ?? 0) ||
          a.name.localeCompare(b.name, 'en', { numeric: true }),
      ),
      instead: [],
    }
  }
  const without = partsOf(wish).map((part) => {
    const less = withoutPart(wish, part)
    return {
      part,
      opens: places.filter((place) => fits(place, less) && (isFree === null || isFree(place))).length,
    }
  })
  const free = isFree && {
    part: { kind: 'free' as const },
    opens: places.filter((place) => fits(place, wish)).length,
  }
  return {
    places: [],
    instead: [...without, ...(free ? [free] : [])]
      .filter((one) => one.opens > 0)
      .sort((a, b) => b.opens - a.opens),
  }
}
