import * as Y from 'yjs'

/** Lists in tables in quotations are not nested deeper by anybody; editors cannot show what is, and stumble over it. */
const MOST_DEEP = 40

/** Whether something that a transaction adds to a document is nested deeper than an editor can show. */
export const isTooDeep = ({ doc, beforeState, afterState }: Y.Transaction): boolean => {
  const known = new Map<unknown, number>()
  const depthOf = (type: Y.AbstractType<unknown> | string | Y.ID | null): number => {
    if (!(type instanceof Y.AbstractType)) return 0
    const way: Y.AbstractType<unknown>[] = []
    let at: unknown = type
    while (at instanceof Y.AbstractType && !known.has(at) && way.length <= MOST_DEEP) {
      way.push(at)
      at = at._item?.parent ?? null
    }
    let depth = known.get(at) ?? 0
    for (const one of way.reverse()) known.set(one, ++depth)
    return depth
  }
  for (const [client, clock] of afterState) {
    const before = beforeState.get(client) ?? 0
    if (clock <= before) continue
    const structs = doc.store.clients.get(client) ?? []
    // In their order: what is new stands at the end.
    for (let i = structs.length - 1; i >= 0; i--) {
      const struct = structs[i]
      if (!struct || struct.id.clock < before) break
      if (
        struct instanceof Y.Item &&
        struct.content instanceof Y.ContentType &&
        depthOf(struct.content.type) > MOST_DEEP
      )
        return true
    }
  }
  return false
}
