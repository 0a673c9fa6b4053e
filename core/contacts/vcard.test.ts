import { parse } from 'vcard4'
import { describe, expect, it } from 'vitest'
import { BadCards, type Card, MOST_ADDRESSES, readCards, sameCard, writeCards } from './vcard.ts'

const rosa: Card = {
  uid: 'urn:uuid:6f0c6f4e-0000-4000-8000-000000000001',
  name: 'Rosa Lind',
  organisation: 'Lodestar Instruments, Sales',
  addresses: ['rosa@lodestar.example', 'rosa.lind@lodestar.example'],
  telephone: '+43 1 555 01',
  zone: 'Europe/Vienna',
  note: 'Knows the radar; asks for Thursdays.\nSpeaks Ladin.',
  freeBusy: 'https://lodestar.example/free/rosa.ifb',
  changedAt: Date.UTC(2026, 10, 23, 8),
}

const file = (...cards: string[][]) =>
  cards.map((lines) => ['BEGIN:VCARD', ...lines, 'END:VCARD', ''].join('\r\n')).join('')
const V4 = 'VERSION:4.0'
const read = (...lines: string[]) => {
  const { cards, refused } = readCards(file(lines))
  return { card: cards[0], refused: refused.map((one) => one.reason) }
}

describe('contacts as vCards', () => {
  it('go out and come back the same', () => {
    const bare = {
      ...rosa,
      uid: 'x',
      organisation: '',
      telephone: '',
      zone: null,
      note: '',
      freeBusy: null,
      changedAt: null,
    }
    const { cards, refused } = readCards(writeCards([rosa, bare]))
    expect(refused).toEqual([])
    expect(cards).toEqual([rosa, bare])
    expect(cards[0] && sameCard(cards[0], { ...rosa, changedAt: null })).toBe(true)
    expect(sameCard(rosa, { ...rosa, telephone: '' })).toBe(false)
  })

  it('are read by another program as they were meant', () => {
    const all = parse(
      writeCards([
        rosa,
        {
          ...rosa,
          uid: 'two',
          name: 'Ünal Çağrı; & Söhne',
          organisation: 'Ice; Rope',
          note: 'ä'.repeat(200),
        },
      ]),
    )
    const [one, two] = Array.isArray(all) ? all : [all]
    const said = (card: typeof one, name: string) =>
      [card?.getProperty(name) ?? []].flat().map((property) => property.value)
    expect(said(one, 'FN')).toEqual([rosa.name])
    expect(said(one, 'UID')).toEqual([rosa.uid])
    expect(said(one, 'EMAIL')).toEqual(rosa.addresses)
    expect(said(one, 'TEL').join()).toContain(rosa.telephone.replace(/ /g, '').slice(0, 3))
    expect(said(one, 'ORG')).toEqual([rosa.organisation])
    expect(said(one, 'FBURL')).toEqual([rosa.freeBusy])
    expect(said(one, 'TZ')).toEqual([rosa.zone])
    expect(said(one, 'NOTE')[0]).toBe(rosa.note)
    expect(said(one, 'REV')).toEqual(['20261123T080000Z'])
    expect(said(two, 'FN')).toEqual(['Ünal Çağrı; & Söhne'])
    expect(said(two, 'ORG').flat().join()).toBe('Ice; Rope')
    expect(said(two, 'NOTE')).toEqual(['ä'.repeat(200)])
  })

  it('are read with their semicolons, whoever escaped them', () => {
    const { card } = read(
      V4,
      'FN:Rosa\\; Lind',
      'ORG:Ice\\; Rope;Sales',
      'NOTE:Thursdays\\; never; at \\\\ noon\\, or so',
    )
    expect(card).toMatchObject({
      name: 'Rosa; Lind',
      organisation: 'Ice; Rope, Sales',
      note: 'Thursdays; never; at \\ noon, or so',
    })
    const again = { ...rosa, name: 'A; b', organisation: 'c; d, e', note: 'f; g\\h' }
    expect(readCards(writeCards([again])).cards).toEqual([again])
  })

  it('are read of version 3, with the preferred address first, and without their pictures', () => {
    const { card, refused } = read(
      'VERSION:3.0',
      'N:Lind;Rosa;;;',
      'EMAIL;TYPE=home:r@home.example',
      'EMAIL;TYPE=work,pref:Rosa@Lodestar.example',
      'TEL;TYPE=cell:+43 1 555 01',
      'ORG:Lodestar Instruments;Sales',
      `PHOTO;ENCODING=b;TYPE=JPEG:${'A'.repeat(100_000)}`,
      ` ${'B'.repeat(70)}`,
      'NOTE:One\\nTwo\\, three',
    )
    expect(refused).toEqual([])
    expect(card).toMatchObject({
      uid: 'card:rosa@lodestar.example',
      name: 'Rosa Lind',
      addresses: ['rosa@lodestar.example', 'r@home.example'],
      telephone: '+43 1 555 01',
      organisation: 'Lodestar Instruments, Sales',
      note: 'One\nTwo, three',
    })
  })

  it('are folded over lines, also within a character', () => {
    const long = { ...rosa, note: 'å'.repeat(300) }
    const text = writeCards([long])
    expect(Math.max(...text.split('\r\n').map((line) => Buffer.byteLength(line)))).toBeLessThanOrEqual(75)
    expect(readCards(text).cards).toEqual([long])
  })

  it.each([
    [['VERSION:2.1', 'FN:Rosa'], /version 2\.1/],
    [['FN:Rosa'], /no version/],
    [[V4, 'ORG:Lodestar'], /neither a name nor an address/],
    [[V4, 'FN;;=:x', 'EMAIL'], /cannot be read/],
  ])('are refused with a clear word: %j', (lines, reason) => {
    const { card, refused } = read(...lines)
    expect(card).toBeUndefined()
    expect(refused[0]).toMatch(reason)
  })

  it('say what of them was not taken', () => {
    const many = Array.from({ length: MOST_ADDRESSES + 2 }, (_, i) => `EMAIL:a${i}@x.example`)
    expect(read(V4, 'FN:Rosa', ...many)).toMatchObject({
      card: { addresses: many.slice(0, MOST_ADDRESSES).map((line) => line.slice(6)) },
      refused: [`Of its ${MOST_ADDRESSES + 2} addresses the first ${MOST_ADDRESSES} were taken.`],
    })
    expect(read(V4, 'FN:Rosa', 'REV:00000101T000000Z').card?.changedAt).toBeNull()
    expect(read(V4, 'FN:Rosa', 'EMAIL:nowhere', 'FBURL:javascript:alert(1)', 'TZ:Mars/Base')).toMatchObject({
      card: { addresses: [], freeBusy: null, zone: null },
      refused: ['One of its addresses is none.'],
    })
  })

  it('spoil nothing but themselves, and the later of two with one UID counts', () => {
    const text = `${file([V4, 'UID:a', 'FN:Old'], [V4, 'FN;;=:x', 'X'], [V4, 'UID:a', 'FN:New'])}BEGIN:VCARD\r\n${V4}\r\nFN:Cut`
    const { cards, refused } = readCards(text)
    expect(cards.map((one) => one.name)).toEqual(['New'])
    expect(refused.map((one) => [one.line, one.reason])).toEqual([
      [6, 'It cannot be read.'],
      [16, 'The file ends in the middle of it.'],
    ])
  })

  it('are none where the file is something else', () => {
    expect(() => readCards('BEGIN:VCALENDAR\r\nEND:VCALENDAR')).toThrow(BadCards)
    expect(() => readCards('')).toThrow(BadCards)
  })
})
