import { generateKeyBetween, generateNKeysBetween } from 'fractional-indexing'
import { simpleDiffString } from 'lib0/diff'
import * as Y from 'yjs'
import { oneLine } from '../text/index.ts'
import { type Agenda, type AgendaItem, MOST_ITEMS, MOST_NAME, MOST_TITLE, minutesIn } from './agenda.ts'
import { notesText } from './notes.ts'

/**
 * An agenda as those who write in it at the same time share it: a document of which every copy comes to say the same in
 * whatever order changes arrive (a Yjs document). Its points are a map by their ids, each with a rank that sorts it, so
 * that a point that is dragged keeps what somebody else types in it meanwhile; the notes are a rich text.
 */
const ITEMS = 'items'
/** The name of the notes in the document, for an editor. */
export const NOTES = 'notes'

type Item = Y.Map<unknown>

const itemsIn = (document: Y.Doc): Y.Map<Item> => document.getMap<Item>(ITEMS)

const isItem = (value: unknown): value is Item => value instanceof Y.Map

/** Text of one line, as far as it is any: what a browser sends can have anything in it. */
const textIn = (value: unknown, most: number): string =>
  oneLine(
    (value instanceof Y.Text ? value.toString() : typeof value === 'string' ? value : '').slice(0, most),
  )

const rankOf = (item: Item): string => {
  const rank = item.get('rank')
  return typeof rank === 'string' ? rank : ''
}

/** The points in their order: by rank, and of two at the same place by their ids, everywhere alike. */
const sorted = (document: Y.Doc): { id: string; item: Item }[] =>
  [...itemsIn(document)]
    .flatMap(([id, item]) => (isItem(item) ? [{ id, item }] : []))
    .sort((a, b) => {
      const [one, other] = [rankOf(a.item), rankOf(b.item)]
      return one === other ? (a.id < b.id ? -1 : 1) : one < other ? -1 : 1
    })

/** What an agenda says. Whatever else is in the document is passed over: anybody who takes part can write into it. */
export const readAgenda = (document: Y.Doc): Agenda => ({
  items: sorted(document)
    .slice(0, MOST_ITEMS)
    .map(
      ({ id, item }): AgendaItem => ({
        id,
        title: textIn(item.get('title'), MOST_TITLE),
        who: textIn(item.get('who'), MOST_NAME),
        minutes: minutesIn(item.get('minutes')),
      }),
    ),
  notes: notesText(document.getXmlFragment(NOTES)),
})

/** The rank that puts a point where it is wanted among the others. */
const rankAt = (document: Y.Doc, id: string, wanted: number): string => {
  const others = sorted(document).filter((one) => one.id !== id)
  const index = Math.max(0, Math.min(wanted, others.length))
  const before = others[index - 1]
  const after = others[index]
  try {
    return generateKeyBetween(before ? rankOf(before.item) : null, after ? rankOf(after.item) : null)
  } catch {
    // Two that were added in the same moment have one rank, and there is nothing between: all are ranked anew.
    const ranks = generateNKeysBetween(null, null, others.length + 1)
    for (const [i, one] of others.entries()) one.item.set('rank', ranks[i < index ? i : i + 1])
    return ranks[index] ?? ''
  }
}

/** Adds a point at the end. False when there are as many as there can be. */
export const addItem = (
  document: Y.Doc,
  id: string,
  { title, who, minutes }: Omit<AgendaItem, 'id'> = { title: '', who: '', minutes: null },
): boolean => {
  const items = itemsIn(document)
  if (items.size >= MOST_ITEMS) return false
  document.transact(() => {
    const item: Item = new Y.Map()
    item.set('title', new Y.Text(title))
    item.set('who', who)
    item.set('minutes', minutes)
    item.set('rank', rankAt(document, id, items.size))
    items.set(id, item)
  })
  return true
}

/** Puts a point at another place: `index` counts from 0 among all points as they stand after. */
export const moveItem = (document: Y.Doc, id: string, index: number): void => {
  const item = itemsIn(document).get(id)
  if (isItem(item)) document.transact(() => item.set('rank', rankAt(document, id, index)))
}

export const removeItem = (document: Y.Doc, id: string): void => itemsIn(document).delete(id)

/** Writes a point's words: only what differs is changed, so that two who type in one line at once both keep their words. */
export const retitleItem = (document: Y.Doc, id: string, title: string): void => {
  const item = itemsIn(document).get(id)
  const text = isItem(item) ? item.get('title') : null
  if (!(text instanceof Y.Text)) return
  const { index, remove, insert } = simpleDiffString(text.toString(), title.slice(0, MOST_TITLE))
  document.transact(() => {
    text.delete(index, remove)
    text.insert(index, insert)
  })
}

/** Says who leads a point, or how long it takes. */
export const setItem = (
  document: Y.Doc,
  id: string,
  given: Partial<Pick<AgendaItem, 'who' | 'minutes'>>,
): void => {
  const item = itemsIn(document).get(id)
  if (!isItem(item)) return
  document.transact(() => {
    if (given.who !== undefined) item.set('who', given.who.slice(0, MOST_NAME))
    if (given.minutes !== undefined) item.set('minutes', given.minutes)
  })
}

/** Calls back whenever points change; gives the way to stop. */
export const onItems = (document: Y.Doc, changed: () => void): (() => void) => {
  const items = itemsIn(document)
  items.observeDeep(changed)
  return () => items.unobserveDeep(changed)
}
