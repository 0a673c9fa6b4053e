export { entriesOf } from './calendar.ts'
export { fitting, overridesFrom, stateFrom } from './importing.ts'
