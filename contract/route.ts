import { wallFromText } from '@marmot/core/time'
import { z } from 'zod'

/** Who may call a route: anybody, a signed-in person, or whoever holds a guest's link. */
export type Who = 'anyone' | 'person' | 'guest'

/** One route of the HTTP interface: what goes in, what comes out. The server, the web and `openapi.json` share it. */
export interface Route<P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, A extends z.ZodType> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE'
  /** The path with `:name` parameters. */
  readonly path: string
  readonly summary: string
  readonly who: Who
  readonly params: P
  readonly query: Q
  readonly body: B
  readonly answer: A
  /** A route that may be repeated safely by sending the same `Idempotency-Key` again. */
  readonly repeatable?: boolean
  /** The body is bytes rather than JSON, at most this many. */
  readonly rawBytes?: number
  /** The handler answers with a file or a stream of its own kind rather than JSON. */
  readonly answersFile?: boolean
  /** It is opened as a WebSocket (RFC 6455) and stays open. */
  readonly socket?: boolean
}

export type AnyRoute = Route<z.ZodType, z.ZodType, z.ZodType, z.ZodType>

const nothing = z.object({})

type Given = {
  method: AnyRoute['method']
  path: string
  summary: string
  who: Who
  repeatable?: boolean
  rawBytes?: number
  answersFile?: boolean
  socket?: boolean
}

/** What is made when it is first asked for, and kept. */
export const once = <T>(make: () => T): (() => T) => {
  let made: { readonly it: T } | null = null
  return () => {
    made ??= { it: make() }
    return made.it
  }
}

/**
 * Declares a route; parts that are left out are empty. Their schemas are made when first asked for: a page declares many
 * routes and calls few of them, and of those it needs the answers' schemas only.
 */
export const route = <
  P extends z.ZodType = typeof nothing,
  Q extends z.ZodType = typeof nothing,
  B extends z.ZodType = typeof nothing,
  A extends z.ZodType = typeof nothing,
>({
  params,
  query,
  body,
  answer,
  ...given
}: Given & { params?: () => P; query?: () => Q; body?: () => B; answer?: () => A }): Route<P, Q, B, A> => {
  const part = <T extends z.ZodType>(make: (() => T) | undefined): (() => T) =>
    once(make ?? (() => nothing as unknown as T))
  const [paramsOnce, queryOnce, bodyOnce, answerOnce] = [part(params), part(query), part(body), part(answer)]
  return {
    ...given,
    get params() {
      return paramsOnce()
    },
    get query() {
      return queryOnce()
    },
    get body() {
      return bodyOnce()
    },
    get answer() {
      return answerOnce()
    },
  }
}

/** Nobody plans for other years, and sums with them leave what a database can keep. */
const inCalendar = (ms: number): boolean => ms >= Date.UTC(1900, 0, 1) && ms < Date.UTC(2200, 0, 1)

/** An instant as it travels: ISO 8601 in UTC. */
export const instant = z.iso
  .datetime({ offset: true })
  .refine((text) => inCalendar(Date.parse(text)), 'is not in a year from 1900 to 2199')
/** A day as it travels: `YYYY-MM-DD`. */
export const day = z.iso
  .date()
  .refine((text) => inCalendar(Date.parse(text)), 'is not in a year from 1900 to 2199')
/** A wall time as it travels: `YYYY-MM-DDTHH:mm`, always beside a zone. */
export const wall = z
  .string()
  .regex(/^\d{4}-\d\d-\d\dT\d\d:\d\d$/, 'is not a time like 2026-12-03T14:00')
  .superRefine((text, context) => {
    const wall = wallFromText(text)
    if (wall === null) context.addIssue('is on no calendar')
    else if (!inCalendar(wall)) context.addIssue('is not in a year from 1900 to 2199')
  })
export const id = z.uuid()
/** An e-mail address; kept in lower case. */
export const address = z.string().trim().toLowerCase().pipe(z.email('is not an e-mail address'))

/** A name that somebody gives who has no account. It stands in letters to others: nobody is called like a web address. */
export const visitorName = z
  .string()
  .trim()
  .min(1, 'is missing')
  .max(100)
  .refine((name) => !/:\/\/|www\.|[<>]/i.test(name), 'is no name')

/** RFC 9457 problem details with Marmot's stable `code`. */
export const problem = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  code: z.string(),
  detail: z.string(),
  /** The fields at fault, as paths into what was sent. */
  fields: z.array(z.object({ path: z.string(), message: z.string() })).optional(),
  /** Facts that a screen needs to say what can be done. */
  more: z.record(z.string(), z.unknown()).optional(),
})
export type Problem = z.infer<typeof problem>
