import {
  type CardsDone,
  changeContact,
  createContact,
  deleteContact,
  exportContacts,
  importContacts,
  listAbout,
  listContacts,
  readContact as readContactRoute,
  restoreContact,
  setAbout,
} from '@marmot/contract/contacts'
import { writeCards } from '@marmot/core/contacts'
import { isRefusedBy, type Sql, together, transaction } from '../platform/database.ts'
import { tellContacts } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { ThreadEnded } from '../platform/threads.ts'
import type { CardsInput } from './cards.ts'
import { checkContact } from './checks.ts'
import {
  ADDRESS_TAKEN,
  cardsOf,
  insertContact,
  isContactDue,
  isMine,
  MOST_ARRANGED,
  MOST_CONTACTS,
  putAbout,
  readAbout,
  readArranged,
  readContact,
  readContacts,
  setContactDeleted,
  settleContacts,
  UID_TAKEN,
  updateContact,
} from './store.ts'

/** Reading the largest file takes a few seconds. */
const MOST_LOOK_MS = 60_000

/** Somebody gave the address to another contact in the same moment. */
const takenMeanwhile = (error: unknown): unknown =>
  isRefusedBy(error, ADDRESS_TAKEN)
    ? new ProblemError(
        409,
        'address-taken',
        'One of the addresses was given to another contact a moment ago.',
      )
    : isRefusedBy(error, UID_TAKEN)
      ? new ProblemError(
          409,
          'there-again',
          'The same contact came from a file meanwhile: it is there already.',
        )
      : error

const tooMuch = (error: unknown): unknown =>
  error instanceof ThreadEnded
    ? new ProblemError(422, 'too-much', 'It takes too much time or room to read. Nothing was taken.')
    : error

export const contactsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock, threads } = deps

  const whole = async (sql: Sql, personId: string, contactId: string, lock = false) => {
    const found = await readContact(sql, personId, contactId, lock)
    if (!found || found.deleted) throw notFound('contact of yours')
    return found
  }
  const change = <T>(personId: string, work: (sql: Sql) => Promise<T>): Promise<T> =>
    transaction(pool, async (sql) => {
      const done = await work(sql)
      await tellContacts(sql, [personId])
      return done
    }).catch((error) => {
      throw takenMeanwhile(error)
    })

  mount(listContacts, async ({ asker }) => {
    // Mostly none is due: known with the reading itself, that costs nothing more.
    const [due, known] = await together([
      isContactDue(pool, asker.id),
      readContacts(pool, asker.id, MOST_CONTACTS),
    ])
    if (due) await transaction(pool, (sql) => settleContacts(sql, asker.id, clock()))
    const contacts = due ? await readContacts(pool, asker.id, MOST_CONTACTS) : known
    return { contacts: contacts.slice(0, MOST_CONTACTS), more: contacts.length > MOST_CONTACTS }
  })

  mount(exportContacts, async ({ asker, context }) => {
    const cards = await cardsOf(pool, asker.id)
    context.set('content-type', 'text/vcard; charset=utf-8')
    context.set('content-disposition', 'attachment; filename="contacts.vcf"')
    context.body = writeCards(cards.map((one) => one.card))
    return {}
  })

  mount(importContacts, async ({ raw, query, asker }) => {
    const bytes = new Uint8Array(raw)
    const input: CardsInput = { personId: asker.id, bytes, take: query.take === 'yes', now: clock() }
    try {
      return await threads.run<CardsInput, CardsDone>('readCards', input, {
        signal: AbortSignal.timeout(MOST_LOOK_MS),
        transfer: [bytes.buffer],
      })
    } catch (error) {
      throw tooMuch(error)
    }
  })

  mount(listAbout, async ({ query, asker }) => ({ contacts: await readAbout(pool, asker.id, query) }))

  mount(readContactRoute, async ({ params, asker }) => {
    const { deleted: _, ...contact } = await whole(pool, asker.id, params.contactId)
    const arranged = await readArranged(pool, asker.id, contact.id, clock())
    return { contact, arranged: arranged.slice(0, MOST_ARRANGED), more: arranged.length > MOST_ARRANGED }
  })

  mount(createContact, ({ body, asker, context }) =>
    change(asker.id, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        await checkContact(sql, asker.id, body, null)
        const by = { madeBy: 'hand' as const, uid: null, changedAt: null }
        return whole(sql, asker.id, await insertContact(sql, asker.id, body, by, clock()))
      }),
    ),
  )

  mount(changeContact, ({ params, body, asker }) =>
    change(asker.id, async (sql) => {
      const { version, ...state } = body
      const kept = await whole(sql, asker.id, params.contactId, true)
      if (kept.version !== version)
        throw new ProblemError(
          409,
          'stale',
          `${kept.name} was changed meanwhile. Nothing of yours was lost: choose what to keep.`,
          { more: { version: kept.version, newest: kept } },
        )
      await checkContact(sql, asker.id, state, kept.id)
      await updateContact(sql, asker.id, kept.id, state, null, clock())
      return whole(sql, asker.id, kept.id)
    }),
  )

  mount(deleteContact, ({ params, asker }) =>
    change(asker.id, async (sql) => {
      const { id } = await whole(sql, asker.id, params.contactId, true)
      await setContactDeleted(sql, id, true, clock())
      return {}
    }),
  )

  mount(restoreContact, ({ params, asker }) =>
    change(asker.id, async (sql) => {
      const found = await readContact(sql, asker.id, params.contactId, true)
      if (!found) throw notFound('contact of yours')
      if (found.deleted) await setContactDeleted(sql, found.id, false, clock())
      return whole(sql, asker.id, found.id)
    }),
  )

  mount(setAbout, ({ params, body, asker }) =>
    change(asker.id, async (sql) => {
      const { id } = await whole(sql, asker.id, params.contactId)
      if (!(await isMine(sql, body.kind, body.id, asker.id))) throw notFound(`${body.kind} of yours`)
      await putAbout(sql, id, body, body.about)
      return {}
    }),
  )
}
