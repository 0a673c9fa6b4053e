export * from './offered.ts'
export * from './questions.ts'
export * from './turn.ts'
