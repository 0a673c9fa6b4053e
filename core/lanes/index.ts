export * from './blocks.ts'
export * from './own-day.ts'
export * from './team.ts'
