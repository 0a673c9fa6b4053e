/** What is kept of a place in a list: what it is and where, not by which rules it is reserved. */
export interface ListedPlace {
  readonly name: string
  readonly kind: string
  readonly site: string
  readonly floor: string
  readonly seats: number
  readonly features: Readonly<Record<string, number>>
  readonly about: string
  /** The mail address of whoever looks after it. */
  readonly steward: string
}

/** The columns of such a list; the first three have to be there. */
export const PLACE_COLUMNS = [
  'name',
  'kind',
  'site',
  'floor',
  'seats',
  'features',
  'about',
  'steward',
] as const
type PlaceColumn = (typeof PLACE_COLUMNS)[number]
const NEEDED: readonly PlaceColumn[] = ['name', 'kind', 'site']

export const PLACE_KINDS = ['room', 'lab', 'desk', 'equipment'] as const

export const MOST_SEATS = 10_000
export const MOST_FEATURES = 30
const MOST_OF_ONE = 1000
const LONGEST = { name: 200, floor: 60, about: 2000, feature: 40 } as const

/** "2 screens; camera; step-free": features with their quantities, as one types them. */
export const featuresText = (features: Readonly<Record<string, number>>): string =>
  Object.entries(features)
    .filter(([, count]) => count > 0)
    .map(([name, count]) => (count === 1 ? name : `${count} ${name}`))
    .join('; ')

/** Reads what `featuresText` writes; a comma parts as well. Null where a part is nothing. */
export const readFeatures = (text: string): Record<string, number> | null => {
  const parts = text
    .split(/[;,\n]/)
    .map((part) => part.trim())
    .filter(Boolean)
  const read = parts.map((part) => {
    const [, count, name = ''] = /^(?:(\d{1,6})\s*[x×]?\s+)?(.+)$/.exec(part) ?? []
    const many = count === undefined ? 1 : Number(count)
    return many < 1 || many > MOST_OF_ONE || name.length > LONGEST.feature ? null : ([name, many] as const)
  })
  if (parts.length > MOST_FEATURES || read.some((part) => part === null)) return null
  return Object.fromEntries(read.flatMap((part) => (part ? [part] : [])))
}

/** A line of a list that was read: what it says of a place, or what is wrong with it. */
export interface ReadLine {
  /** As a person counts: the heading is line 1. */
  readonly line: number
  /** What is said; what has no column, or nothing in it, is left out. */
  readonly place: Partial<ListedPlace> & Pick<ListedPlace, 'name'>
  readonly wrong: readonly string[]
}

/** What a spreadsheet is kept from taking for a formula is marked by an apostrophe; what nobody can see is nothing. */
const plain = (cell: string): string =>
  cell
    .replace(/^'(?=[=+\-@\t])/, '')
    .replace(/[^\P{Cc}\n\t]/gu, '')
    .trim()

const readLine = (cells: ReadonlyMap<PlaceColumn, string>, line: number): ReadLine => {
  const wrong: string[] = []
  const textOf = (column: PlaceColumn) => plain(cells.get(column) ?? '')
  const name = textOf('name')
  if (!name) wrong.push('has no name')
  for (const column of ['name', 'floor', 'about'] as const)
    if (textOf(column).length > LONGEST[column])
      wrong.push(`its ${column} is longer than ${LONGEST[column]} letters`)
  const kind = textOf('kind').toLowerCase().replace(/s$/, '')
  if (!PLACE_KINDS.some((one) => one === kind))
    wrong.push(`“${textOf('kind')}” is no kind: ${PLACE_KINDS.join(', ')}`)
  if (!textOf('site')) wrong.push('has no site')
  const seats = textOf('seats')
  if (seats && !/^\d{1,5}$/.test(seats)) wrong.push(`“${seats}” is no number of seats`)
  else if (Number(seats) > MOST_SEATS) wrong.push(`has more than ${MOST_SEATS} seats`)
  const features = readFeatures(textOf('features'))
  if (!features) wrong.push('its features cannot be read: “2 screens; camera”')
  const given = (column: PlaceColumn) => cells.has(column)
  return {
    line,
    wrong,
    place: {
      // What is too long to be a name is shown as far as one needs to find it.
      name: name.slice(0, LONGEST.name),
      kind,
      site: textOf('site'),
      ...(given('floor') ? { floor: textOf('floor') } : {}),
      ...(seats ? { seats: Number(seats) } : {}),
      ...(given('features') && features ? { features } : {}),
      ...(given('about') ? { about: textOf('about') } : {}),
      ...(textOf('steward') ? { steward: textOf('steward').toLowerCase() } : {}),
    },
  }
}

/**
 * Reads a list of places: the first line names the columns, in any order and letters. `missing` are columns that have to be there;
 * then nothing is read. A place that is in the list twice is wrong at its second line.
 */
export const readPlaceList = (
  records: readonly (readonly string[])[],
): { readonly lines: readonly ReadLine[]; readonly missing: readonly string[] } => {
  const [heading = [], ...rest] = records
  const columns = heading.map((cell) => PLACE_COLUMNS.find((one) => one === cell.trim().toLowerCase()))
  const missing = NEEDED.filter((one) => !columns.includes(one))
  if (missing.length > 0) return { lines: [], missing }
  const seen = new Map<string, number>()
  const lines: ReadLine[] = []
  for (const [i, record] of rest.entries()) {
    if (record.every((cell) => cell.trim() === '')) continue
    const cells = new Map<PlaceColumn, string>()
    for (const [k, column] of columns.entries())
      if (column && !cells.has(column)) cells.set(column, record[k] ?? '')
    const read = readLine(cells, i + 2)
    const key = read.place.name.toLowerCase()
    const before = seen.get(key)
    if (key) seen.set(key, before ?? read.line)
    lines.push(
      before === undefined || !key
        ? read
        : { ...read, wrong: [...read.wrong, `is in the list twice: line ${before} has it, too`] },
    )
  }
  return { lines, missing: [] }
}

/** A place as it is known already. */
export interface KnownPlace extends ListedPlace {
  readonly id: string
  /** Whether whoever brings the list looks after it. */
  readonly mine: boolean
  readonly retired: boolean
}

/** What a line of a list would do. */
export type PlannedLine =
  | { readonly line: number; readonly name: string; readonly does: 'refused'; readonly words: string }
  | {
      readonly line: number
      readonly name: string
      readonly does: 'made' | 'changed' | 'same'
      /** What becomes otherwise, old and new: "seats 8, now 12". */
      readonly words: string
      /** The place that it is about; null for one that is made. */
      readonly id: string | null
      readonly place: ListedPlace
    }

const valueText = (value: ListedPlace[keyof ListedPlace]): string =>
  typeof value === 'object' ? featuresText(value) : String(value)

/** Features in no order; sites and addresses in any letters. */
const differ = (column: PlaceColumn, was: string, is: string): boolean => {
  if (column === 'features') return was.split('; ').sort().join() !== is.split('; ').sort().join()
  return column === 'about' ? was !== is : was.toLowerCase() !== is.toLowerCase()
}

const differences = (before: ListedPlace, after: ListedPlace): string[] =>
  PLACE_COLUMNS.flatMap((column) => {
    const [was, is] = [valueText(before[column]), valueText(after[column])]
    return differ(column, was, is) ? [`${column} ${was || 'nothing'}, now ${is || 'nothing'}`] : []
  })

/**
 * What a list that was read would do: places by their names, which are known once in all sites. `me` is the address of whoever brings
 * it, who looks after what is made unless the list says who.
 */
export const planPlaces = (
  lines: readonly ReadLine[],
  known: readonly KnownPlace[],
  world: {
    readonly sites: readonly string[]
    readonly stewards: ReadonlySet<string>
    readonly me: string
  },
): PlannedLine[] => {
  const byName = new Map(known.map((one) => [one.name.toLowerCase(), one]))
  const siteOf = new Map(world.sites.map((one) => [one.toLowerCase(), one]))
  return lines.map(({ line, place, wrong }): PlannedLine => {
    const before = byName.get(place.name.toLowerCase())
    const site = siteOf.get(place.site?.toLowerCase() ?? '')
    const words = [...wrong]
    if (place.site && !site) words.push(`there is no site “${place.site}”: ${world.sites.join(', ')}`)
    if (place.steward && !world.stewards.has(place.steward))
      words.push(`nobody here has the address ${place.steward}`)
    if (before && !before.mine) words.push('is looked after by somebody else')
    if (before?.retired) words.push('is not in use any more: bring it back first')
    if (words.length > 0 || !site) return { line, name: place.name, does: 'refused', words: words.join('; ') }
    const after: ListedPlace = {
      ...(before ?? { kind: '', floor: '', seats: 0, features: {}, about: '', steward: world.me }),
      ...place,
      site,
    }
    const kept: ListedPlace = {
      name: before ? before.name : after.name,
      kind: after.kind,
      site,
      floor: after.floor,
      seats: after.seats,
      features: after.features,
      about: after.about,
      steward: after.steward,
    }
    const differs = before ? differences(before, kept) : []
    return {
      line,
      name: kept.name,
      does: before ? (differs.length > 0 ? 'changed' : 'same') : 'made',
      words: differs.join('; '),
      id: before?.id ?? null,
      place: kept,
    }
  })
}
