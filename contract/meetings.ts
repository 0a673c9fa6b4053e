import { MOST_NOTE, SCOPES } from '@marmot/core/entries'
import { ANSWERS, SPAN_STATES } from '@marmot/core/sharing'
import { z } from 'zod'
import { firstItems } from './agenda.ts'
import { joining } from './conferences.ts'
import { reminders } from './entries.ts'
import { event } from './live.ts'
import { contact } from './people.ts'
import { address, id, instant, route, wall } from './route.ts'
import { places, run } from './runs.ts'

/** Everybody to invite. */
const person = z.object({ id, required: z.boolean() })
const people = z.array(person).max(500)
const guest = z.object({ address, name: z.string().trim().max(100), required: z.boolean() })
const guests = z.array(guest).max(100)
/** Of a series: true asks somebody to all of it who was asked to some of its dates alone. */
const everyDate = z.literal(true).optional()

/** Formatted text as HTML; it is cleaned on the way in. */
const note = z.string().max(MOST_NOTE)
/** What a reservation says beside its time and places, for whoever looks after those. */
const purpose = z.string().trim().max(200)
const headCount = z.number().int().min(1).max(10_000).nullable()
/** For how many milliseconds nobody is told of it, so that it can be taken back. */
const untoldMs = z.number()

export const sendMeeting = route({
  method: 'POST',
  path: '/api/meetings',
  summary:
    'Make a meeting with its participants and reservations, and send the invitations: all or nothing. With nobody invited it is a reservation alone.',
  who: 'person',
  repeatable: true,
  body: () =>
    run.extend({
      title: z.string().trim().min(1, 'is missing').max(200),
      note: note.default(''),
      people,
      guests,
      /** How it stands on the lanes of those who take part. */
      shows: z.enum(SPAN_STATES).default('busy'),
      private: z.boolean().default(false),
      /** The organizer’s own category and reminders. */
      categoryId: id.nullable().default(null),
      reminders: reminders.default(null),
      purpose: purpose.default(''),
      headCount: headCount.default(null),
      /** At which site it is out of doors; null for under a roof. */
      outdoors: id.nullable().default(null),
      contact: contact.nullable().default(null),
      /** Whether those who have not answered are nudged by themselves, two days before. */
      autoNudge: z.boolean().default(false),
      /** Whether those who are invited are asked for an answer. */
      rsvp: z.boolean().default(true),
      /** The points with which its agenda begins; of a series, that of its first date. */
      agenda: firstItems.default([]),
      /** Whether it gets a link and a number by which one joins it from afar. */
      conference: z.boolean().default(false),
      /** My hold on this time, which the meeting takes the place of. */
      hold: id.nullable().default(null),
      /** Whose meeting it is, when a stand-in sends it for them. */
      of: id.optional(),
    }),
  answer: () =>
    z.object({
      entryId: id,
      start: instant,
      end: instant,
      invited: z.number(),
      moved: z.boolean(),
      /** The change, by which it is taken back. */
      changeId: id,
      untoldMs,
    }),
})

export const participant = z.object({
  id,
  personId: id.nullable(),
  name: z.string(),
  address: z.string(),
  zone: z.string().nullable(),
  required: z.boolean(),
  organizer: z.boolean(),
  /** False for somebody who was asked to some dates of a series alone. */
  everyDate: z.boolean(),
  /** Who passed it on to them, by name. */
  delegatedFrom: z.string().nullable(),
  answer: z.enum(ANSWERS),
  message: z.string(),
  answeredAt: instant.nullable(),
  /** A stand-in who answered for them. */
  answeredBy: z.string().nullable(),
  seenAt: instant.nullable(),
  /** What became of the last message to them: none for the organizer. */
  mail: z.enum(['none', 'waiting', 'sent', 'failed']),
  /** Whether that message was the invitation or the cancellation. */
  mailMethod: z.enum(['REQUEST', 'CANCEL']).nullable(),
  /** When they were last asked once more. */
  nudgedAt: instant.nullable(),
})
export type Participant = z.infer<typeof participant>

export const meeting = z.object({
  entryId: id,
  title: z.string(),
  note: z.string(),
  start: instant,
  end: instant,
  zone: z.string(),
  place: z.string(),
  /** Those that are reserved for the date that this is. */
  places: z.array(
    z.object({
      id,
      name: z.string(),
      siteId: id,
      /** True while its steward has not decided. */
      requested: z.boolean(),
    }),
  ),
  organizer: z.string(),
  iOrganize: z.boolean(),
  /** Whether I may change and cancel it: I organize it, or stand in for whoever does. */
  mayChange: z.boolean(),
  cancelled: z.boolean(),
  cancelReason: z.string(),
  /** Whether those who have not answered are nudged by themselves, two days before. */
  autoNudge: z.boolean(),
  /** Whether those who are invited are asked for an answer. */
  rsvp: z.boolean(),
  /** How one joins it from afar; with no link yet where the conference service has not answered. */
  conference: joining.nullable(),
  /** True where places are reserved and nobody takes part but whose it is: a reservation alone. */
  alone: z.boolean(),
  shows: z.enum(SPAN_STATES),
  purpose: z.string(),
  headCount: z.number().nullable(),
  /** At which site it is out of doors: by itself, or by a place of it that is. */
  outdoors: id.nullable(),
  /** At which it was said to be. */
  outdoorsSaid: id.nullable(),
  /** For whoever may change it, and for the stewards of its places. */
  contact: contact.nullable(),
  repeats: z.boolean(),
  /** Of a series: the date that this is, by the wall time that names it, how it repeats in words, and its coming dates. */
  recurrence: wall.nullable(),
  series: z.array(z.string()),
  myAnswer: z.enum(ANSWERS).nullable(),
  /** True where I keep my answer to myself. */
  answeredQuietly: z.boolean(),
  /** Who takes part in the date that this is. */
  participants: z.array(participant),
  /** Who takes part in other dates of the series, and not in this one. */
  elsewhere: z.array(participant),
  version: z.number(),
  /** What nobody was told of yet: for how many milliseconds still, and by which change the newest of it is taken back. */
  untold: z.object({ ms: z.number(), changeId: id.nullable() }).nullable(),
})
export type Meeting = z.infer<typeof meeting>

export const readMeeting = route({
  method: 'GET',
  path: '/api/meetings/:entryId',
  summary:
    'A meeting that I organize or take part in, with everybody’s answers; at its next date unless one is named.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  query: () => z.object({ recurrence: wall.optional() }),
  answer: () => meeting,
})

/** A meeting to which I was invited: at its next date, or its last where all are over. */
export const listedInvitation = z.object({
  entryId: id,
  recurrence: wall,
  title: z.string(),
  place: z.string(),
  start: instant,
  end: instant,
  allDay: z.boolean(),
  repeats: z.boolean(),
  /** Who invites me, by name; of somebody outside who gave none, their address. */
  organizer: z.string(),
  answer: z.enum(ANSWERS),
})
export type ListedInvitation = z.infer<typeof listedInvitation>

export const listInvitations = route({
  method: 'GET',
  path: '/api/invitations',
  summary:
    'The meetings to which I was invited, each at its next date; also such as I declined, and what was in the last four weeks.',
  who: 'person',
  answer: () =>
    z.object({
      invitations: z.array(listedInvitation),
      /** True where there are more than are told. */
      more: z.boolean(),
    }),
})

/** So many coming dates of a series are looked at, for what else one has then. */
export const MOST_COMING = 60

export const readDates = route({
  method: 'GET',
  path: '/api/meetings/:entryId/dates',
  summary: 'The coming dates of a series that I take part in, each with what else of mine it collides with.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  answer: () =>
    z.object({
      dates: z.array(
        z.object({
          recurrence: wall,
          start: instant,
          end: instant,
          answer: z.enum(ANSWERS),
          /** What I have then that takes my time, and how; null where there is nothing. */
          clash: z.object({ title: z.string(), state: z.enum(SPAN_STATES) }).nullable(),
        }),
      ),
      /** Whether there are more dates than these. */
      more: z.boolean(),
    }),
})

/** What somebody wants a meeting to become. What is left out stays as it is. */
const wantedMeeting = z.object({
  /** Of a series, the date that is changed, or from which all are seen. */
  recurrence: wall.optional(),
  /** Of a series, whether that date alone is changed, that and those that follow, or all of them. */
  scope: z.enum(SCOPES).default('all'),
  version: z.number().int(),
  title: z.string().trim().min(1, 'is missing').max(200).optional(),
  note: note.optional(),
  starts: wall.optional(),
  minutes: z.number().int().optional(),
  /** The zone that `starts` is in; the meeting's own without. */
  zone: z.string().max(100).optional(),
  places: places.optional(),
  /** Who takes part beside the organizer: in that one date, where it alone is changed, else in all of them. */
  people: z.array(person.extend({ everyDate })).max(500).optional(),
  guests: z.array(guest.extend({ everyDate })).max(100).optional(),
  /** Whether those who have not answered are nudged by themselves, two days before; of a series for all dates. */
  autoNudge: z.boolean().optional(),
  /** Whether those who are invited are asked for an answer; of a series for all dates. */
  rsvp: z.boolean().optional(),
  /** Whether one can join it from afar; of a series for all dates. */
  conference: z.boolean().optional(),
  /** How it stands on the lanes of those who take part. */
  shows: z.enum(SPAN_STATES).optional(),
  /** What it says of itself to whoever looks after its places; of a series for all dates. */
  purpose: purpose.optional(),
  headCount: headCount.optional(),
  /** At which site it is out of doors; null for under a roof; of a series for all dates. */
  outdoors: id.nullable().optional(),
  contact: contact.nullable().optional(),
})

const movedMeeting = z.object({
  start: instant,
  end: instant,
  /** True when daylight saving skips the typed time, so that it moved on. */
  moved: z.boolean(),
})

/** A meeting after a change of it, and the way back. */
export const changedMeeting = movedMeeting.extend({
  /** Another than it was where the dates that follow have become a series of their own. */
  entryId: id,
  version: z.number(),
  changeId: id,
  told: z.number(),
  untoldMs,
})

export const changeMeeting = route({
  method: 'POST',
  path: '/api/meetings/:entryId/change',
  summary:
    'Change a meeting, one date of a series, or all of them: when, where, what, and who. Its places are exchanged, all or none, and whoever is concerned is told.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ entryId: id }),
  body: () => wantedMeeting,
  answer: () => changedMeeting,
})

/** What somebody gets of a change, once it is made. */
export const telling = z.object({
  personId: id.nullable(),
  address: z.string(),
  name: z.string(),
  zone: z.string().nullable(),
  gets: z.enum(['invitation', 'change', 'cancellation', 'nothing']),
  /** True where an answer that they gave holds no more, and is asked for again. */
  asksAgain: z.boolean(),
})
export type Telling = z.infer<typeof telling>

export const lookAtChange = route({
  method: 'POST',
  path: '/api/meetings/:entryId/change/look',
  summary: 'What a change of a meeting would do: who would be told what. Nothing is changed.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  body: () => wantedMeeting,
  answer: () => movedMeeting.extend({ tellings: z.array(telling) }),
})

export const cancelMeeting = route({
  method: 'POST',
  path: '/api/meetings/:entryId/cancel',
  summary: 'Cancel a meeting, or one date of a series: its places are let go and everybody invited is told.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  body: () =>
    z.object({
      /** The date of a series that is cancelled; all of it without. */
      recurrence: wall.optional(),
      /** Whether that date alone is, or those that follow, too. */
      following: z.boolean().default(false),
      /** Why, for everybody to read. */
      reason: z.string().trim().max(2000).default(''),
    }),
  answer: () =>
    z.object({
      told: z.number(),
      /** The change, by which it is taken back; null when it was cancelled already. */
      changeId: id.nullable(),
      untoldMs,
    }),
})

export const nudgeMeeting = route({
  method: 'POST',
  path: '/api/meetings/:entryId/nudge',
  summary: 'Ask those who have not answered once more, or one of them; nobody twice within a day.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  body: () =>
    z.object({
      /** Of a series, the date that is looked at. */
      recurrence: wall.optional(),
      /** One participant, by their id as such; all who have not answered without. */
      participant: id.optional(),
    }),
  answer: () =>
    z.object({
      /** Who is asked once more, and who was asked too lately for that, by name. */
      nudged: z.array(z.string()),
      lately: z.array(z.string()),
    }),
})

const givenAnswer = z.object({
  answer: z.enum(['accepted', 'tentative', 'declined']),
  message: z.string().trim().max(2000).default(''),
  /** The one date of a series that the answer is for; all of them without. */
  recurrence: wall.optional(),
})

export const answerMeeting = route({
  method: 'POST',
  path: '/api/meetings/:entryId/answer',
  summary: 'Answer an invitation of mine, or of somebody whose stand-in I am.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  body: () =>
    givenAnswer.extend({
      /** `needs-action` takes an answer back that was given. */
      answer: z.enum(['accepted', 'tentative', 'declined', 'needs-action']),
      of: id.optional(),
      /** Keeps the answer from the organizer: it counts on one's own lane alone. */
      quiet: z.boolean().default(false),
      /**
       * Of an answer that comes later than it was given, since there was no connection: when it was given, and the version of
       * the meeting that was seen then. It is refused where the time was changed, or another answer was given, since.
       */
      late: z.object({ given: instant, version: z.number().int() }).optional(),
    }),
  answer: () => z.object({ answer: z.enum(ANSWERS) }),
})

export const delegateMeeting = route({
  method: 'POST',
  path: '/api/meetings/:entryId/delegate',
  summary:
    'Pass an invitation on to a colleague or an address: both stand in the list, and the organizer is told.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ entryId: id }),
  body: () =>
    z.object({
      to: z.union([
        z.object({ person: id }),
        z.object({ address, name: z.string().trim().max(100).default('') }),
      ]),
      message: z.string().trim().max(1500).default(''),
      /** The one date of a series that is passed on; all of them without. */
      recurrence: wall.optional(),
      of: id.optional(),
    }),
  answer: () => z.object({ answer: z.literal('delegated') }),
})

/** The guest's page: the invitation, and nothing of anybody's time. */
export const readInvitation = route({
  method: 'GET',
  path: '/api/invitations/:token',
  summary: 'The invitation behind a guest’s link.',
  who: 'guest',
  params: () => z.object({ token: z.string().min(20).max(100) }),
  answer: () =>
    z.object({
      title: z.string(),
      note: z.string(),
      start: instant,
      end: instant,
      zone: z.string(),
      place: z.string(),
      organizer: z.string(),
      guest: z.string(),
      answer: z.enum(ANSWERS),
      message: z.string(),
      cancelled: z.boolean(),
      cancelReason: z.string(),
      /** Whether an answer is asked for. */
      rsvp: z.boolean(),
      /** Of a series: how it repeats, in words, and its coming dates with the guest's answer to each. */
      series: z.array(z.string()),
      dates: z.array(
        z.object({
          recurrence: wall,
          start: instant,
          end: instant,
          place: z.string(),
          answer: z.enum(ANSWERS),
        }),
      ),
      others: z.array(z.string()),
      conference: joining.nullable(),
      now: instant,
    }),
})

export const answerInvitation = route({
  method: 'POST',
  path: '/api/invitations/:token/answer',
  summary: 'Answer by a guest’s link.',
  who: 'guest',
  repeatable: true,
  params: () => z.object({ token: z.string().min(20).max(100) }),
  body: () => givenAnswer,
  answer: () => z.object({ answer: z.enum(ANSWERS) }),
})

export const renewInvitation = route({
  method: 'POST',
  path: '/api/invitations/:token/renew',
  summary: 'Send the invitation anew, to the same address, when a guest’s link has run out.',
  who: 'guest',
  params: () => z.object({ token: z.string().min(20).max(100) }),
})

/** A meeting changed; for those who take part in it. */
export const meetingEvent = event('meeting', { entryId: id, people: z.array(id) })
