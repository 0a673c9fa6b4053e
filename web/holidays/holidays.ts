import { holidaysEvent } from '@marmot/contract/availability'
import {
  type addSiteDay as AddSiteDay,
  addSiteDay,
  changeSiteDay,
  deleteSiteDay,
  listRegions,
  listSiteDays,
  restoreSiteDay,
  type SiteDay,
  setRegion,
  setWorked,
} from '@marmot/contract/holidays'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { useUndo } from '../platform/undo.tsx'
import { counted } from '../ui/parts.tsx'

const KEY = ['holidays']

/** Every site's days off, and on which of mine I work. */
export const useSiteDays = () =>
  useQuery({
    queryKey: KEY,
    queryFn: ({ signal }) => call(listSiteDays, { signal }),
    meta: { heeds: [heed(holidaysEvent)] },
  })

/** Countries, and parts of them, whose public holidays are known; they stay as they are while one looks. */
export const useRegions = () =>
  useQuery({
    queryKey: [...KEY, 'regions'],
    queryFn: ({ signal }) => call(listRegions, { signal }),
    staleTime: Number.POSITIVE_INFINITY,
  })

export type DayBody = Omit<z.input<(typeof AddSiteDay)['body']>, 'siteId'>

/** What is reserved on days on which nobody gets in, in words. */
const standing = (reservations: number): string =>
  reservations === 0
    ? ''
    : `. ⚠ ${counted(reservations, 'reservation stands', 'reservations stand')} then: tell those who have ${reservations === 1 ? 'it' : 'them'}`

/** Adds, changes and takes away days off, each with a way back. */
export const useSiteDayWrites = () => {
  const say = useUndo()
  const queries = useQueryClient()
  const refresh = () => queries.invalidateQueries({ queryKey: KEY })
  const remove = (day: SiteDay) => call(deleteSiteDay, { params: { dayId: day.id } })
  const put = (day: SiteDay, { first, last, name, shut }: DayBody, version: number) =>
    call(changeSiteDay, { params: { dayId: day.id }, body: { first, last, name, shut, version } })
  return {
    add: async (siteId: string, body: DayBody, key: string) => {
      const { day, reservations } = await call(addSiteDay, { body: { ...body, siteId }, key })
      say({
        words: `${day.name} is added${standing(reservations)}`,
        undo: async () => {
          await remove(day)
          await refresh()
        },
      })
      await refresh()
    },
    change: async (before: SiteDay, body: DayBody) => {
      const { day, reservations } = await put(before, body, before.version)
      say({
        words: `${day.name} is changed${standing(reservations)}`,
        undo: async () => {
          await put(day, before, day.version)
          await refresh()
        },
      })
      await refresh()
    },
    remove: async (day: SiteDay, site: string) => {
      await remove(day)
      say({
        words: `${site} works on ${day.name}`,
        undo: async () => {
          await call(restoreSiteDay, { params: { dayId: day.id } })
          await refresh()
        },
      })
      await refresh()
    },
    /** Says whether I work on all days of a day off. */
    work: async (day: SiteDay, days: readonly string[], works: boolean) => {
      const set = async (to: boolean) => {
        // It shows at once: whoever ticks several does not wait for each.
        queries.setQueryData<z.output<typeof listSiteDays.answer>>(KEY, (known) =>
          known
            ? {
                ...known,
                worked: [...known.worked.filter((one) => !days.includes(one)), ...(to ? days : [])],
              }
            : known,
        )
        try {
          for (const each of days) await call(setWorked, { params: { day: each }, body: { works: to } })
        } finally {
          await refresh()
        }
      }
      await set(works)
      say({
        words: works ? `You work on ${day.name}` : `You are off on ${day.name}`,
        undo: () => set(!works),
      })
    },
    region: async (siteId: string, region: string | null, before: string | null, words: string) => {
      const set = async (to: string | null) => {
        await call(setRegion, { params: { siteId }, body: { region: to } })
        await refresh()
      }
      await set(region)
      say({ words, undo: () => set(before) })
    },
  }
}
