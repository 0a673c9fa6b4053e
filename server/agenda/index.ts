export { agendaAt, enterAgenda } from './routes.ts'
export { agendaTexts, startAgenda } from './store.ts'
