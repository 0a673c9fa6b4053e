import { z } from 'zod'
import { address, id, instant, route } from './route.ts'

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

export const session = z.object({
  person,
  sites: z.array(site),
  now: instant,
  demo: z.boolean(),
  mailbox: z.string().nullable(),
})
export type Session = z.infer<typeof session>

export const signIn = route({
  method: 'POST',
  path: '/api/session',
  summary: 'Sign in by address and password; sets the session cookie.',
  who: 'anyone',
  body: z.object({ address, password: z.string().min(1, 'is missing').max(200) }),
  answer: session,
})

export const whoAmI = route({
  method: 'GET',
  path: '/api/session',
  summary: 'Who is signed in, the sites, and the server’s clock.',
  who: 'person',
  answer: session,
})

export const signOut = route({ method: 'DELETE', path: '/api/session', summary: 'Sign out.', who: 'anyone' })

export const signInChoices = route({
  method: 'GET',
  path: '/api/sign-in-choices',
  summary: 'In the demo: the leading people and their password. Empty otherwise.',
  who: 'anyone',
  answer: z.object({
    password: z.string().nullable(),
    people: z.array(z.object({ name: z.string(), address: z.string(), role: z.string(), site: z.string() })),
  }),
})

export const searchPeople = route({
  method: 'GET',
  path: '/api/people',
  summary: 'Find people by name, address or team, and teams by name; or fetch those of the given ids.',
  who: 'person',
  query: z.object({ q: z.string().max(100).optional(), ids: z.string().max(10_000).optional() }),
  answer: z.object({
    people: z.array(person),
    teams: z.array(z.object({ name: z.string(), members: z.array(person) })),
  }),
})
