import { createHash } from 'node:crypto'
import { decodeText } from '@marmot/core/feeds'
import {
  featuresText,
  type ListedPlace,
  PLACE_COLUMNS,
  type PlannedLine,
  planPlaces,
  readPlaceList,
} from '@marmot/core/reservations'
import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'
import { ProblemError } from '../platform/problems.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { type PlaceToKeep, worldOf } from './keeping.ts'

/** More places than this are no list that somebody has looked through. */
const MOST_LINES = 5000
const DELIMITERS = [',', ';', '\t'] as const

/** A list of places as CSV (RFC 4180), in the columns that are read again; what a spreadsheet would take for a formula is marked. */
export const placesCsv = (places: readonly ListedPlace[]): string =>
  stringify(
    places.map((place) => ({ ...place, features: featuresText(place.features) })),
    { header: true, columns: [...PLACE_COLUMNS], bom: true, escape_formulas: true, record_delimiter: '\r\n' },
  )

const bad = (message: string): ProblemError =>
  new ProblemError(422, 'bad-list', `${message} Nothing was changed.`, {
    fields: [{ path: 'file', message: 'cannot be read' }],
  })

/** The cells of a CSV file, whatever it is encoded in; parted by whichever sign its first line has most of. */
const recordsOf = (bytes: Uint8Array): string[][] => {
  const text = decodeText(bytes, null).replace(/^\uFEFF/, '')
  const [heading = ''] = text.split(/\r\n|\r|\n/, 1)
  const [delimiter] = [...DELIMITERS].sort((a, b) => heading.split(b).length - heading.split(a).length)
  let records: string[][]
  try {
    records = parse(text, {
      delimiter,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: false,
      to: MOST_LINES + 2,
    })
  } catch {
    throw bad('The file is no list: save it as CSV, with a line for each place.')
  }
  if (records.length > MOST_LINES + 1) throw bad(`A list has ${MOST_LINES} places at most.`)
  return records
}

/** What a list would do, and what is written then; `plan` names it. */
export interface PlannedList {
  readonly lines: PlannedLine[]
  readonly plan: string
  readonly make: PlaceToKeep[]
  readonly change: (PlaceToKeep & { readonly id: string; readonly version: number })[]
}

/** Reads a list and says what it would do; in a thread of its own. Throws where it is none, or has not the columns it needs. */
export const planInThread: ThreadWork<{ bytes: Uint8Array; stewardId: string }, PlannedList> = async (
  { bytes, stewardId },
  { pool },
) => {
  const records = recordsOf(bytes)
  const { lines: read, missing } = readPlaceList(records)
  if (missing.length > 0) {
    const found = (records[0] ?? []).slice(0, 12).map((cell) => `“${cell.trim().slice(0, 40)}”`)
    throw bad(
      `The list has no column ${missing.map((one) => `“${one}”`).join(' and ')}. Its first line has ${found.join(', ') || 'nothing'}.`,
    )
  }
  if (read.length === 0) throw bad('The list names no place.')
  const { known, sites, people, me } = await worldOf(pool, stewardId)
  const lines = planPlaces(read, known, { sites: [...sites.keys()], stewards: new Set(people.keys()), me })
  const versions = new Map(known.map((one) => [one.id, one.version]))
  const kept = (place: ListedPlace): PlaceToKeep => ({
    ...place,
    siteId: sites.get(place.site) ?? '',
    stewardId: people.get(place.steward.toLowerCase()) ?? stewardId,
  })
  const make: PlannedList['make'] = []
  const change: PlannedList['change'] = []
  for (const line of lines) {
    if (line.does === 'made') make.push(kept(line.place))
    if (line.does === 'changed' && line.id)
      change.push({ ...kept(line.place), id: line.id, version: versions.get(line.id) ?? 0 })
  }
  const plan = createHash('sha256')
    .update(JSON.stringify([lines, change.map((one) => one.version)]))
    .digest('hex')
  return { lines, plan, make, change }
}
