/** What of a to-do decides who may change it, and who is told. */
export interface Given {
  readonly ownerId: string
  /** The colleague to whom it was given; null while it is its owner's. */
  readonly givenTo: string | null
  readonly done: boolean
  /** When it is due, in whatever words: compared alone. */
  readonly due: string | null
}

/** What may be otherwise after a change. `others` says whether anything else than these is. */
export interface Wanted {
  readonly givenTo: string | null
  readonly done: boolean
  readonly due: string | null
  readonly others: boolean
}

export type TodoRefusal = 'nobodys' | 'only-its-owner' | 'give-back-only'

/** Why somebody may not change a to-do so; null where they may. Whoever it was given to says how far it is, and gives it back. */
export const todoRefusal = (todo: Given, wanted: Wanted, actorId: string): TodoRefusal | null => {
  if (actorId === todo.ownerId) return null
  if (actorId !== todo.givenTo) return 'nobodys'
  // Nothing goes round: a third hears of it from whoever it belongs to.
  if (wanted.givenTo !== todo.givenTo && wanted.givenTo !== null) return 'give-back-only'
  return wanted.others || wanted.due !== todo.due ? 'only-its-owner' : null
}

export type TodoNotice = 'todo-given' | 'todo-taken' | 'todo-back' | 'todo-done' | 'todo-due'

/** Who is told of a change of a to-do, and what: one thing for each, the most important. */
export const todoNotices = (
  before: Given | null,
  after: Given,
  actorId: string,
): { readonly personId: string; readonly kind: TodoNotice }[] => {
  const told: { personId: string; kind: TodoNotice }[] = []
  const had = before?.givenTo ?? null
  if (after.givenTo !== had) {
    if (after.givenTo) told.push({ personId: after.givenTo, kind: 'todo-given' })
    if (had && had !== actorId) told.push({ personId: had, kind: 'todo-taken' })
    if (had === actorId) told.push({ personId: after.ownerId, kind: 'todo-back' })
  } else if (after.done && !before?.done) told.push({ personId: after.ownerId, kind: 'todo-done' })
  else if (after.givenTo && before && after.due !== before.due)
    told.push({ personId: after.givenTo, kind: 'todo-due' })
  return told.filter((one) => one.personId !== actorId)
}
