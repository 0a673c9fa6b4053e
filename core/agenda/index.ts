export {
  type Agenda,
  type AgendaItem,
  agendaText,
  itemsIn,
  MOST_ITEMS,
  MOST_NAME,
  MOST_TITLE,
  minutesIn,
  sumInWords,
} from './agenda.ts'
export {
  addItem,
  moveItem,
  NOTES,
  onItems,
  readAgenda,
  removeItem,
  retitleItem,
  setItem,
} from './document.ts'
