import ICAL from 'ical.js'
import { textOfNote } from '../entries/note.ts'

/** Adds a description to a component: as text, and formatted beside it. */
export const addNote = (component: ICAL.Component, note: string): void => {
  component.addPropertyWithValue('description', textOfNote(note))
  const formatted = new ICAL.Property('x-alt-desc')
  formatted.setParameter('fmttype', 'text/html')
  formatted.setValue(note)
  component.addProperty(formatted)
}
