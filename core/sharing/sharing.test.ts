import { describe, expect, it } from 'vitest'
import {
  DOES,
  type Grant,
  givesMore,
  grantTrouble,
  type Level,
  type Looking,
  levelFor,
  mayChange,
  type OwnSpan,
  SEES,
  seenSpan,
  stateOnLane,
  USUAL_LEVEL,
} from './index.ts'

const grant = (
  to: Grant['to'],
  id: string | null,
  sees: Grant['sees'],
  more: Partial<Grant> = {},
): Grant => ({ to, id, sees, does: 'look', seesPrivate: false, until: null, ...more })
const ilse = { id: 'ilse', teams: ['office'] }

describe('the level at which somebody looks', () => {
  it('is busy times for the organisation when nothing was said', () => {
    expect(levelFor('matteo', ilse, [], 0)).toEqual({ sees: 'busy', does: 'look', seesPrivate: false })
  })

  it('is everything for oneself, whatever was granted to others', () => {
    expect(levelFor('ilse', ilse, [grant('organisation', null, 'nothing')], 0).sees).toBe('everything')
  })

  it('is decided by the narrowest grant, also when it gives less', () => {
    const grants = [
      grant('organisation', null, 'headlines'),
      grant('team', 'office', 'everything'),
      grant('person', 'ilse', 'nothing'),
    ]
    expect(levelFor('matteo', ilse, grants, 0).sees).toBe('nothing')
    expect(levelFor('matteo', ilse, grants.slice(0, 2), 0).sees).toBe('everything')
    expect(levelFor('matteo', { id: 'tashi', teams: ['field'] }, grants, 0).sees).toBe('headlines')
  })

  it('takes the most generous of several teams', () => {
    const grants = [grant('team', 'office', 'busy', { does: 'stand-in' }), grant('team', 'ice', 'headlines')]
    expect(levelFor('matteo', { id: 'x', teams: ['office', 'ice'] }, grants, 0)).toEqual({
      sees: 'headlines',
      does: 'stand-in',
      seesPrivate: false,
    })
  })

  it('ends when the grant does', () => {
    const grants = [grant('person', 'ilse', 'everything', { until: 100 })]
    expect(levelFor('matteo', ilse, grants, 99).sees).toBe('everything')
    expect(levelFor('matteo', ilse, grants, 100).sees).toBe('busy')
  })
})

describe('what a viewer gets of a span', () => {
  const span: OwnSpan = {
    start: 1,
    end: 2,
    state: 'busy',
    entryId: 'e1',
    title: 'Ridge secret',
    place: 'Serac',
    private: false,
  }
  const keys = (given: Partial<OwnSpan>, level: Partial<Level>, looking: Partial<Looking> = {}) =>
    Object.keys(
      seenSpan(
        { ...span, ...given },
        { level: { ...USUAL_LEVEL, ...level }, owns: false, participates: false, ...looking },
      ) ?? {},
    ).sort()

  const bare = ['end', 'start', 'state']
  const whole = ['end', 'entryId', 'place', 'start', 'state', 'title']
  it.each([
    ['nothing', false, []],
    ['nothing', true, []],
    ['busy', false, bare],
    ['busy', true, bare],
    ['headlines', false, ['end', 'place', 'start', 'state', 'title']],
    ['headlines', true, bare],
    ['everything', false, whole],
    ['everything', true, bare],
  ] as const)('at %s, private %s', (sees, isPrivate, expected) => {
    expect(keys({ private: isPrivate }, { sees })).toEqual(expected)
  })

  it('is whole for the owner and for who takes part, at every level and when private', () => {
    for (const sees of SEES) {
      expect(keys({ private: true }, { sees }, { owns: true })).toEqual(whole)
      expect(keys({ private: true }, { sees }, { participates: true })).toEqual(whole)
    }
  })
})

describe('a stand-in', () => {
  const standIn: Level = { sees: 'everything', does: 'stand-in', seesPrivate: false }
  const looking = (level: Level): Looking => ({ level, owns: false, participates: false })

  it('changes what they may see, and private entries only when they were allowed them', () => {
    expect(mayChange({ private: false }, looking(standIn))).toBe(true)
    expect(mayChange({ private: true }, looking(standIn))).toBe(false)
    expect(mayChange({ private: true }, looking({ ...standIn, seesPrivate: true }))).toBe(true)
  })

  it('is the only one besides "change" who may, at no lower level of sight', () => {
    for (const sees of SEES)
      for (const does of DOES)
        expect([
          sees,
          does,
          mayChange({ private: false }, looking({ sees, does, seesPrivate: false })),
        ]).toEqual([sees, does, sees === 'everything' && does !== 'look'])
    expect(mayChange({ private: true }, { ...looking(USUAL_LEVEL), owns: true })).toBe(true)
    expect(mayChange({ private: false }, { ...looking(USUAL_LEVEL), participates: true })).toBe(false)
  })
})

describe('a grant', () => {
  it.each([
    [grant('person', 'ilse', 'busy'), /yours already/],
    [grant('person', 'tashi', 'busy', { does: 'change' }), /has to see everything/],
    [grant('team', 'office', 'everything', { does: 'stand-in' }), /one person/],
    [grant('person', 'tashi', 'everything', { seesPrivate: true }), /Only a stand-in/],
    [grant('person', 'tashi', 'busy', { until: 10 }), /over/],
  ])('%o is refused', (given, words) => expect(grantTrouble('ilse', given, 10)).toMatch(words))

  it('to a person, a team or everybody is fine', () => {
    const fine = [
      grant('person', 'tashi', 'everything', { does: 'stand-in', seesPrivate: true }),
      grant('team', 'office', 'everything', { does: 'change' }),
      grant('organisation', null, 'nothing', { until: 11 }),
    ]
    expect(fine.map((given) => grantTrouble('ilse', given, 10))).toEqual([null, null, null])
  })

  it('gives more on either axis, or private entries', () => {
    const level: Level = { sees: 'headlines', does: 'look', seesPrivate: false }
    expect(givesMore(level, USUAL_LEVEL)).toBe(true)
    expect(givesMore(USUAL_LEVEL, level)).toBe(false)
    expect(givesMore({ ...USUAL_LEVEL, does: 'change' }, level)).toBe(true)
    expect(givesMore(level, level)).toBe(false)
  })
})

describe('how an answer shows on the lane', () => {
  it.each([
    ['busy', 'needs-action', 'tentative'],
    ['busy', 'accepted', 'busy'],
    ['busy', 'tentative', 'tentative'],
    ['busy', 'declined', null],
    ['busy', 'delegated', null],
    ['away', 'accepted', 'away'],
    ['listed', 'needs-action', 'listed'],
    ['listed', 'declined', null],
  ] as const)('%s with %s stands as %s', (shows, answer, state) =>
    expect(stateOnLane(shows, answer)).toBe(state),
  )
})
