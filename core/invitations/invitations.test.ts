import { describe, expect, it } from 'vitest'
import { lateRefusal, replyRefusal, tally, tallyInWords } from './index.ts'

describe('the tally of answers', () => {
  const one = (name: string, answer: 'accepted' | 'declined' | 'needs-action' | 'tentative', more = {}) => ({
    name,
    answer,
    required: true,
    organizer: false,
    ...more,
  })
  it('counts without the organizer and names the required who are missing', () => {
    const sum = tally([
      one('Ilse', 'accepted', { organizer: true }),
      one('Tashi', 'accepted'),
      one('Matteo', 'declined'),
      one('Declan', 'declined', { required: false }),
      one('Noor', 'needs-action'),
      one('Aroha', 'tentative'),
    ])
    expect(sum.missing).toEqual(['Matteo'])
    expect(tallyInWords(sum)).toBe('1 of 5 said yes, 1 perhaps, 2 no, 1 has not answered')
  })
})

describe('an answer by mail', () => {
  it('counts only for a meeting that stands, from somebody invited, to the newest invitation', () => {
    const meeting = { sequence: 1, cancelled: false, addresses: ['noor@lodestar.example'] }
    const refusal = (
      sequence: number,
      more: Partial<typeof meeting> = {},
      stamp: number | null = null,
      answered: number | null = null,
      address = 'Noor@Lodestar.example',
    ) => replyRefusal({ sequence, address, stamp }, { ...meeting, ...more }, answered)
    expect(refusal(1)).toBeNull()
    expect(replyRefusal({ sequence: 1, address: 'noor@lodestar.example', stamp: null }, null, null)).toBe(
      'no-such-meeting',
    )
    expect(refusal(1, {}, null, null, 'other@lodestar.example')).toBe('not-invited')
    expect(refusal(0)).toBe('older-invitation')
    expect(refusal(1, { cancelled: true })).toBe('cancelled')
    expect(refusal(1, {}, 5000, 6000)).toBe('older-answer')
    expect(refusal(1, {}, 6000, 6000)).toBeNull()
  })
})

describe('an answer that was given without a connection', () => {
  it('counts unless the time was changed, or another was given, since', () => {
    expect(lateRefusal({ given: 5000, version: 3 }, 3, null)).toBeNull()
    expect(lateRefusal({ given: 5000, version: 3 }, 3, 4000)).toBeNull()
    expect(lateRefusal({ given: 5000, version: 3 }, 4, null)).toBe('moved-meanwhile')
    expect(lateRefusal({ given: 5000, version: 3 }, 3, 6000)).toBe('answered-meanwhile')
  })
})
