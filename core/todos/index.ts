export * from './giving.ts'
export * from './line.ts'
export * from './todos.ts'
