import type { Context } from 'koa'
import type { SendMailOptions } from 'nodemailer'
import type { z } from 'zod'
import type { Hearing, Listener, Pass } from './live.ts'
import type { Deps, Routes } from './router.ts'
import type { Settings } from './settings.ts'

/** The way out for mail. */
export interface Mailer {
  readonly sendMail: (mail: SendMailOptions) => Promise<unknown>
}

/** All that a domain can reach of the house it is in. */
export interface House extends Deps {
  readonly settings: Settings
  /** Where people reach Marmot; known once it listens. */
  readonly url: () => string
  /** Answers a request with the stream of live events for a listener; once the house listens. */
  readonly stream: (context: Context, listener: Listener) => void
  /** The way out for mail, and the address of Marmot's own that letters come from. */
  readonly transport: Mailer
  readonly mailFrom: () => string
}

/** A piece of work, by its name in the log. One that fails stops none of the others. */
export type Chores = Readonly<Record<string, (house: House) => Promise<unknown>>>

/** A live event that a domain tells: what it says, and who hears what of it where that is not plainly its `people`. */
export interface EventKind {
  readonly event: z.ZodObject<{ kind: z.ZodLiteral<string> }>
  readonly pass?: (house: House) => Pass
}

/**
 * What a domain brings to the application: exported as `domain` by the `domain.ts` of its folder, which is all that has
 * to be done to add one. Its questions for the privacy matrix are in the folder's `privacy.ts`.
 */
export interface Domain {
  /** Mounts its routes of the contract; what is mounted is what `openapi.json` describes. */
  readonly routes?: (routes: Routes, house: House) => void
  /** What its jobs do, by the name under which they are added. */
  readonly tasks?: (house: House) => Readonly<Record<string, (payload: unknown) => Promise<void>>>
  readonly minutely?: Chores
  readonly nightly?: Chores
  readonly events?: readonly EventKind[]
  /** At which events it does something itself, on each server. */
  readonly hears?: (house: House) => readonly Hearing[]
  /** What has to be kept before the server ends, after its connections have. */
  readonly stop?: (house: House) => Promise<void>
  /** The kinds of notices that it writes. */
  readonly notices?: readonly string[]
}
