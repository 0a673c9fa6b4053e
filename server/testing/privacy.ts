/** What the privacy matrix asks about: one entry of an owner's with everything an entry can have, and who looks at it. */
export interface About {
  readonly entryId: string
  readonly meetingId: string
  /** A place that is reserved alone, without a meeting, and where that is. */
  readonly reservedId: string
  readonly placeId: string
  /** What the owner asks several people about. */
  readonly pollId: string
  /** What the owner has to do, and somebody outside whom they know. */
  readonly todoId: string
  readonly contactId: string
  readonly changeId: string
  /** Something that was said about the meeting. */
  readonly messageId: string
  /** A file of the meeting's date. */
  readonly meetingFileId: string
  readonly attachmentId: string
  /** A date of the entry, and one that is private by itself. */
  readonly recurrence: string
  readonly hiddenDate: string
  readonly ownerId: string
  readonly viewerId: string
  /** Nobody's and nothing's id. */
  readonly nobody: string
  /** A word of the entry's headline that is nowhere else. */
  readonly headline: string
  /** The time in which it lies, as a query and as a body. */
  readonly range: string
  readonly span: { readonly from: string; readonly to: string }
}

/** One request of the viewer's. */
export interface Question {
  readonly path: string
  readonly body?: unknown
  readonly bytes?: Buffer
}

/**
 * For each route of a domain, by method and path: what the viewer asks by it, in a way that changes nothing even where it
 * is allowed, since what it answers and refuses with counts too; or why it cannot show anybody's entry. Exported as
 * `privacy` by the `privacy.ts` of its folder; the matrix fails when a route is in none.
 */
export type Privacy = Readonly<Record<string, string | ((about: About) => readonly Question[])>>

/** When the place is reserved that the matrix asks about. */
export const RESERVED = { starts: '2026-12-07T18:30', minutes: 60, zone: 'Europe/Vienna' }
