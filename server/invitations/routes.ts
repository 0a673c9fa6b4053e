import { answerInvitation as answerRoute, readInvitation, renewInvitation } from '@marmot/contract/meetings'
import { proposeByLink } from '@marmot/contract/proposals'
import { HOUR } from '@marmot/core/time'
import { comingDates, entryOf, noteSeen, presentIn, readMeetings, repeatsInWords } from '../entries/index.ts'
import { invitationTo, sendAgain } from '../letters/index.ts'
import { findLink, linksSince } from '../links/index.ts'
import { answerInvitation } from '../meetings/index.ts'
import { transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { propose } from '../proposals/index.ts'

const MOST_LINKS_AN_HOUR = 3

export const invitationsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  const find = async (token: string) => {
    const link = await findLink(pool, 'answer', token)
    const entryId = link && !link.revoked ? await entryOf(pool, link.subjectId) : null
    if (!link || !entryId)
      throw new ProblemError(
        404,
        'no-such-link',
        'This link is not one of ours. Open it from the invitation again, whole.',
      )
    return { entryId, participantId: link.subjectId, expiresAt: link.expiresAt }
  }

  const open = async (token: string) => {
    const link = await find(token)
    if (link.expiresAt <= clock())
      throw new ProblemError(
        410,
        'link-expired',
        'This link has run out. Have a new one sent to the address that was invited.',
      )
    return link
  }

  mount(readInvitation, async ({ params }) => {
    const link = await open(params.token)
    await noteSeen(pool, { participantId: link.participantId }, clock())
    const [meeting] = await readMeetings(pool, [link.entryId], clock(), {
      seenBy: link.participantId,
    })
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
      answer: guest.ownAnswer,
      message: guest.message,
      cancelled: meeting.cancelled,
      cancelReason: meeting.cancelled ? meeting.cancelReason : '',
      series: guest.everyDate ? repeatsInWords(meeting) : [],
      dates:
        meeting.repeats && (guest.everyDate || guest.otherwise.length > 1)
          ? (await comingDates(pool, link.entryId, link.participantId, clock())).map((date) => ({
              ...date,
              start: new Date(date.start).toISOString(),
              end: new Date(date.end).toISOString(),
            }))
          : [],
      others: presentIn(meeting)
        .filter((one) => one !== guest && !one.organizer)
        .map((one) => one.name),
      now: new Date(clock()).toISOString(),
    }
  })

  mount(answerRoute, async ({ params, body, context }) => {
    const { entryId, participantId } = await open(params.token)
    const who = { entryId, participantId, recurrence: body.recurrence ?? null }
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `link of ${participantId}`, context, body }, async () => {
        await answerInvitation(sql, who, body, clock())
        return { answer: body.answer }
      }),
    )
  })

  mount(proposeByLink, async ({ params, body, context }) => {
    const { entryId, participantId } = await open(params.token)
    const { recurrence = null, start, ...given } = body
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `link of ${participantId}`, context, body }, async () => ({
        proposalId: await propose(
          sql,
          { entryId, participantId, recurrence },
          { ...given, start: Date.parse(start) },
          clock(),
        ),
      })),
    )
  })

  mount(renewInvitation, async ({ params }) => {
    const { participantId } = await find(params.token)
    if ((await linksSince(pool, 'answer', participantId, clock() - HOUR)) >= MOST_LINKS_AN_HOUR)
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
