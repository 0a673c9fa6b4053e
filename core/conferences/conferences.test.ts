import * as fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { attendedIn, canJoin, codeInWords, dialIn, joiningBy, type Stay, secondsInWords } from './index.ts'

const MINUTE = 60_000
const at = (minutes: number) => minutes * MINUTE

describe('joining', () => {
  const meeting = { start: at(600), end: at(660) }
  it('is for ten minutes before until half an hour after, and as long as somebody is there', () => {
    expect([589, 590, 630, 689, 690].map((minutes) => canJoin(meeting, at(minutes)))).toEqual([
      false,
      true,
      true,
      true,
      false,
    ])
    expect(canJoin(meeting, at(900), 1)).toBe(true)
    expect(canJoin(meeting, at(500), 1)).toBe(false)
  })

  it('by telephone dials the number, waits, and gives the code', () => {
    const joining = { link: '', telephone: '+43 512 555-0100', code: '123456789' }
    expect(dialIn(joining)).toBe('tel:+435125550100,,123456789')
    expect([codeInWords('123456789'), codeInWords('1234')]).toEqual(['123 456 789', '123 4'])
  })
})

describe('joining by what another program gives', () => {
  it('is by the first address that a browser opens and the first number, with its code', () => {
    const meet = 'https://meet.lodestar.example/abc'
    expect(
      joiningBy([
        'xmpp:room@lodestar.example',
        meet,
        'https://other.example',
        'tel:+47 22 55 01 00,,,4711#,,1#',
      ]),
    ).toEqual({
      link: meet,
      telephone: '+4722550100',
      code: '4711',
    })
    expect(joiningBy(['tel:+47-22-55-01-00'])).toEqual({ link: '', telephone: '+47-22-55-01-00', code: '' })
    const ours = { link: meet, telephone: '+43 512 555-0100', code: '123456789' }
    expect(joiningBy([meet, dialIn(ours)])).toEqual({ ...ours, telephone: '+435125550100' })
  })

  it('is not by what runs, or is no address', () => {
    const long = `https://lodestar.example/${'a'.repeat(3000)}`
    expect(
      joiningBy(['javascript:alert(1)', 'data:text/html,x', 'https://', ' https://x', long, 'tel:', 'tel:x']),
    ).toBeNull()
    expect(joiningBy([])).toBeNull()
  })
})

describe('who was in a meeting', () => {
  const stay = (who: string, joined: number, left: number | null): Stay => ({
    who,
    name: who.toUpperCase(),
    joined: at(joined),
    left: left === null ? null : at(left),
  })

  it('is there first come first, twice at once once, without the time away, still there or not', () => {
    expect(
      attendedIn(
        [stay('b', 5, 20), stay('a', 0, 10), stay('a', 8, 15), stay('a', 30, null), stay('c', 5, 6)],
        at(40),
      ),
    ).toEqual([
      { who: 'a', name: 'A', from: 0, until: null, seconds: 25 * 60 },
      { who: 'b', name: 'B', from: at(5), until: at(20), seconds: 15 * 60 },
      { who: 'c', name: 'C', from: at(5), until: at(6), seconds: 60 },
    ])
  })

  it('is as long as the minutes at which they were there, counted one by one', () => {
    const stays = fc.array(
      fc
        .record({ joined: fc.nat(59), minutes: fc.nat(30), open: fc.boolean() })
        .map(({ joined, minutes, open }) => stay('a', joined, open ? null : joined + minutes)),
      { minLength: 1, maxLength: 8 },
    )
    fc.assert(
      fc.property(stays, (own) => {
        const there = Array.from({ length: 100 }, (_, minute) =>
          own.some((one) => one.joined <= at(minute) && at(minute) < (one.left ?? at(100))),
        ).filter(Boolean).length
        expect(attendedIn(own, at(100))[0]?.seconds).toBe(there * 60)
      }),
    )
  })

  it('is said to the second', () => {
    expect([0, 59, 61, 3600, 3725].map(secondsInWords)).toEqual([
      '0 s',
      '59 s',
      '1 min 01 s',
      '1 h 00 min 00 s',
      '1 h 02 min 05 s',
    ])
  })
})
