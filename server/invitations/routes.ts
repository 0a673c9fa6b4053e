import { openAgendaByLink, readAgendaByLink } from '@marmot/contract/agenda'
import { joinByLink } from '@marmot/contract/conferences'
import {
  addFileByLink,
  invitationEvents,
  readConversationByLink,
  readFileByLink,
  removeMessageByLink,
  sayByLink,
} from '@marmot/contract/conversation'
import { answerInvitation as answerRoute, readInvitation, renewInvitation } from '@marmot/contract/meetings'
import { proposeByLink } from '@marmot/contract/proposals'
import { HOUR } from '@marmot/core/time'
import { agendaAt, enterAgenda } from '../agenda/index.ts'
import { joinAs } from '../conferences/index.ts'
import { addFileAt, conversationFor, sayAt, setRemoved, talkingAt } from '../conversation/index.ts'
import {
  answerFile,
  comingDates,
  contentOf,
  noteSeen,
  presentAt,
  presentIn,
  readMeetings,
  repeatsInWords,
} from '../entries/index.ts'
import { invitationTo, sendAgain } from '../letters/index.ts'
import { linksSince } from '../links/index.ts'
import { answerInvitation } from '../meetings/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { propose } from '../proposals/index.ts'
import { guestBy, guestOf } from './guests.ts'

const MOST_LINKS_AN_HOUR = 3

export const invitationsRoutes = ({ mount, mountSocket, deps }: Routes, house: House): void => {
  const { pool, clock } = deps

  const find = (token: string) => guestOf(pool, token)
  const open = (token: string) => guestBy(pool, token, clock())

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
      rsvp: meeting.rsvp,
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
      conference: meeting.cancelled ? null : meeting.conference,
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

  /** The date of a meeting at which whoever comes by a link takes part. */
  const presentBy = async (token: string, recurrence: string | undefined) => {
    const { entryId, participantId } = await open(token)
    return {
      participantId,
      present: await presentAt(pool, { entryId, recurrence }, { participantId }, clock()),
    }
  }

  mount(readAgendaByLink, async ({ params, query }) =>
    agendaAt(pool, (await presentBy(params.token, query.recurrence)).present),
  )

  mountSocket(openAgendaByLink, async ({ params, query }) => {
    const { participantId, present } = await presentBy(params.token, query.recurrence)
    const guest = present.meeting.participants.find((one) => one.id === participantId)
    return enterAgenda(house, { participantId }, present, {
      name: guest?.name ?? '',
      mayCome: () => open(params.token),
    })
  })

  mount(joinByLink, async ({ params, body }) => {
    const { participantId, present } = await presentBy(params.token, body.recurrence)
    const guest = present.meeting.participants.find((one) => one.id === participantId)
    return { link: await joinAs(house, pool, present, guest?.name ?? '', clock()) }
  })

  const talkingBy = async (sql: Sql, token: string, recurrence: string | undefined) => {
    const { entryId, participantId } = await open(token)
    return talkingAt(sql, { entryId, recurrence }, { participantId }, clock())
  }

  mount(invitationEvents, async ({ params, context }) => {
    const { participantId, link } = await open(params.token)
    house.stream(context, { personId: participantId, session: link, guest: true })
    return {}
  })

  mount(readConversationByLink, async ({ params, query }) =>
    conversationFor(
      pool,
      await talkingBy(pool, params.token, query.recurrence),
      query.before === undefined ? null : Date.parse(query.before),
    ),
  )

  mount(sayByLink, async ({ params, body, context }) => {
    const { participantId } = await open(params.token)
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `link of ${participantId}`, context, body }, async () => ({
        messageId: await sayAt(sql, await talkingBy(sql, params.token, body.recurrence), body, clock()),
      })),
    )
  })

  mount(removeMessageByLink, async ({ params }) => {
    const { participantId } = await open(params.token)
    await transaction(pool, (sql) => setRemoved(sql, params.messageId, { participantId }, true, clock()))
    return {}
  })

  mount(
    addFileByLink,
    ({ params, query, raw }) =>
      transaction(pool, async (sql) =>
        addFileAt(
          sql,
          await talkingBy(sql, params.token, query.recurrence),
          { name: query.name, content: raw },
          clock(),
        ),
      ),
    // Whoever has no link sends no files.
    ({ token }) => open(token),
  )

  mount(readFileByLink, async ({ params, context }) => {
    const { entryId, participantId } = await open(params.token)
    const file = await contentOf(pool, params.attachmentId)
    if (file?.entryId !== entryId) throw notFound('file')
    await presentAt(pool, file, { participantId }, clock())
    return answerFile(context, file)
  })
}
