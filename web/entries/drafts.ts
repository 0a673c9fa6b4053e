import { repetition } from '@marmot/contract/entries'
import { SPAN_STATES } from '@marmot/core/sharing'
import { useEffect, useRef } from 'react'
import { z } from 'zod'

/** What was typed into the sheet of an entry and not saved. */
const draft = z.object({
  typed: z.object({
    title: z.string(),
    day: z.string(),
    from: z.string(),
    until: z.string(),
    allDay: z.boolean(),
    zone: z.string(),
    place: z.string(),
    note: z.string(),
    shows: z.enum(SPAN_STATES),
    private: z.boolean(),
    outdoors: z.string().nullable().default(null),
    categoryId: z.string().nullable(),
    reminders: z.array(z.number()).nullable(),
  }),
  repetition: repetition.required().nullable(),
  people: z.array(
    z.object({
      key: z.string(),
      personId: z.string().nullable(),
      address: z.string(),
      name: z.string(),
      zone: z.string().nullable(),
      required: z.boolean(),
    }),
  ),
  /** The day near which its date was typed. */
  near: z.number(),
})
export type Draft = z.infer<typeof draft>

const placeOf = (key: string): string => `marmot.draft ${key}`

/** Keeps what is half typed, for as long as this window is open and the same person is signed in. */
const keepDraft = (key: string, kept: Draft): void => {
  try {
    sessionStorage.setItem(placeOf(key), JSON.stringify(kept))
  } catch {
    // A full or forbidden store: then it is not kept.
  }
}

/** What was half typed under a key; null where there is nothing, or nothing that can be read. */
export const draftOf = (key: string): Draft | null => {
  try {
    return draft.parse(JSON.parse(sessionStorage.getItem(placeOf(key)) ?? ''))
  } catch {
    return null
  }
}

export const dropDraft = (key: string): void => sessionStorage.removeItem(placeOf(key))

/** Keeps what is half typed (null where that is nothing) when the form goes, whichever way it does; call what it gives once it is saved. */
export const useKeptDraft = (key: string, half: Draft | null): (() => void) => {
  const saved = useRef(false)
  const newest = useRef(half)
  newest.current = half
  useEffect(
    () => () => {
      if (!saved.current && newest.current) keepDraft(key, newest.current)
    },
    [key],
  )
  return () => {
    saved.current = true
    dropDraft(key)
  }
}
