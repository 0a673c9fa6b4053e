export { candidateStarts, type Narrowing } from './candidates.ts'
export { type PollLetter, type PollLetterKind, writePollLetter } from './letter.ts'
export * from './marks.ts'
export { type PollTold, type PollTruth, tellingOf, toldAfter } from './told.ts'
