/** Whoever acts in another's name; null for the owner. */
export const actorOf = (askerId: string, ownerId: string): string | null =>
  askerId === ownerId ? null : askerId
