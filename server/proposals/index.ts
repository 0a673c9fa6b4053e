export { propose } from './propose.ts'
export { proposalOnWire } from './routes.ts'
export { closeProposals, openOfStewards, openProposals } from './store.ts'
