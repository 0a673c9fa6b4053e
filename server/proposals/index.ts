export { propose } from './propose.ts'
export { proposalOnWire } from './routes.ts'
export { closeProposals, openProposals } from './store.ts'
