// @vitest-environment happy-dom
import { emptyBrief } from '@marmot/contract/briefs'
import type { Answer, Help, Opening } from '@marmot/core/openings'
import { dayFromCivil, instantFromText, zoneTable } from '@marmot/core/time'
import { fireEvent, screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { openingAt } from '../testing/openings.ts'
import { show } from '../testing/screen.tsx'
import { Cards } from './cards.tsx'
import type { Arranging, Member } from './use-arranging.ts'
import type { Searching } from './use-search.ts'

const ME = '10000000-0000-4000-8000-000000000001'
const at = (text: string) => instantFromText('Europe/Vienna', text)

const opening = (text: string, parts: Partial<Opening['parts']> = {}) => openingAt(at(text), parts)

const found = (openings: readonly Opening[], more: Partial<Answer['found']> = {}): Answer['found'] => ({
  openings,
  bands: [],
  unknown: [],
  starts: openings.length,
  tried: 100,
  ...more,
})

const member = (id: string, known = true) => ({ id, time: { known } }) as Member

const take = vi.fn()
const help = vi.fn()
const ask = vi.fn()

/** The cards of a brief that stands so; what is not said is as in a search that is over and found nothing. */
const cards = (given: Partial<Arranging>, searching: Partial<Searching> = {}) => {
  const standing = {
    me: { zone: 'Europe/Vienna' },
    zone: zoneTable('Europe/Vienna'),
    asked: [member('ilse'), member('tashi'), member('declan')],
    names: {
      person: (id: string) => id.charAt(0).toUpperCase() + id.slice(1),
      site: (id: string) => id,
      zone: zoneTable('Europe/Vienna'),
    },
    chosen: null,
    alone: false,
    settled: true,
    refused: null,
    found: found([]),
    why: null,
    days: [],
    help: [],
    brief: emptyBrief(20_790, ME),
    placesById: new Map(),
    roomsAt: () => [],
    searching: {
      answer: {},
      share: 1,
      refused: null,
      stopped: false,
      stop: vi.fn(),
      again: vi.fn(),
      ...searching,
    },
    ...given,
  } as unknown as Arranging
  take.mockClear()
  help.mockClear()
  ask.mockClear()
  show(<Cards arranging={standing} onTake={take} onHelp={help} onAsk={ask} />)
  return standing
}
const words = () => document.body.textContent ?? ''

describe('the cards', () => {
  it('wait for somebody to meet', () => {
    cards({ alone: true })
    expect(words()).toContain('The times that work will stand here')
  })

  it('say that a search goes on, and let it be stopped', () => {
    const { searching } = cards({}, { answer: null, share: 0 })
    expect(words()).toContain('Looking for times…')
    fireEvent.click(screen.getByRole('button', { name: 'Stop' }))
    expect(searching.stop).toHaveBeenCalledTimes(1)
  })

  it('say that it was stopped before anything was found, and ask again', () => {
    const { searching } = cards({}, { answer: null, share: 1, stopped: true })
    expect(words()).toContain('Stopped before anything was found.')
    expect(words()).not.toContain('Looking for times')
    fireEvent.click(screen.getByRole('button', { name: 'Search again' }))
    expect(searching.again).toHaveBeenCalledTimes(1)
  })

  it('say why a brief cannot be searched', () => {
    cards({ refused: 'The meeting is longer than the window.' })
    expect(words()).toContain('The meeting is longer than the window.')
  })

  it('are one for each day, best first, with its other times beside it', () => {
    const [best, other, next] = [
      opening('2026-12-03T14:00'),
      opening('2026-12-03T09:15'),
      opening('2026-12-02T10:00', { missing: ['declan'] }),
    ]
    cards({ found: found([best, other, next]) })
    const list = screen.getByRole('list', { name: 'Times that work, best first' })
    expect(list.children).toHaveLength(2)
    expect(list.children[0]?.textContent).toContain('Thu 3 Dec 14:00all 3 free. inside everybody’s hours')
    expect(list.children[1]?.textContent).toContain('Wed 2 Dec 10:002 of 3 free. without Declan')
    fireEvent.click(screen.getByRole('button', { name: '09:15' }))
    expect(take).toHaveBeenLastCalledWith(other)
  })

  it('mark the one that is chosen, by whichever of its times', () => {
    const other = opening('2026-12-03T09:15')
    cards({
      found: found([opening('2026-12-03T14:00'), other]),
      chosen: { start: other.start, end: other.end },
    })
    const here = screen.getAllByRole('button').find((one) => one.getAttribute('aria-current') === 'true')
    expect(here?.textContent).toContain('Thu 3 Dec 09:15')
  })

  it('never count somebody unknown as free, and say so', () => {
    cards({
      asked: [member('ilse'), member('tashi'), member('mira', false)],
      found: found([opening('2026-12-03T14:00')], { unknown: ['mira'] }),
    })
    expect(words()).toContain('2 free, 1 unknown')
  })
})

describe('without an opening', () => {
  const away = {
    from: 0,
    to: 1,
    people: [{ id: 'tashi', kind: 'away' as const, since: 0, until: at('2026-12-14T00:00'), title: null }],
    places: [],
    rule: null,
  }
  const stretch: Help = { changes: [{ kind: 'stretch', minutes: 60 }], openings: 3 }

  it('who is in the way is named, and one press tries what would help', () => {
    cards({ why: away, help: [stretch, { changes: [{ kind: 'optional', id: 'tashi' }], openings: 1 }] })
    expect(words()).toContain('No time suits everybody. Tashi is away until Sun 13 Dec.')
    expect(words()).toContain('Make Tashi optional 1 time')
    fireEvent.click(screen.getByRole('button', { name: 'Allow 1 h outside hours 3 times' }))
    expect(help).toHaveBeenCalledWith(stretch)
  })

  it('what was found to help so far stands there while more is tried', () => {
    cards({ why: away, help: [stretch] }, { share: 0.6 })
    expect(screen.getByRole('progressbar').getAttribute('value')).toBe('0.6')
    expect(screen.getByRole('button', { name: /^Allow 1 h/ })).toBeTruthy()
  })

  it('it is said when nothing small helps, and when not everything was tried', () => {
    cards({ why: away })
    expect(words()).toContain('No small change helps.')
    cards({ why: away }, { stopped: true })
    expect(words()).toContain('Stopped: not everything was tried.')
  })

  it('whose time is unknown is said, with what can be done about it', () => {
    cards({
      asked: [member('ilse'), member('mira', false)],
      why: away,
      found: found([], { unknown: ['mira'] }),
    })
    expect(words()).toContain('The time of Mira is unknown, and not counted as free.')
    fireEvent.click(screen.getByRole('button', { name: 'Ask them which times suit' }))
    expect(ask).toHaveBeenCalledOnce()
  })

  it('three remedies stand there, the others on request', () => {
    const five = [15, 30, 45, 60, 90].map(
      (minutes): Help => ({ changes: [{ kind: 'stretch', minutes }], openings: minutes }),
    )
    cards({ why: away, help: five })
    expect(screen.getAllByRole('button', { name: /outside hours/ })).toHaveLength(3)
    fireEvent.click(screen.getByRole('button', { name: 'and 2 more' }))
    expect(screen.getAllByRole('button', { name: /outside hours/ })).toHaveLength(5)
  })

  it('each day says why, week by week', () => {
    cards({ why: away, days: [{ ...away, day: dayFromCivil(2026, 12, 4) }] as unknown as Arranging['days'] })
    const week = screen.getByRole('list', { name: 'Week of Mon 30 Nov' })
    expect(week.textContent).toBe('Fri 4 Dec Tashi is away until Sun 13 Dec.')
  })
})
