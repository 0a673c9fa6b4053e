export { propose } from './propose.ts'
export { proposalOnWire } from './routes.ts'
export { openProposals } from './store.ts'
