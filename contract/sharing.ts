import { DOES, SEES } from '@marmot/core/sharing'
import { z } from 'zod'
import { event } from './live.ts'
import { id, instant, route } from './route.ts'

export const level = { sees: z.enum(SEES), does: z.enum(DOES), seesPrivate: z.boolean() }

/** To whom an owner gives a level: everybody at the institute, a team, or one person. */
export const receiver = { to: z.enum(['organisation', 'team', 'person']), id: id.nullable() }

export const grant = z.object({
  grantId: id,
  ...receiver,
  name: z.string(),
  ...level,
  until: instant.nullable(),
})
export type GrantOnWire = z.infer<typeof grant>

export const listSharing = route({
  method: 'GET',
  path: '/api/sharing',
  summary: 'What I share with whom, and who shares more than usual with me.',
  who: 'person',
  answer: () =>
    z.object({
      mine: z.array(grant),
      toMe: z.array(z.object({ ownerId: id, owner: z.string(), ...level, until: instant.nullable() })),
      teams: z.array(z.object({ id, name: z.string() })),
    }),
})
export type Sharing = z.infer<(typeof listSharing)['answer']>

export const putSharing = route({
  method: 'PUT',
  path: '/api/sharing',
  summary: 'Say what somebody sees of my time and may do with it, for good or until an instant.',
  who: 'person',
  body: () => z.object({ ...receiver, ...level, until: instant.nullable().default(null) }),
  answer: () =>
    z.object({
      grantId: id,
      told: z.number(),
      /** What held before, to go back to; null when nothing was said. */
      before: grant.pick({ sees: true, does: true, seesPrivate: true, until: true }).nullable(),
    }),
})

export const deleteSharing = route({
  method: 'DELETE',
  path: '/api/sharing/:grantId',
  summary: 'Say nothing more about somebody: what is usual for them holds again.',
  who: 'person',
  params: () => z.object({ grantId: id }),
})

/** Somebody lets others see or do something else than before; for everybody, and not whose it was. */
export const sharingEvent = event('sharing', {})
