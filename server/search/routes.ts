import { type FoundEntry, search } from '@marmot/contract/search'
import { bySoonest, wordsIn } from '@marmot/core/search'
import { detailFor } from '@marmot/core/sharing'
import { dayOf } from '@marmot/core/time'
import type pg from 'pg'
import { findContacts } from '../contacts/index.ts'
import { placesOf, whereOf } from '../entries/index.ts'
import { findSiteDays } from '../holidays/index.ts'
import { findTeams, peopleByIds } from '../people/index.ts'
import type { Routes } from '../platform/router.ts'
import { levelsFor, ownersSeenBy } from '../sharing/index.ts'
import { findTodos } from '../todos/index.ts'
import {
  alikeMine,
  alikePeopleIds,
  type FoundRow,
  findMine,
  findPeopleIds,
  findPlaces,
  findTheirs,
} from './store.ts'

const MOST_PEOPLE = 8
const MOST_PLACES = 8
const MOST_TODOS = 6
const MOST_DAYS_OFF = 6
/** So few letters look like everything. */
const LEAST_ALIKE = 4

/** What was found, as far as the asker may see it. */
interface Seen extends FoundRow {
  readonly whole: boolean
}

const own = (rows: readonly FoundRow[]): Seen[] => rows.map((row) => ({ ...row, whole: true }))

/** What was found on others' lanes, as far as their owners let the asker see it. */
const theirs = async (
  pool: pg.Pool,
  askerId: string,
  words: readonly string[],
  most: number,
  now: number,
): Promise<Seen[] | null> => {
  const owners = await ownersSeenBy(pool, askerId, now)
  const levels = await levelsFor(pool, askerId, owners, now)
  const seeing = (sees: string) => owners.filter((id) => levels.get(id)?.sees === sees)
  const lanes = { headlines: seeing('headlines'), everything: seeing('everything') }
  const rows = await findTheirs(pool, askerId, lanes, words, most, now)
  if (rows === null) return null
  return rows.flatMap((row) => {
    const level = levels.get(row.personId)
    const detail = level && detailFor(row, { level, owns: false, participates: false })
    return detail === 'headlines' || detail === 'everything'
      ? [{ ...row, whole: detail === 'everything' }]
      : []
  })
}

export const searchRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(search, async ({ query, asker }) => {
    const now = clock()
    const { q, most } = query
    const words = wordsIn(q)
    if (words.length === 0)
      return {
        entries: [],
        people: [],
        contacts: [],
        todos: [],
        daysOff: [],
        teams: [],
        places: [],
        alike: false,
        partly: false,
      }
    const onWire = async (rows: readonly Seen[]): Promise<FoundEntry[]> => {
      const places = await placesOf(
        pool,
        rows.map((row) => row.occurrenceId),
      )
      return rows.map((row) => {
        const mine = row.personId === asker.id
        return {
          ...row,
          place: whereOf(places, row.occurrenceId, row.place),
          start: new Date(row.start).toISOString(),
          end: new Date(row.end).toISOString(),
          mine,
          answer: mine ? row.answer : null,
          laneOf: mine ? null : row.personId,
        }
      })
    }
    const [mine, others, peopleIds, contacts, todos, daysOff, teams, places] = await Promise.all([
      findMine(pool, asker.id, words, most, now),
      theirs(pool, asker.id, words, most, now),
      findPeopleIds(pool, words, MOST_PEOPLE),
      findContacts(pool, asker.id, words, MOST_PEOPLE),
      findTodos(pool, asker.id, words, MOST_TODOS),
      findSiteDays(pool, words, dayOf(now), MOST_DAYS_OFF),
      findTeams(pool, q.trim()),
      findPlaces(pool, words, MOST_PLACES),
    ])
    const found = [...own(mine).toSorted(bySoonest(now)), ...(others ?? []).toSorted(bySoonest(now))].slice(
      0,
      most,
    )
    const none =
      found.length +
        peopleIds.length +
        contacts.length +
        todos.length +
        daysOff.length +
        teams.length +
        places.length ===
      0
    // Words that too much has are not misspelt.
    if (!none || others === null || q.trim().length < LEAST_ALIKE)
      return {
        entries: await onWire(found),
        people: await peopleByIds(pool, peopleIds),
        contacts,
        todos,
        daysOff,
        teams,
        places,
        alike: false,
        partly: others === null,
      }
    const [entries, people] = await Promise.all([
      alikeMine(pool, asker.id, q.trim(), 5, now),
      alikePeopleIds(pool, q.trim(), 5),
    ])
    return {
      entries: await onWire(own(entries)),
      people: await peopleByIds(pool, people),
      contacts: [],
      todos: [],
      daysOff: [],
      teams: [],
      places: [],
      alike: entries.length + people.length > 0,
      partly: false,
    }
  })
}
