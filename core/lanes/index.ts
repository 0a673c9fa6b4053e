export * from './blocks.ts'
export * from './own-day.ts'
