import { describe, expect, it } from 'vitest'
import { type Grant, levelFor, type OwnSpan, SEES, seenSpan, stateOnLane } from './index.ts'

const grant = (
  to: Grant['to'],
  id: string | null,
  sees: Grant['sees'],
  more: Partial<Grant> = {},
): Grant => ({ to, id, sees, does: 'look', until: null, ...more })
const ilse = { id: 'ilse', teams: ['office'] }

describe('the level at which somebody looks', () => {
  it('is busy times for the organisation when nothing was said', () => {
    expect(levelFor('matteo', ilse, [], 0)).toEqual({ sees: 'busy', does: 'look' })
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
  const keys = (given: Partial<OwnSpan>, viewer: Partial<Parameters<typeof seenSpan>[1]>) =>
    Object.keys(
      seenSpan({ ...span, ...given }, { sees: 'busy', owns: false, participates: false, ...viewer }) ?? {},
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
      expect(keys({ private: true }, { sees, owns: true })).toEqual(whole)
      expect(keys({ private: true }, { sees, participates: true })).toEqual(whole)
    }
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
