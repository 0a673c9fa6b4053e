export * from './calendar.ts'
export * from './incoming.ts'
export * from './letter.ts'
export * from './told.ts'
