import type { Notice } from '@marmot/contract/notices'
import { dayOf, shortDay, shortTime, wallFromText } from '@marmot/core/time'
import { useNavigate } from 'react-router'
import { useMe } from '../platform/session.tsx'

const SAID: Record<string, string> = {
  accepted: 'accepted',
  tentative: 'may come to',
  declined: 'declined',
  'needs-action': 'took back their answer to',
  delegated: 'passed on',
}

const DID: Record<string, string> = {
  made: 'made',
  changed: 'changed',
  deleted: 'deleted',
  answered: 'answered',
  sent: 'sent',
  cancelled: 'cancelled',
  imported: 'imported',
}

const ASKED: Record<string, string> = {
  'more-times': 'asks about more times for',
  again: 'asks again which times suit you for',
  nudge: 'would like to know which times suit you for',
}

const ABOUT_DATES = new Set(['answered', 'changed', 'cancelled', 'nudged', 'proposed', 'kept', 'meant'])

const WITH_WORDS = new Set([
  'answered',
  'cancelled',
  'kept',
  'todo-given',
  'todo-taken',
  'todo-back',
  'todo-done',
  'todo-due',
])

/** Which dates of a series a notice is about. */
const datesWords = (notice: Notice): string => {
  if (!notice.repeats) return ''
  const wall = notice.recurrence === null ? null : wallFromText(notice.recurrence)
  return wall === null ? ', all dates' : `, ${shortDay(dayOf(wall))} only`
}

const noticeWords = (notice: Notice): string => {
  switch (notice.kind) {
    case 'answered':
      return SAID[notice.answer ?? 'needs-action'] ?? ''
    case 'invited':
      return 'invites you to'
    case 'acted':
      return `${DID[notice.message] ?? 'did something'} for you:`
    case 'shared':
      return `now lets you see ${notice.message}`
    case 'changed':
      return 'changed'
    case 'nudged':
      return 'asks for your answer to'
    case 'proposed':
      return `proposes ${notice.message} for`
    case 'kept':
      return 'keeps the time of'
    case 'meant':
      return 'mentions you in'
    case 'cancelled':
      return 'cancelled'
    case 'asked':
      return `asks for ${notice.message}`
    case 'granted':
      return `lets you have ${notice.message}`
    case 'refused':
      return `does not let you have ${notice.message}`
    case 'moved':
      return `gives you ${notice.message}`
    case 'time-taken':
      return `takes the time that you proposed for ${notice.message}`
    case 'poll-asked':
      return ASKED[notice.message] ?? 'asks which times suit you for'
    case 'poll-marked':
      return 'says which times suit them for'
    case 'poll-proposed':
      return `proposes ${notice.message} for`
    case 'poll-over':
      return `The time to answer is over (${notice.message}):`
    case 'poll-daily':
      return `${notice.message.replace(/^./, (sign) => sign.toUpperCase())}:`
    case 'poll-ended':
      return notice.message === 'off' ? 'does not ask any more about' : 'has chosen a time, without you, for'
    case 'visit-taken':
      return `takes a time of yours, ${notice.message}:`
    case 'visit-moved':
      return `moves their visit to ${notice.message}:`
    case 'visit-cancelled':
      return `cancels their visit, ${notice.message}:`
    case 'visit-hosting':
      return `would like to offer your time for ${notice.message}`
    case 'todo-given':
      return 'gives you to do:'
    case 'todo-taken':
      return 'does not need you any more for'
    case 'todo-back':
      return 'gives back'
    case 'todo-done':
      return 'has done'
    case 'todo-due':
      return 'has another day for'
    case 'time-kept':
      return `keeps asking for ${notice.message}`
    case 'room-made':
      return `makes room: ${notice.message} is yours.`
    case 'no-room':
      return `makes no room: ${notice.message}`
    case 'lapsed':
      return `got no answer in time: ${notice.message}`
    default:
      return notice.message
  }
}

/** What was said lately: who answered, invited, gave or took a place; each opens what it is about. */
export const Lately = ({
  notices,
  onOpen,
}: {
  notices: readonly Notice[]
  onOpen: (entryId: string) => void
}) => {
  const { zone } = useMe()
  const navigate = useNavigate()
  return (
    <ul className="rounded-lg bg-paper py-1" aria-live="polite">
      {notices.map((notice) => (
        <li key={notice.id}>
          <button
            type="button"
            onClick={() =>
              notice.pollId
                ? navigate(`/poll/${notice.pollId}`)
                : notice.todoId
                  ? navigate(`/now?todo=${notice.todoId}`)
                  : notice.entryId && onOpen(notice.entryId)
            }
            disabled={!(notice.entryId || notice.pollId || notice.todoId) || notice.kind === 'acted'}
            className="w-full px-4 py-1 text-left leading-snug hover:bg-shade/60"
          >
            <b className="font-semibold">{notice.who}</b> {noticeWords(notice)} {notice.title}
            {ABOUT_DATES.has(notice.kind) && datesWords(notice)}
            {WITH_WORDS.has(notice.kind) && notice.message && (
              <span className="text-soft">: “{notice.message}”</span>
            )}
            <span className="text-[13px] text-soft"> {shortTime(Date.parse(notice.at), zone)}</span>
          </button>
        </li>
      ))}
    </ul>
  )
}
