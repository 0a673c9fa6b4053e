import { createHash } from 'node:crypto'
import {
  addPlace,
  changePlace,
  exportPlaces,
  listKeptPlaces,
  listTrained,
  lookAtPlaces,
  putPicture,
  putTrained,
  readPicture,
  removePicture,
  removeTrained,
  retirePlace,
  takePlaces,
} from '@marmot/contract/place-list'
import { fileTypeFromBuffer } from 'file-type'
import { isRefusedBy, type Sql, transaction } from '../platform/database.ts'
import { placesChanged, tell } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import {
  areThere,
  comingOf,
  dropPictureOf,
  dropTrainedPerson,
  insertPlaces,
  looksAfterAny,
  ONE_NAME,
  pictureOf,
  placesKeptBy,
  putPictureOf,
  putTrainedPerson,
  setRetired,
  trainedFor,
  updatePlaces,
} from './keeping.ts'
import { type PlannedList, placesCsv } from './list-file.ts'
import { placeOfSteward } from './store.ts'

const PICTURES = ['image/png', 'image/jpeg', 'image/webp']

/** The type of a picture by its bytes; throws where it is none that every browser shows, whatever it is called. */
const typeOfPicture = async (bytes: Buffer): Promise<string> => {
  const found = bytes.length > 0 ? await fileTypeFromBuffer(bytes) : undefined
  if (found && PICTURES.includes(found.mime)) return found.mime
  throw new ProblemError(
    422,
    'bad-picture',
    'That is no picture: a PNG, JPEG or WebP is. Nothing was changed.',
    {
      fields: [{ path: 'picture', message: 'is no picture' }],
    },
  )
}

const nameTaken = (name: string): ProblemError =>
  new ProblemError(409, 'name-taken', `There is a place called ${name} already. Nothing was changed.`, {
    fields: [{ path: 'name', message: 'is taken' }],
  })

const stale = (): ProblemError =>
  new ProblemError(409, 'stale', 'It was changed meanwhile. Look at it again; nothing of yours was kept.')

/** The list of places, for those who look after them: what they are, their pictures, who was trained. */
export const keepingRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock, threads } = deps

  const mayAdd = async (sql: Sql, personId: string): Promise<void> => {
    if (!(await looksAfterAny(sql, personId)))
      throw new ProblemError(
        403,
        'no-steward',
        'Places are added by those who look after some. Ask one of them. Nothing was changed.',
      )
  }
  const mine = (sql: Sql, resourceId: string, asker: { readonly id: string }) =>
    placeOfSteward(sql, resourceId, asker.id, clock())
  const sureOf = async (sql: Sql, siteId: string, stewardId: string): Promise<void> => {
    if (!(await areThere(sql, siteId, stewardId)))
      throw new ProblemError(422, 'no-such-one', 'There is no such site, or no such person.', {
        fields: [{ path: 'siteId', message: 'is not there' }],
      })
  }

  mount(listKeptPlaces, async ({ asker }) => ({ places: await placesKeptBy(pool, asker.id, clock()) }))

  mount(addPlace, async ({ body, asker, context }) => {
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, async () => {
          await mayAdd(sql, asker.id)
          const stewardId = body.stewardId ?? asker.id
          await sureOf(sql, body.siteId, stewardId)
          const [id = ''] = await insertPlaces(sql, [{ ...body, stewardId }])
          await tell(sql, placesChanged([id]))
          return { id }
        }),
      )
    } catch (error) {
      throw isRefusedBy(error, ONE_NAME) ? nameTaken(body.name) : error
    }
  })

  mount(changePlace, async ({ params, body, asker }) => {
    try {
      return await transaction(pool, async (sql) => {
        await mine(sql, params.resourceId, asker)
        const stewardId = body.stewardId ?? asker.id
        await sureOf(sql, body.siteId, stewardId)
        if ((await updatePlaces(sql, [{ ...body, stewardId, id: params.resourceId }])) === 0) throw stale()
        await tell(sql, placesChanged([params.resourceId]))
        return { version: body.version + 1 }
      })
    } catch (error) {
      throw isRefusedBy(error, ONE_NAME) ? nameTaken(body.name) : error
    }
  })

  mount(retirePlace, ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const { name } = await mine(sql, params.resourceId, asker)
      const coming = body.retired ? await comingOf(sql, params.resourceId, clock()) : 0
      if (coming > 0)
        throw new ProblemError(
          409,
          'still-reserved',
          `${name} has ${coming} ${coming === 1 ? 'reservation' : 'reservations'} to come. Close it for that time first: each then goes to a like place, or is given up with a reason. Nothing was changed.`,
        )
      await setRetired(sql, params.resourceId, body.retired ? clock() : null)
      await tell(sql, placesChanged([params.resourceId]))
      return {}
    }),
  )

  mount(putPicture, async ({ params, raw, asker }) => {
    const type = await typeOfPicture(raw)
    const mark = createHash('sha256').update(raw).digest('hex').slice(0, 16)
    return transaction(pool, async (sql) => {
      await mine(sql, params.resourceId, asker)
      await putPictureOf(sql, params.resourceId, { type, content: raw, mark })
      await tell(sql, placesChanged([params.resourceId]))
      return { picture: mark }
    })
  })

  mount(readPicture, async ({ params, context }) => {
    const picture = await pictureOf(pool, params.resourceId)
    if (!picture) throw notFound('picture')
    context.set('cache-control', 'private, max-age=31536000, immutable')
    // It is a picture, and nothing in it is ever run.
    context.set('content-security-policy', "default-src 'none'; sandbox")
    context.type = picture.type
    context.body = picture.content
    return {}
  })

  mount(removePicture, ({ params, asker }) =>
    transaction(pool, async (sql) => {
      await mine(sql, params.resourceId, asker)
      await dropPictureOf(sql, params.resourceId)
      await tell(sql, placesChanged([params.resourceId]))
      return {}
    }),
  )

  mount(listTrained, async ({ params, asker }) => {
    await mine(pool, params.resourceId, asker)
    return { trained: await trainedFor(pool, params.resourceId, clock()) }
  })

  mount(putTrained, ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      await mine(sql, params.resourceId, asker)
      if (!(await putTrainedPerson(sql, params.resourceId, params.personId, body.until)))
        throw notFound('person')
      await tell(sql, placesChanged([params.resourceId]))
      return {}
    }),
  )

  mount(removeTrained, ({ params, asker }) =>
    transaction(pool, async (sql) => {
      await mine(sql, params.resourceId, asker)
      await dropTrainedPerson(sql, params.resourceId, params.personId)
      await tell(sql, placesChanged([params.resourceId]))
      return {}
    }),
  )

  mount(exportPlaces, async ({ asker, context }) => {
    const places = await placesKeptBy(pool, asker.id, clock())
    context.attachment('places.csv')
    context.type = 'text/csv; charset=utf-8'
    context.body = placesCsv(
      places
        .filter((one) => !one.retired)
        .map(({ stewardAddress, ...place }) => ({ ...place, steward: stewardAddress })),
    )
    return {}
  })

  const planned = async (raw: Buffer, stewardId: string): Promise<PlannedList> => {
    await mayAdd(pool, stewardId)
    return threads.run<{ bytes: Uint8Array; stewardId: string }, PlannedList>('readPlaceList', {
      bytes: raw,
      stewardId,
    })
  }

  mount(lookAtPlaces, async ({ raw, asker }) => {
    const { lines, plan } = await planned(raw, asker.id)
    return { lines, plan }
  })

  mount(takePlaces, async ({ query, raw, asker }) => {
    const { lines, plan, make, change } = await planned(raw, asker.id)
    if (plan !== query.plan)
      throw new ProblemError(
        409,
        'list-changed',
        'Places were changed since you looked, or it is another file. Look at what it would do again. Nothing was changed.',
      )
    if (lines.some((line) => line.does === 'refused'))
      throw new ProblemError(
        422,
        'bad-list',
        'Some lines cannot be taken. Mend them, and bring the list again. Nothing was changed.',
      )
    try {
      await transaction(pool, async (sql) => {
        const made = make.length > 0 ? await insertPlaces(sql, make) : []
        if (change.length > 0 && (await updatePlaces(sql, change)) < change.length) throw stale()
        await tell(sql, placesChanged([...made, ...change.map((one) => one.id)]))
      })
    } catch (error) {
      throw isRefusedBy(error, ONE_NAME) ? stale() : error
    }
    return { made: make.length, changed: change.length }
  })
}
