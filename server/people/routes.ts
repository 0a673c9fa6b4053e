import {
  listDirectory,
  MOST_LISTED,
  putPreferences,
  readContact,
  readPeople,
  readPreferences,
  searchPeople,
  signIn,
  signInChoices,
  signOut,
  signOutElsewhere,
  whoAmI,
} from '@marmot/contract/people'
import { hash, verify } from '@node-rs/argon2'
import type { Context } from 'koa'
import { type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Deps, Routes } from '../platform/router.ts'
import type { Settings } from '../platform/settings.ts'
import { COOKIE, DEMO_PASSWORD } from './asker.ts'
import {
  applyZoneChanges,
  closeOtherSessions,
  closeSession,
  findAccount,
  findPeople,
  findTeams,
  forgetFailures,
  forgetTry,
  isQuiet,
  leadingPeople,
  listEverybody,
  listSites,
  noteTry,
  openSession,
  peopleByIds,
  readContactOf,
  readDisplay,
  readPreferencesOf,
  teamsByIds,
  triesSince,
  writePreferences,
} from './store.ts'

const SESSION_MS = 14 * 86_400_000
const FAILURE_MS = 15 * 60_000
/** After this many failures in a quarter of an hour, an address or a client has to wait. */
const MOST_FOR_ADDRESS = 5
const MOST_FOR_CLIENT = 50
/** A hash that no password has: an unknown address then takes as long to refuse as a known one. */
const nobody = hash('there is nobody of this address')

const describeSession = async (sql: Sql, personId: string, deps: Deps, settings: Settings) => {
  const [person] = await peopleByIds(sql, [personId])
  const display = await readDisplay(sql, personId)
  if (!person || !display)
    throw new ProblemError(401, 'not-signed-in', 'Nobody is signed in here, or the session has ended.')
  return {
    person,
    display,
    answersQuietly: await isQuiet(sql, personId),
    sites: await listSites(sql),
    now: new Date(deps.clock()).toISOString(),
    demo: settings.demo,
    mailbox: settings.demo ? settings.mailboxUrl : null,
    conferences: settings.conference !== null,
  }
}

const setCookie = (context: Context, token: string | null) =>
  context.cookies.set(COOKIE, token, {
    httpOnly: true,
    sameSite: 'lax',
    secure: context.secure,
    overwrite: true,
    ...(token ? { maxAge: SESSION_MS } : {}),
  })

export const peopleRoutes = ({ mount, deps }: Routes, settings: Settings): void => {
  const { pool, clock } = deps

  mount(signIn, async ({ body, context }) => {
    // Counted before it is looked at, and taken back when it was right: a hundred guesses at once are a hundred.
    const tryId = await noteTry(pool, body.address, context.ip, clock())
    const tries = await triesSince(pool, body.address, context.ip, clock() - FAILURE_MS)
    if (tries.address > MOST_FOR_ADDRESS || tries.client > MOST_FOR_CLIENT) {
      await forgetTry(pool, tryId)
      context.set('retry-after', String(FAILURE_MS / 1000))
      throw new ProblemError(
        429,
        'too-many-tries',
        'Too many wrong passwords. Wait a quarter of an hour, then try again.',
      )
    }
    const account = await findAccount(pool, body.address)
    const right = await verify(account?.password_hash ?? (await nobody), body.password)
    if (!account || !right)
      throw new ProblemError(401, 'wrong-password', 'That address and password do not belong together.')
    await forgetTry(pool, tryId)
    // One browser has one session: what it had before ends here.
    const before = context.cookies.get(COOKIE)
    if (before) await closeSession(pool, before)
    await forgetFailures(pool, body.address)
    setCookie(context, await openSession(pool, account.id, clock() + SESSION_MS))
    return describeSession(pool, account.id, deps, settings)
  })

  mount(whoAmI, ({ asker }) => describeSession(pool, asker.id, deps, settings))

  mount(signOut, async ({ context }) => {
    const token = context.cookies.get(COOKIE)
    if (token) await closeSession(pool, token)
    setCookie(context, null)
    return {}
  })

  mount(signOutElsewhere, async ({ asker }) => ({
    ended: await transaction(pool, (sql) => closeOtherSessions(sql, asker.id, asker.session)),
  }))

  mount(readContact, async ({ asker }) => {
    const contact = await readContactOf(pool, asker.id)
    if (!contact) throw notFound('person')
    return contact
  })

  mount(readPreferences, async ({ asker }) => {
    const preferences = await readPreferencesOf(pool, asker.id)
    if (!preferences) throw notFound('person')
    return preferences
  })

  mount(putPreferences, async ({ body, asker }) =>
    transaction(pool, async (sql) => {
      await writePreferences(sql, asker.id, body)
      await applyZoneChanges(sql, clock())
      await tellTime(sql, [asker.id])
      return (await readPreferencesOf(sql, asker.id)) ?? body
    }),
  )

  mount(signInChoices, async () =>
    settings.demo
      ? { password: DEMO_PASSWORD, people: await leadingPeople(pool) }
      : { password: null, people: [] },
  )

  mount(searchPeople, async ({ query }) => {
    const text = query.q.trim()
    if (!text) return { people: [], teams: [] }
    return { people: await findPeople(pool, text), teams: await findTeams(pool, text) }
  })

  mount(listDirectory, async () => {
    const people = await listEverybody(pool, MOST_LISTED + 1)
    return { people: people.slice(0, MOST_LISTED), more: people.length > MOST_LISTED }
  })

  mount(readPeople, async ({ body }) => ({
    people: await peopleByIds(pool, body.ids),
    teams: await teamsByIds(pool, body.teams),
  }))
}
