import type { CardsDone } from '@marmot/contract/contacts'
import { BadCards, type Card, readCards, sameCard } from '@marmot/core/contacts'
import { decodeText } from '@marmot/core/feeds'
import { type Sql, transaction } from '../platform/database.ts'
import { tellContacts } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { cardsOf, colleaguesAt, insertContact, updateContact } from './store.ts'

const MOST_REFUSED = 200
const SAMPLES = 6

export interface CardsInput {
  readonly personId: string
  readonly bytes: Uint8Array
  /** Whether it is taken in, or only looked at. */
  readonly take: boolean
  readonly now: number
}

const readOrProblem = (text: string): ReturnType<typeof readCards> => {
  try {
    return readCards(text)
  } catch (error) {
    if (!(error instanceof BadCards)) throw error
    throw new ProblemError(422, 'no-contacts', `${error.message} Nothing was taken.`)
  }
}

/** What a file would do: a card is the same one's by its UID, else by one of its addresses. */
const planOf = async (sql: Sql, personId: string, text: string) => {
  const { cards, refused } = readOrProblem(text)
  const here = await cardsOf(sql, personId)
  const byUid = new Map(here.map((one) => [one.card.uid, one]))
  const byAddress = new Map(
    here.flatMap((one) => one.card.addresses.map((address) => [address, one] as const)),
  )
  const all = cards.flatMap((card) => [...card.addresses])
  const colleagues = new Map((await colleaguesAt(sql, all)).map((one) => [one.address, one.name]))
  const made: Card[] = []
  const changed: { id: string; card: Card }[] = []
  const told = [...refused]
  const tell = (card: Card, reason: string) => told.push({ line: 0, title: card.name, reason })
  const taken = new Set<string>()
  let same = 0
  for (const given of cards) {
    const colleague = given.addresses
      .map((address) => colleagues.get(address))
      .find((name) => name !== undefined)
    if (colleague !== undefined) {
      tell(given, `It has the address of ${colleague}, who works here.`)
      continue
    }
    const known =
      byUid.get(given.uid) ?? given.addresses.flatMap((address) => byAddress.get(address) ?? [])[0]
    // An address is one contact's: that which has it already, or which comes first.
    const own = given.addresses.filter((address) => {
      const holder = byAddress.get(address)
      return !taken.has(address) && (!holder || holder === known)
    })
    if (own.length < given.addresses.length)
      tell(given, 'One of its addresses is another contact’s, and was left out.')
    for (const address of own) taken.add(address)
    const card = { ...given, addresses: own }
    if (!known) made.push(card)
    else if (sameCard(known.card, card)) same++
    else if (
      known.card.changedAt !== null &&
      card.changedAt !== null &&
      card.changedAt < known.card.changedAt
    )
      tell(card, 'What is here already is newer.')
    else changed.push({ id: known.id, card })
  }
  return { made, changed, same, refused: told }
}

const stateOf = ({ uid: _, changedAt: __, ...card }: Card) => ({ ...card, addresses: [...card.addresses] })

/** Reads a file of contacts, says what it does, and does it where that is asked for: all of it or nothing. */
export const lookAtCards: ThreadWork<CardsInput, CardsDone> = ({ personId, bytes, take, now }, { pool }) =>
  transaction(pool, async (sql) => {
    // One file of a person at a time: two of the same would both find its contacts missing.
    await sql.query("select pg_advisory_xact_lock(hashtextextended('contacts ' || $1, 0))", [personId])
    const text = decodeText(bytes, null).replaceAll('\0', '')
    const plan = await planOf(sql, personId, text)
    if (take) {
      for (const card of plan.made) {
        const from = { madeBy: 'file' as const, uid: card.uid, changedAt: card.changedAt }
        await insertContact(sql, personId, stateOf(card), from, now)
      }
      for (const { id, card } of plan.changed)
        await updateContact(sql, personId, id, stateOf(card), card.changedAt, now)
      await tellContacts(sql, [personId])
    }
    return {
      made: plan.made.length,
      changed: plan.changed.length,
      same: plan.same,
      refused: plan.refused.slice(0, MOST_REFUSED),
      samples: [
        ...plan.made.map(({ name }) => ({ name, change: 'made' as const })),
        ...plan.changed.map(({ card }) => ({ name: card.name, change: 'changed' as const })),
      ].slice(0, SAMPLES),
    }
  })
