export { dropHold, letHoldsGo } from './holds.ts'
