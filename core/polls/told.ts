/**
 * What somebody who is asked knows of a poll from its letters: that they are asked, about the times of a round (each time that the
 * organizer adds some is a round); that it was decided for a time to which they are not invited; that they were invited,
 * which the invitation tells them; that they are not asked any more.
 */
export type PollTold =
  | { readonly kind: 'asked'; readonly round: number }
  | { readonly kind: 'decided'; readonly timeId: string }
  | { readonly kind: 'invited' }
  | { readonly kind: 'off' }

/** What is true for somebody now. */
export type PollTruth = PollTold

/** What a letter to them says, since that is the difference; null where there is none to be written. */
export const tellingOf = (
  told: PollTold | null,
  truth: PollTruth,
): 'ask' | 'more-times' | 'again' | 'decided' | 'off' | null => {
  switch (truth.kind) {
    case 'asked':
      if (told === null) return 'ask'
      if (told.kind !== 'asked') return 'again'
      return told.round < truth.round ? 'more-times' : null
    case 'invited':
      return null
    case 'decided':
      if (told === null || (told.kind === 'decided' && told.timeId === truth.timeId)) return null
      return 'decided'
    case 'off':
      return told === null || told.kind === 'off' ? null : 'off'
  }
}

/** What they know once they are told. Who never heard of it does not hear that it is over. */
export const toldAfter = (told: PollTold | null, truth: PollTruth): PollTold | null =>
  told === null && truth.kind !== 'asked' && truth.kind !== 'invited' ? null : truth
