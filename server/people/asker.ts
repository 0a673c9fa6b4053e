import type { Context } from 'koa'
import type { Asker, Deps } from '../platform/router.ts'
import { sessionOwner } from './store.ts'

/** The name of the session cookie. */
export const COOKIE = 'marmot_session'

/** What everybody in the demo signs in with; shown on the sign-in page there, and nowhere else. */
export const DEMO_PASSWORD = 'watch-the-ridge'

/** Finds who is asking from the session cookie. */
export const askerFinder =
  ({ pool, clock }: Deps) =>
  async (context: Context): Promise<Asker | null> => {
    const token = context.cookies.get(COOKIE)
    return token ? sessionOwner(pool, token, clock()) : null
  }
