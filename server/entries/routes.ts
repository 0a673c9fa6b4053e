import {
  changeEntry,
  createEntry,
  deleteEntry,
  keepMine,
  listChanges,
  listEntries,
  type OccurrenceOnWire,
  type Repetition,
  readEntry,
} from '@marmot/contract/entries'
import { type CheckedTime, headOf, type Scope } from '@marmot/core/entries'
import { readWalls, repeats } from '@marmot/core/recurrence'
import { detailFor, mayChange } from '@marmot/core/sharing'
import { instantText, toWall, wallFromText, wallText, zoneTable } from '@marmot/core/time'
import { readOffOf } from '../holidays/index.ts'
import { hoursOf, siteOrProblem } from '../people/index.ts'
import { noteOrProblem } from '../platform/clean.ts'
import { type Sql, together, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readRange } from '../platform/read.ts'
import { once, type Routes } from '../platform/router.ts'
import { dueBetween } from '../todos/index.ts'
import { forecastsOnWire, readForecasts } from '../weather/index.ts'
import { copyAttachments } from './attachments.ts'
import { noteChange, readChanges, stateOf } from './changes.ts'
import { checkSeries } from './checks.ts'
import { handOver, seriesOf, writeOccurrences } from './dates.ts'
import { elsewhereOf } from './elsewhere.ts'
import { type EntryState, type KeptOverride, overrideOf } from './fields.ts'
import { gapsOf } from './gaps.ts'
import { actingFor, lookingAt, mayNotChange } from './looking.ts'
import { setOwn } from './participants.ts'
import { plannedChange, seriesState } from './series.ts'
import {
  insertEntries,
  isOccurrence,
  isTodoFor,
  type KeptEntry,
  nextVersion,
  ownOccurrences,
  putOverride,
  readKept,
  readOverrides,
  readWhole,
  replaceOverrides,
  setDeleted,
  updateEntry,
} from './store.ts'
import { timeOrProblem } from './time.ts'

const NO_REPETITION: Repetition = { rule: null, added: [], excepted: [] }

interface GivenWords {
  readonly title: string
  readonly place: string
  readonly note: string
  readonly shows: EntryState['shows']
  readonly private: boolean
  readonly outdoors?: string | null | undefined
}

interface GivenTime {
  readonly starts: string
  readonly minutes: number
  readonly zone: string
  readonly allDay: boolean
}

const stateFrom = (given: GivenWords & GivenTime, repetition: Repetition) => ({
  zone: given.zone,
  starts: given.starts,
  minutes: given.minutes,
  allDay: given.allDay,
  rule: repetition.rule || null,
  added: repetition.added,
  excepted: repetition.excepted,
  title: given.title,
  place: given.place,
  note: noteOrProblem(given.note),
  shows: given.shows,
  private: given.private,
  ...(given.outdoors === undefined ? {} : { outdoors: given.outdoors }),
})

/** Whether a change of so many dates touches one that is private by itself: of a private series all are. */
const touchesPrivate = (
  kept: KeptEntry,
  overrides: readonly KeptOverride[],
  { scope, recurrence }: { scope: Scope; recurrence: string },
): boolean => {
  const own = overrides.find((one) => one.recurrence === recurrence)?.private ?? kept.private
  if (scope === 'this') return own
  const concerned = overrides.filter((one) => scope === 'all' || one.recurrence >= recurrence)
  return kept.private || own || concerned.some((one) => one.private === true)
}

/**
 * The entry, locked, if the asker may change the dates that they mean, it is no meeting, and it is still as they saw it.
 * What may be seen and changed is decided by the dates concerned.
 */
const lockAsSeen = async (
  sql: Sql,
  asked: { entryId: string; recurrence: string; version: number; scope: Scope },
  askerId: string,
  now: number,
): Promise<KeptEntry> => {
  const kept = await readKept(sql, asked.entryId, now, true)
  if (!kept || kept.deleted) throw notFound('entry')
  const looking = await lookingAt(sql, askerId, kept.ownerId, kept.id, now)
  const overrides = await readOverrides(sql, kept.id)
  const date = { private: touchesPrivate(kept, overrides, { ...asked, scope: 'this' }) }
  if (detailFor(date, looking) !== 'everything') throw notFound('entry')
  if (!mayChange({ private: touchesPrivate(kept, overrides, asked) }, looking)) throw mayNotChange(kept.owner)
  if (kept.meeting)
    throw new ProblemError(
      409,
      'is-a-meeting',
      'Others take part in this. Open it to cancel it, so that they are told.',
    )
  if (kept.placed)
    throw new ProblemError(
      409,
      'has-places',
      `Places are reserved for "${kept.title}". Change it as a reservation, so that they move along.`,
    )
  if (kept.version !== asked.version) {
    const laneOf = looking.participates ? askerId : kept.ownerId
    const newest = await readWhole(sql, kept.id, asked.recurrence, laneOf, looking, now)
    throw new ProblemError(
      409,
      'stale',
      `"${kept.title}" was changed meanwhile. Nothing of yours was lost: choose what to keep.`,
      {
        more: {
          version: kept.version,
          newest: newest ?? (await readWhole(sql, kept.id, undefined, laneOf, looking, now)),
        },
      },
    )
  }
  return kept
}

const same = <T>(next: T, before: T): T | null => (next === before ? null : next)

/** Dates, and what is expected where those out of doors are still to come. */
const withWeather = async (sql: Sql, now: number, asked: Promise<OccurrenceOnWire[]>) => {
  const occurrences = await asked
  const outdoors = new Set(
    occurrences.flatMap((one) => (one.outdoors && Date.parse(one.end) > now ? [one.outdoors] : [])),
  )
  return { occurrences, forecasts: await readForecasts(sql, [...outdoors], now) }
}

export const entriesRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listEntries, async ({ query, asker }) => {
    const { from, to } = readRange(query)
    const ownerId = query.of ?? asker.id
    const now = clock()
    const looking = await actingFor(pool, asker.id, ownerId, now)
    // All at once: together they take hardly longer than the slowest.
    const [hours, { occurrences, forecasts }, elsewhere, gaps, off, due] = await together([
      hoursOf(pool, [ownerId]),
      withWeather(pool, now, ownOccurrences(pool, ownerId, from, to, looking, now)),
      elsewhereOf(pool, ownerId, from, to),
      gapsOf(pool, [ownerId], from, to),
      readOffOf(pool, ownerId, from, to),
      // What somebody has to do is told to nobody else.
      ownerId === asker.id ? dueBetween(pool, ownerId, from, to) : Promise.resolve([]),
    ])
    const texts = ({ start, end }: { start: number; end: number }) => ({
      start: instantText(start),
      end: instantText(end),
    })
    return {
      occurrences,
      elsewhere: elsewhere.taken.map((span) => ({
        ...texts(span),
        state: span.state,
        title: ownerId === asker.id ? span.title : '',
      })),
      unknown: elsewhere.unknown.map(texts),
      gaps: gaps.map(texts),
      daysOff: off.map((span) => ({ ...texts(span), title: span.title ?? '' })),
      due,
      forecasts: forecastsOnWire(forecasts),
      hours: hours.get(ownerId) ?? [],
      mayChange: mayChange({ private: false }, looking),
    }
  })

  mount(readEntry, async ({ params, query, asker }) => {
    const kept = await readKept(pool, params.entryId, clock(), false)
    if (!kept) throw notFound('entry')
    const looking = await lookingAt(pool, asker.id, kept.ownerId, kept.id, clock())
    const { entryId } = params
    const lane = looking.participates ? asker.id : kept.ownerId
    const own = await readWhole(pool, entryId, query.recurrence, lane, looking, clock())
    if (own) return own
    // A date in which one takes no part may be seen all the same, on its owner's lane.
    const theirs = { ...looking, participates: false }
    const seen = await readWhole(pool, entryId, query.recurrence, kept.ownerId, theirs, clock())
    if (seen) return seen
    // What stands on the lane of somebody whom one acts for may be another's meeting: their participation shows it, as far
    // as one may see the date.
    if (!query.of) throw notFound('entry')
    const beside = await lookingAt(pool, asker.id, query.of, null, clock())
    const through = { ...beside, participates: false }
    const whole = await readWhole(pool, entryId, query.recurrence, query.of, through, clock())
    if (!whole) throw notFound('entry')
    return { ...whole, mayChange: false }
  })

  mount(createEntry, async ({ body, asker, context }) => {
    const checked = timeOrProblem(body)
    const state = stateFrom(body, body.repetition ?? NO_REPETITION)
    checkSeries(seriesOf(state), state.zone)
    const ownerId = body.of ?? asker.id
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const looking = await actingFor(sql, asker.id, ownerId, clock())
        if (!mayChange(state, looking)) throw mayNotChange('The owner of this calendar')
        if (body.todoId && !(await isTodoFor(sql, body.todoId, ownerId))) throw notFound('to-do of yours')
        await siteOrProblem(sql, body.outdoors)
        const made = { ...state, todoId: body.todoId }
        const [entryId = ''] = await insertEntries(sql, ownerId, [made], clock())
        await setOwn(sql, entryId, ownerId, body)
        await writeOccurrences(sql, entryId, clock())
        await tellTime(sql, [ownerId])
        const changeId = await noteChange(
          sql,
          {
            ownerId,
            actorId: asker.id,
            kind: 'made',
            title: state.title,
            entries: [{ id: entryId, version: 1, was: null }],
          },
          clock(),
        )
        return answerOf(entryId, body.starts, 1, changeId, checked)
      }),
    )
  })

  mount(changeEntry, async ({ params, body, asker }) => {
    const checked = timeOrProblem(body)
    return transaction(pool, async (sql) => {
      const kept = await lockAsSeen(sql, { ...params, ...body }, asker.id, clock())
      if (!(await isOccurrence(sql, kept.id, body.recurrence))) throw notFound('date of this series')
      await siteOrProblem(sql, body.outdoors)
      const was = await stateOf(sql, kept.id)
      const change = { kept, checked, body }
      const single = !repeats(seriesOf(kept))
      const done =
        single || body.scope !== 'this'
          ? await changeMany(sql, change, clock())
          : await changeOne(sql, change, clock())
      await setOwn(sql, done.entryId, kept.ownerId, body)
      const entries = [{ id: kept.id, version: await nextVersion(sql, kept.id), was }]
      if (done.entryId !== kept.id) entries.push({ id: done.entryId, version: 1, was: null })
      await tellTime(sql, [kept.ownerId])
      const changeId = await noteChange(
        sql,
        { ownerId: kept.ownerId, actorId: asker.id, kind: 'changed', title: body.title, entries },
        clock(),
      )
      const version = entries.at(-1)?.version ?? 1
      return answerOf(done.entryId, done.recurrence, version, changeId, checked)
    })
  })

  mount(deleteEntry, async ({ params, query, asker }) =>
    transaction(pool, async (sql) => {
      const kept = await lockAsSeen(sql, { ...params, ...query }, asker.id, clock())
      const was = await stateOf(sql, kept.id)
      const series = seriesOf(kept)
      const recurrence = wallFromText(query.recurrence) ?? 0
      const head = query.scope === 'following' ? headOf(series, zoneTable(kept.zone), recurrence) : null
      const overrides = await readOverrides(sql, kept.id)
      if (repeats(series) && query.scope === 'this') {
        if (!(await isOccurrence(sql, kept.id, query.recurrence))) throw notFound('date of this series')
        await putOverride(sql, kept.id, overrideOf(query.recurrence, { cancelled: true }))
      } else if (head) {
        await updateEntry(sql, kept.id, seriesState(head))
        await replaceOverrides(
          sql,
          kept.id,
          overrides.filter((one) => one.recurrence < query.recurrence),
        )
      } else await setDeleted(sql, kept.id, clock())
      await writeOccurrences(sql, kept.id, clock())
      await tellTime(sql, [kept.ownerId])
      const entries = [{ id: kept.id, version: await nextVersion(sql, kept.id), was }]
      const changed = {
        ownerId: kept.ownerId,
        actorId: asker.id,
        kind: 'deleted' as const,
        title: kept.title,
        entries,
      }
      return { changeId: await noteChange(sql, changed, clock()) }
    }),
  )

  mount(keepMine, async ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      if (!(await setOwn(sql, params.entryId, asker.id, body))) throw notFound('entry of yours')
      await tellTime(sql, [asker.id])
      return {}
    }),
  )

  mount(listChanges, async ({ asker }) => ({
    changes: await readChanges(pool, asker.id, clock()),
  }))
}

const answerOf = (
  entryId: string,
  recurrence: string,
  version: number,
  changeId: string,
  checked: CheckedTime,
) => ({
  entryId,
  recurrence,
  version,
  changeId,
  start: new Date(checked.start).toISOString(),
  end: new Date(checked.end).toISOString(),
  moved: checked.fit === 'gap',
})

interface Change {
  readonly kept: KeptEntry
  readonly checked: CheckedTime
  readonly body: GivenWords &
    GivenTime & { recurrence: string; scope: Scope; repetition?: Repetition | null | undefined }
}

/** Changes one date of a series. Only what differs from the series is kept, in the series' own zone. */
const changeOne = async (sql: Sql, { kept, checked, body }: Change, now: number) => {
  if (body.allDay !== kept.allDay)
    throw new ProblemError(
      422,
      'all-day-differs',
      'One date of a series cannot be all day when the others are not.',
      {
        fields: [{ path: 'allDay', message: 'is for all dates of a series' }],
      },
    )
  const starts = wallText(toWall(zoneTable(kept.zone), checked.start))
  await putOverride(
    sql,
    kept.id,
    overrideOf(body.recurrence, {
      starts: same(starts, body.recurrence),
      minutes: same(body.minutes, kept.minutes),
      title: same(body.title, kept.title),
      place: same(body.place, kept.place),
      note: same(noteOrProblem(body.note), kept.note),
      shows: same(body.shows, kept.shows),
      private: same(body.private, kept.private),
    }),
  )
  await writeOccurrences(sql, kept.id, now)
  return { entryId: kept.id, recurrence: body.recurrence }
}

/** Changes a single entry, all of a series, or one date and those that follow, which become a series of their own. */
const changeMany = async (sql: Sql, { kept, body }: Change, now: number) => {
  const wanted = body.repetition === undefined ? undefined : (body.repetition ?? NO_REPETITION)
  const repetition = wanted
    ? { rule: wanted.rule || null, added: readWalls(wanted.added), excepted: readWalls(wanted.excepted) }
    : null
  if (repetition)
    checkSeries({ ...seriesOf({ ...kept, ...body, ...NO_REPETITION }), ...repetition }, body.zone)
  const plan = plannedChange(kept, await readOverrides(sql, kept.id), {
    ...body,
    scope: body.scope === 'following' ? 'following' : 'all',
    repetition,
  })
  checkSeries(plan.series, body.zone)
  const state = { ...stateFrom(body, NO_REPETITION), ...plan.state }
  let entryId = kept.id
  if (plan.head) {
    await updateEntry(sql, kept.id, plan.head.state)
    await replaceOverrides(sql, kept.id, plan.head.overrides)
    ;[entryId = ''] = await insertEntries(sql, kept.ownerId, [state], now)
    await copyAttachments(sql, kept.id, entryId)
    await handOver(sql, kept.id, entryId, body.recurrence)
    await writeOccurrences(sql, kept.id, now)
  } else await updateEntry(sql, entryId, state)
  await replaceOverrides(sql, entryId, plan.overrides)
  await writeOccurrences(sql, entryId, now, plan.by)
  return { entryId, recurrence: body.starts }
}
