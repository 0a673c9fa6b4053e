import { answerInvitation as answerRoute, readInvitation, renewInvitation } from '@marmot/contract/meetings'
import { HOUR } from '@marmot/core/time'
import { comingDates, readMeetings, repeatsInWords } from '../meetings/index.ts'
import { transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { answerInvitation } from './answers.ts'
import { sendAgain } from './send.ts'
import { findGuestLink, invitationTo, linksSince, noteGuestLook } from './store.ts'

const MOST_LINKS_AN_HOUR = 3

export const invitationsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  const find = async (token: string) => {
    const link = await findGuestLink(pool, token)
    if (!link || link.revokedAt)
      throw new ProblemError(
        404,
        'no-such-link',
        'This link is not one of ours. Open it from the invitation again, whole.',
      )
    return link
  }

  const open = async (token: string) => {
    const link = await find(token)
    if (link.expiresAt.getTime() <= clock())
      throw new ProblemError(
        410,
        'link-expired',
        'This link has run out. Have a new one sent to the address that was invited.',
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
      series: repeatsInWords(meeting),
      dates: meeting.repeats
        ? (await comingDates(pool, link.entryId, link.participantId, clock())).map((date) => ({
            ...date,
            start: new Date(date.start).toISOString(),
            end: new Date(date.end).toISOString(),
          }))
        : [],
      others: meeting.participants.filter((one) => one !== guest && !one.organizer).map((one) => one.name),
      now: new Date(clock()).toISOString(),
    }
  })

  mount(answerRoute, async ({ params, body }) => {
    const link = await open(params.token)
    const { entryId, participantId } = link
    const who = { entryId, participantId, recurrence: body.recurrence ?? null }
    await transaction(pool, (sql) => answerInvitation(sql, who, body, clock()))
    return { answer: body.answer }
  })

  mount(renewInvitation, async ({ params }) => {
    const { participantId } = await find(params.token)
    if ((await linksSince(pool, participantId, clock() - HOUR)) >= MOST_LINKS_AN_HOUR)
      throw new ProblemError(
        429,
        'too-many-links',
        'A new letter was sent a moment ago. Look for it, also among unwanted mail.',
      )
    const mailId = await invitationTo(pool, participantId)
    if (mailId) await sendAgain(pool, mailId, clock())
    return {}
  })
}
