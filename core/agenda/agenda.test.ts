import * as fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import * as Y from 'yjs'
import {
  addItem,
  agendaText,
  itemsIn,
  MOST_ITEMS,
  minutesIn,
  moveItem,
  NOTES,
  readAgenda,
  removeItem,
  retitleItem,
  setItem,
  sumInWords,
} from './index.ts'

const exchange = (one: Y.Doc, other: Y.Doc): void => {
  Y.applyUpdate(other, Y.encodeStateAsUpdate(one, Y.encodeStateVector(other)))
  Y.applyUpdate(one, Y.encodeStateAsUpdate(other, Y.encodeStateVector(one)))
}

const titles = (document: Y.Doc): string[] => readAgenda(document).items.map((one) => one.title)

const withItems = (...names: string[]): Y.Doc => {
  const document = new Y.Doc()
  for (const name of names) addItem(document, name, { title: name, who: '', minutes: null })
  return document
}

const copyOf = (document: Y.Doc): Y.Doc => {
  const copy = new Y.Doc()
  exchange(document, copy)
  return copy
}

describe('the points of an agenda', () => {
  it('keep their order, and go to where they are put', () => {
    const document = withItems('Drill', 'Boxes', 'Budget')
    moveItem(document, 'Budget', 0)
    expect(titles(document)).toEqual(['Budget', 'Drill', 'Boxes'])
    moveItem(document, 'Budget', 1)
    expect(titles(document)).toEqual(['Drill', 'Budget', 'Boxes'])
    removeItem(document, 'Drill')
    expect(titles(document)).toEqual(['Budget', 'Boxes'])
  })

  it('keep what two people type in one line at once, also while a third drags it', () => {
    const one = withItems('Drill', 'Boxes')
    const [two, three] = [copyOf(one), copyOf(one)]
    retitleItem(one, 'Drill', 'Core Drill')
    retitleItem(two, 'Drill', 'Drill sites')
    moveItem(three, 'Drill', 1)
    exchange(one, two)
    exchange(two, three)
    exchange(one, three)
    expect(titles(one)).toEqual(['Boxes', 'Core Drill sites'])
    expect(titles(two)).toEqual(titles(one))
    expect(titles(three)).toEqual(titles(one))
  })

  it('can be put between two that were added in the same moment', () => {
    const one = withItems('Drill')
    const two = copyOf(one)
    addItem(one, 'a')
    addItem(two, 'b')
    exchange(one, two)
    addItem(one, 'c')
    moveItem(one, 'c', 2)
    expect(readAgenda(one).items.map((item) => item.id)).toEqual(['Drill', 'a', 'c', 'b'])
  })

  it('come to the same order everywhere, whatever is done in whatever order it arrives', () => {
    const step = fc.record({
      who: fc.nat(2),
      what: fc.constantFrom('add', 'move', 'remove', 'retitle', 'exchange'),
      at: fc.nat(6),
      words: fc.string({ maxLength: 5 }),
    })
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        const copies = [new Y.Doc(), new Y.Doc(), new Y.Doc()] as const
        for (const [i, { who, what, at, words }] of steps.entries()) {
          const document = copies[who] ?? copies[0]
          const before = readAgenda(document).items
          const item = before[at % Math.max(1, before.length)]
          if (what === 'add') addItem(document, `p${i}`)
          else if (what === 'exchange') exchange(document, copies[(who + 1) % 3] ?? copies[0])
          else if (!item) continue
          else if (what === 'move') {
            moveItem(document, item.id, at)
            const now = readAgenda(document).items.map((one) => one.id)
            expect(now.indexOf(item.id)).toBe(Math.min(at, before.length - 1))
          } else if (what === 'remove') removeItem(document, item.id)
          else retitleItem(document, item.id, words)
        }
        exchange(copies[0], copies[1])
        exchange(copies[1], copies[2])
        exchange(copies[2], copies[0])
        exchange(copies[0], copies[1])
        expect(readAgenda(copies[1])).toEqual(readAgenda(copies[0]))
        expect(readAgenda(copies[2])).toEqual(readAgenda(copies[0]))
      }),
      { numRuns: 150 },
    )
  })

  it('are so many and no more', () => {
    const document = withItems(...Array.from({ length: MOST_ITEMS }, (_, i) => `p${i}`))
    expect(addItem(document, 'one more')).toBe(false)
    expect(readAgenda(document).items).toHaveLength(MOST_ITEMS)
  })

  it('say how long they take beside the meeting', () => {
    const document = withItems('Drill', 'Boxes')
    expect(sumInWords(readAgenda(document).items, 60)).toBe('')
    setItem(document, 'Drill', { minutes: 25 })
    setItem(document, 'Boxes', { minutes: 20, who: 'Tashi' })
    const { items } = readAgenda(document)
    expect(sumInWords(items, 60)).toBe('45 of 60 min planned')
    expect(sumInWords(items, 45)).toBe('45 min planned, the whole meeting')
    expect(sumInWords(items, 30)).toBe('45 min planned, 15 min longer than the meeting')
    expect([minutesIn('15'), minutesIn(' 5 '), minutesIn('0'), minutesIn('-3'), minutesIn('1e3')]).toEqual([
      15,
      5,
      null,
      null,
      null,
    ])
  })
})

const element = (name: string, ...children: (Y.XmlElement | Y.XmlText)[]): Y.XmlElement => {
  const made = new Y.XmlElement(name)
  made.insert(0, children)
  return made
}
const words = (text: string, attributes = {}): Y.XmlText => {
  const made = new Y.XmlText()
  made.insert(0, text, attributes)
  return made
}
const paragraph = (text: string) => element('paragraph', words(text))

describe('points as they are typed', () => {
  it('say who leads them and how long they take, after commas', () => {
    const names = ['Tashi Lhendup', 'Aroha Pene']
    expect(
      itemsIn(
        '1. Drill sites, tashi, 20 min\n\n- Boxes, ropes, 5\n  Budget, Aroha Pene\n2026, 30 m\n45\nWords, 0 min',
        names,
      ),
    ).toEqual([
      { title: 'Drill sites', who: 'Tashi Lhendup', minutes: 20 },
      { title: 'Boxes, ropes', who: '', minutes: 5 },
      { title: 'Budget', who: 'Aroha Pene', minutes: null },
      { title: '2026', who: '', minutes: 30 },
      { title: '45', who: '', minutes: null },
      { title: 'Words, 0 min', who: '', minutes: null },
    ])
  })
})

describe('an agenda as text', () => {
  it('has its points with who and how long, then the notes with lists, tables and links', () => {
    const document = withItems('Drill', '')
    setItem(document, 'Drill', { who: 'Tashi', minutes: 10 })
    const linked = element('paragraph')
    const picture = element('picture')
    picture.setAttribute('name', 'ridge.png')
    document
      .getXmlFragment(NOTES)
      .insert(0, [
        paragraph('Bring the maps.'),
        element(
          'bulletList',
          element('listItem', paragraph('boots')),
          element(
            'listItem',
            paragraph('rope'),
            element('orderedList', element('listItem', paragraph('60 m'))),
          ),
        ),
        element(
          'table',
          element(
            'tableRow',
            element('tableHeader', paragraph('Site')),
            element('tableHeader', paragraph('Depth')),
          ),
          element(
            'tableRow',
            element('tableCell', paragraph('Col')),
            element('tableCell', paragraph('12 m')),
          ),
        ),
        picture,
        linked,
      ])
    linked.insert(0, [words('the plan', { link: { href: 'https://corrie.example/plan' } })])
    expect(agendaText(readAgenda(document))).toBe(
      [
        '1. Drill, Tashi, 10 min',
        '2. (no title)',
        '',
        'Bring the maps.',
        '– boots',
        '– rope',
        '  1. 60 m',
        'Site | Depth',
        'Col | 12 m',
        '[picture: ridge.png]',
        'the plan (https://corrie.example/plan)',
      ].join('\n'),
    )
  })

  it('has nothing in it that is no text: no line of its own in a point, no NUL', () => {
    const document = withItems('a')
    retitleItem(document, 'a', 'Nul \0\nWhy: a line')
    document.getXmlFragment(NOTES).insert(0, [paragraph('x\0y')])
    expect(agendaText(readAgenda(document))).toBe('1. Nul  Why: a line\n\nxy')
  })

  it('is read out of whatever somebody puts into the document', () => {
    const document = new Y.Doc()
    const items = document.getMap('items')
    items.set('text', 'no point')
    items.set(
      'odd',
      new Y.Map<unknown>([
        ['title', { toString: 'no text' }],
        ['minutes', -5],
        ['who', 7],
        ['rank', []],
      ]),
    )
    items.set('good', new Y.Map<unknown>([['title', new Y.Text('Drill')]]))
    let deep = paragraph('never read')
    for (let i = 0; i < 200; i++) deep = element('blockquote', deep)
    document.getXmlFragment(NOTES).insert(0, [deep, paragraph('read')])
    expect(readAgenda(document)).toEqual({
      items: [
        { id: 'good', title: 'Drill', who: '', minutes: null },
        { id: 'odd', title: '', who: '', minutes: null },
      ],
      notes: 'read',
    })
    moveItem(document, 'odd', 0)
    expect(readAgenda(document).items.map((one) => one.id)).toEqual(['odd', 'good'])
  })
})
