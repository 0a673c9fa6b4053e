export * from './days.ts'
export * from './parse.ts'
export * from './words.ts'
export * from './zones.ts'
