import { entryOf } from '../entries/index.ts'
import { findLink } from '../links/index.ts'
import type { Sql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'

/** Whoever comes by a guest's link. */
export interface Guest {
  readonly entryId: string
  readonly participantId: string
  readonly expiresAt: number
  /** The link, by the hash of its token. */
  readonly link: string
}

/** Whose a link is, also one that has run out. Throws where it is none of ours. */
export const guestOf = async (sql: Sql, token: string): Promise<Guest> => {
  const link = await findLink(sql, 'answer', token)
  const entryId = link && !link.revoked ? await entryOf(sql, link.subjectId) : null
  if (!link || !entryId)
    throw new ProblemError(
      404,
      'no-such-link',
      'This link is not one of ours. Open it from the invitation again, whole.',
    )
  return { entryId, participantId: link.subjectId, expiresAt: link.expiresAt, link: link.hash }
}

/** Whose a link is that still counts. Throws where it does not. */
export const guestBy = async (sql: Sql, token: string, now: number): Promise<Guest> => {
  const guest = await guestOf(sql, token)
  if (guest.expiresAt <= now)
    throw new ProblemError(
      410,
      'link-expired',
      'This link has run out. Have a new one sent to the address that was invited.',
    )
  return guest
}
