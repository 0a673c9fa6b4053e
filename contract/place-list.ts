import { MOST_FEATURES, MOST_SEATS } from '@marmot/core/reservations'
import { z } from 'zod'
import { KINDS, resource } from './resources.ts'
import { day, id, route } from './route.ts'

/** What a place is and where, as whoever looks after it says. */
const placeBody = z.object({
  name: z.string().trim().min(1, 'is missing').max(200),
  kind: z.enum(KINDS),
  siteId: id,
  floor: z.string().trim().max(60).default(''),
  seats: z.number().int().min(0).max(MOST_SEATS).default(0),
  features: z
    .record(z.string().trim().min(1).max(40), z.number().int().min(1).max(1000))
    .refine((all) => Object.keys(all).length <= MOST_FEATURES, `are more than ${MOST_FEATURES}`)
    .default({}),
  about: z.string().trim().max(2000).default(''),
  /** Who looks after it; whoever adds it, unless somebody else is said. */
  stewardId: id.optional(),
})
export type PlaceBody = z.input<typeof placeBody>

/** A place that I look after, in use or not. */
export const keptPlace = resource
  .pick({
    id: true,
    name: true,
    kind: true,
    siteId: true,
    site: true,
    floor: true,
    seats: true,
    features: true,
  })
  .extend({
    about: z.string(),
    stewardId: id,
    steward: z.string(),
    picture: z.string().nullable(),
    retired: z.boolean(),
    version: z.number(),
    /** How many reservations of it are still to come. */
    coming: z.number(),
  })
export type KeptPlace = z.infer<typeof keptPlace>

export const listKeptPlaces = route({
  method: 'GET',
  path: '/api/resources/kept',
  summary: 'The places that I look after, also those that are not in use any more.',
  who: 'person',
  answer: () => z.object({ places: z.array(keptPlace) }),
})

export const addPlace = route({
  method: 'POST',
  path: '/api/resources',
  summary: 'Add a place; for those who look after some. It is open at all hours until its rules are set.',
  who: 'person',
  repeatable: true,
  body: () => placeBody,
  answer: () => z.object({ id }),
})

export const changePlace = route({
  method: 'PUT',
  path: '/api/resources/:resourceId',
  summary: 'Say otherwise what a place that I look after is, where, and who looks after it.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  body: () => placeBody.extend({ version: z.number().int() }),
  answer: () => z.object({ version: z.number() }),
})

export const retirePlace = route({
  method: 'PUT',
  path: '/api/resources/:resourceId/retired',
  summary:
    'Take a place that I look after out of use, or bring it back. Refused while anything is reserved of it.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  body: () => z.object({ retired: z.boolean() }),
})

/** A picture in bytes; a telephone's is smaller. */
export const MOST_PICTURE_BYTES = 8 * 1024 * 1024

export const putPicture = route({
  method: 'POST',
  path: '/api/resources/:resourceId/picture',
  summary: 'Set the picture of a place that I look after: a PNG, JPEG or WebP; its bytes are the body.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  rawBytes: MOST_PICTURE_BYTES,
  answer: () => z.object({ picture: z.string() }),
})

export const readPicture = route({
  method: 'GET',
  path: '/api/resources/:resourceId/picture',
  summary: 'The picture of a place.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  answersFile: true,
})

export const removePicture = route({
  method: 'DELETE',
  path: '/api/resources/:resourceId/picture',
  summary: 'Take the picture of a place that I look after away.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
})

const trained = z.object({
  personId: id,
  name: z.string(),
  /** The last day on which it counts; null for good. */
  until: day.nullable(),
  over: z.boolean(),
})
export type Trained = z.infer<typeof trained>

export const listTrained = route({
  method: 'GET',
  path: '/api/resources/:resourceId/trained',
  summary: 'Who was trained to use a place that I look after, and until when that counts.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  answer: () => z.object({ trained: z.array(trained) }),
})

export const putTrained = route({
  method: 'PUT',
  path: '/api/resources/:resourceId/trained/:personId',
  summary: 'Keep that somebody was trained to use a place that I look after, until a day or for good.',
  who: 'person',
  params: () => z.object({ resourceId: id, personId: id }),
  body: () => z.object({ until: day.nullable() }),
})

export const removeTrained = route({
  method: 'DELETE',
  path: '/api/resources/:resourceId/trained/:personId',
  summary: 'Keep no more that somebody was trained to use a place that I look after.',
  who: 'person',
  params: () => z.object({ resourceId: id, personId: id }),
})

export const exportPlaces = route({
  method: 'GET',
  path: '/api/resources/kept.csv',
  summary: 'The places that I look after as CSV (RFC 4180), in the columns that the import reads.',
  who: 'person',
  answersFile: true,
})

export const MOST_LIST_BYTES = 2 * 1024 * 1024

export const lookAtPlaces = route({
  method: 'POST',
  path: '/api/resources/list/look',
  summary: 'What a list of places as CSV would do: the body is its bytes. Nothing is changed.',
  who: 'person',
  rawBytes: MOST_LIST_BYTES,
  answer: () =>
    z.object({
      lines: z.array(
        z.object({
          line: z.number(),
          name: z.string(),
          does: z.enum(['made', 'changed', 'same', 'refused']),
          words: z.string(),
        }),
      ),
      /** What was looked at, by which it is taken. */
      plan: z.string(),
    }),
})
export type PlacesLooked = z.infer<(typeof lookAtPlaces)['answer']>

export const takePlaces = route({
  method: 'POST',
  path: '/api/resources/list',
  summary: 'Take a list of places that was looked at, all of it or nothing: the body is its bytes.',
  who: 'person',
  query: () => z.object({ plan: z.string().max(100) }),
  rawBytes: MOST_LIST_BYTES,
  answer: () => z.object({ made: z.number(), changed: z.number() }),
})
