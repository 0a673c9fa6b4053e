import { hoursTrouble } from '@marmot/core/availability'
import { isZone, LOCALES } from '@marmot/core/time'
import { z } from 'zod'
import { address, day, id, instant, route } from './route.ts'

export const site = z.object({ id, name: z.string(), zone: z.string() })
export type Site = z.infer<typeof site>

export const person = z.object({
  id,
  name: z.string(),
  address: z.string(),
  role: z.string(),
  siteId: id,
  zone: z.string(),
  teams: z.array(z.string()),
})
export type Person = z.infer<typeof person>

const zone = z.string().max(100).refine(isZone, 'is not a time zone that exists')
const dayMinute = z.number().int().min(0).max(1440)

/** How a person wants their days drawn and said. */
export const display = z.object({
  /** The day on which a week begins, 1 is Monday. */
  firstWeekday: z.number().int().min(1).max(7),
  /** Minutes since midnight between which days are shown; more where something lies outside. */
  shownFrom: dayMinute,
  shownTo: dayMinute,
  halfDayClock: z.boolean(),
  /** How dates are worded, as a BCP 47 language tag. */
  locale: z.enum(LOCALES),
  secondZone: zone.nullable(),
})
export type Display = z.infer<typeof display>

export const preferences = display.extend({
  zone,
  /** Journeys: from the beginning of a day on, another zone. */
  zoneChanges: z.array(z.object({ fromDay: day, zone })).max(50),
  /** Working hours; two parts of a day leave a break between them. */
  hours: z
    .array(
      z.object({ weekday: z.number().int().min(1).max(7), from: dayMinute, to: z.number().int().max(2880) }),
    )
    .max(28),
  reminders: z.array(z.number().int().min(0).max(40_320)).max(5),
  remindsByMail: z.boolean(),
})
export type Preferences = z.infer<typeof preferences>

/** Whom whoever looks after a place can ask about a reservation. */
export const contact = z.object({
  name: z.string().trim().max(200),
  address: z.union([address, z.literal('')]),
  telephone: z.string().trim().max(60),
})
export type Contact = z.infer<typeof contact>

export const readContact = route({
  method: 'GET',
  path: '/api/contact',
  summary: 'What I gave as my contact with a reservation last; my name and address before that.',
  who: 'person',
  answer: () => contact,
})

export const readPreferences = route({
  method: 'GET',
  path: '/api/preferences',
  summary: 'My preferences.',
  who: 'person',
  answer: () => preferences,
})

export const putPreferences = route({
  method: 'PUT',
  path: '/api/preferences',
  summary: 'Keep my preferences.',
  who: 'person',
  body: () =>
    preferences
      .refine((given) => given.shownTo > given.shownFrom, {
        path: ['shownTo'],
        message: 'is before the first hour',
      })
      .refine((given) => hoursTrouble(given.hours) === null, {
        path: ['hours'],
        message: 'overlap, or end before they begin',
      }),
  answer: () => preferences,
})

export const session = z.object({
  person,
  display,
  /** Whether they kept their last answer to an invitation to themselves. */
  answersQuietly: z.boolean(),
  sites: z.array(site),
  now: instant,
  demo: z.boolean(),
  mailbox: z.string().nullable(),
  /** Whether meetings can have a link to join by. */
  conferences: z.boolean(),
})
export type Session = z.infer<typeof session>

export const signIn = route({
  method: 'POST',
  path: '/api/session',
  summary: 'Sign in by address and password; sets the session cookie.',
  who: 'anyone',
  body: () => z.object({ address, password: z.string().min(1, 'is missing').max(200) }),
  answer: () => session,
})

export const whoAmI = route({
  method: 'GET',
  path: '/api/session',
  summary: 'Who is signed in, the sites, and the server’s clock.',
  who: 'person',
  answer: () => session,
})

export const signOut = route({ method: 'DELETE', path: '/api/session', summary: 'Sign out.', who: 'anyone' })

export const signOutElsewhere = route({
  method: 'DELETE',
  path: '/api/session/others',
  summary: 'End all my other sessions, on whatever machine they are.',
  who: 'person',
  answer: () => z.object({ ended: z.number() }),
})

export const signInChoices = route({
  method: 'GET',
  path: '/api/sign-in-choices',
  summary: 'In the demo: the leading people and their password. Empty otherwise.',
  who: 'anyone',
  answer: () =>
    z.object({
      password: z.string().nullable(),
      people: z.array(
        z.object({ name: z.string(), address: z.string(), role: z.string(), site: z.string() }),
      ),
    }),
})

export const searchPeople = route({
  method: 'GET',
  path: '/api/people',
  summary: 'Find people by name, address or team, and teams by name.',
  who: 'person',
  query: () => z.object({ q: z.string().max(100) }),
  answer: () =>
    z.object({
      people: z.array(person),
      teams: z.array(z.object({ id, name: z.string(), members: z.array(person) })),
    }),
})

/** So many people a directory lists; of more, those whose names come first. */
export const MOST_LISTED = 10_000

export const listDirectory = route({
  method: 'GET',
  path: '/api/directory',
  summary: 'Everybody of the directory by name, with where they are and their teams; nothing of their time.',
  who: 'person',
  answer: () =>
    z.object({
      people: z.array(person.omit({ address: true })),
      /** True when there are more than are listed. */
      more: z.boolean(),
    }),
})

export const readPeople = route({
  method: 'POST',
  path: '/api/people',
  summary: 'People and teams of the directory by their ids; ids that are nobody’s are left out.',
  who: 'person',
  body: () => z.object({ ids: z.array(id).max(500), teams: z.array(id).max(60).default([]) }),
  answer: () =>
    z.object({
      people: z.array(person),
      teams: z.array(z.object({ id, name: z.string(), members: z.array(person) })),
    }),
})
