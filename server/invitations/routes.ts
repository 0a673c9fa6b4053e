import { answerInvitation as answerRoute, readInvitation } from '@marmot/contract/meetings'
import { readMeetings } from '../meetings/index.ts'
import { transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { answerInvitation } from './answers.ts'
import { findGuestLink, noteGuestLook } from './store.ts'

export const invitationsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  const open = async (token: string) => {
    const link = await findGuestLink(pool, token)
    if (!link)
      throw new ProblemError(
        404,
        'no-such-link',
        'This link is not one of ours. Open it from the invitation again, whole.',
      )
    if (link.revokedAt || link.expiresAt.getTime() <= clock())
      throw new ProblemError(
        410,
        'link-expired',
        'This link has expired. Ask the person who invited you for a new one.',
      )
    return link
  }

  mount(readInvitation, async ({ params }) => {
    const link = await open(params.token)
    await noteGuestLook(pool, link.participantId, clock())
    const [meeting] = await readMeetings(pool, [link.entryId], clock())
    const guest = meeting?.participants.find((one) => one.id === link.participantId)
    if (!meeting || !guest) throw notFound('invitation')
    return {
      title: meeting.title,
      note: meeting.note,
      start: new Date(meeting.start).toISOString(),
      end: new Date(meeting.end).toISOString(),
      zone: meeting.organizerZone,
      place: meeting.place,
      organizer: meeting.organizer,
      guest: guest.name,
      answer: guest.answer,
      message: guest.message,
      cancelled: meeting.cancelled,
      others: meeting.participants.filter((one) => one !== guest && !one.organizer).map((one) => one.name),
      now: new Date(clock()).toISOString(),
    }
  })

  mount(answerRoute, async ({ params, body }) => {
    const link = await open(params.token)
    await transaction(pool, (sql) => answerInvitation(sql, link, body, clock()))
    return { answer: body.answer }
  })
}
