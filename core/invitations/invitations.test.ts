import { describe, expect, it } from 'vitest'
import { tally, tallyInWords } from './index.ts'

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
