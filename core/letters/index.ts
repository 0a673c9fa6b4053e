export * from './calendar.ts'
export * from './letter.ts'
export * from './told.ts'
