import { askPoll, withdrawPoll } from '@marmot/contract/organized-polls'
import { itemsIn } from '@marmot/core/agenda'
import { noteOfText } from '@marmot/core/entries'
import { judge } from '@marmot/core/openings'
import { candidateStarts, FEWEST_TIMES, MOST_TIMES, type Narrowing } from '@marmot/core/polls'
import { isFree } from '@marmot/core/reservations'
import { clockText, instantOf, MINUTE, shortDay, wallOf } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { call } from '../platform/api.ts'
import { newSecret } from '../platform/secret.ts'
import { useUndo } from '../platform/undo.tsx'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { counted } from '../ui/parts.tsx'
import type { AskSettings } from './ask-how.tsx'
import { useBrief } from './brief.tsx'
import type { Arranging } from './use-arranging.ts'
import { useWhose } from './whose.tsx'
import { blockerWords, partsWords } from './words.ts'

const USUAL: Narrowing = {
  fromMinute: 0,
  toMinute: 1440,
  weekdays: [],
  all: false,
  aDay: 1,
  most: 5,
  earliest: 0,
}
/** Until when people can be asked, in days from now. */
const DAYS = [1, 2, 3, 5, 7, 10, 14, 21]
const USUAL_DAYS = 3
const EVENING = 18 * 60

const USUAL_SETTINGS: AskSettings = {
  needed: null,
  results: 'all',
  names: true,
  oneMark: false,
  proposals: true,
  notices: 'each',
  holds: true,
}

/** The times that are asked about as they would be sent: each with the places that can be had then, and who is kept from it. */
const useCandidates = (arranging: Arranging, asks: readonly number[], withRoom: boolean) => {
  const { brief, search, names, placesById, roomsAt } = arranging
  return asks.map((start) => {
    const span = { start, end: start + brief.minutes * MINUTE }
    const judged = search ? judge(search, span) : null
    const matched =
      brief.needs.length > 0 ? (judged?.parts.places?.places.flatMap((id) => id ?? []) ?? []) : []
    const wanted = [...new Set([...brief.places, ...matched])].flatMap((id) => placesById.get(id) ?? [])
    const places: PlaceLane[] =
      wanted.length > 0
        ? wanted.filter((place) => isFree(place, span))
        : withRoom
          ? roomsAt(span).slice(0, 1)
          : []
    const lost = wanted.filter((place) => !places.includes(place)).map((place) => place.name)
    const parts = judged
      ? partsWords({ ...span, from: start, to: start, parts: judged.parts, cost: judged.cost }, names)
      : []
    return {
      ...span,
      places,
      lost,
      words: [...(judged?.blockers ?? []).map((one) => blockerWords(one, names)), ...parts],
      blocked: (judged?.blockers.length ?? 0) > 0,
    }
  })
}

/** Until when they can answer: evenings before the last of the times. */
const useDeadline = ({ zone, now, today }: Arranging, asks: readonly number[]) => {
  const [days, setDays] = useState<number | null>(null)
  const last = asks.at(-1) ?? Number.POSITIVE_INFINITY
  const first = asks[0] ?? last
  const at = (n: number) => instantOf(zone, wallOf(today + n, EVENING))
  const options = DAYS.filter((n) => at(n) > now && at(n) <= last)
  // Before the first of them, where there is time for that: what is chosen after it cannot be had any more.
  const usual = options.filter((n) => n <= USUAL_DAYS && at(n) <= first).at(-1) ?? options[0] ?? null
  const chosen = days !== null && options.includes(days) ? days : usual
  return {
    options: options.map((n) => ({ days: n, words: `${shortDay(today + n)}, ${clockText(EVENING)}` })),
    days: chosen,
    setDays,
    // The last time may begin today: then until it does.
    closes: chosen === null ? last : at(chosen),
  }
}

/** What is asked of several people while it is put together: the times, until when, how; and how it is sent. */
export const useAsking = (arranging: Arranging, onClose: () => void) => {
  const { brief, change, clear } = useBrief()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const say = useUndo()
  const keyOf = useKeyOf()
  const { busy, trouble, attempt } = useAttempt()
  const [narrowing, setNarrowing] = useState(USUAL)
  const [settings, setSettings] = useState(USUAL_SETTINGS)
  const [anyone, setAnyone] = useState(false)
  const [door] = useState(newSecret)
  const [withRoom, setWithRoom] = useState(false)
  const { of, whose } = useWhose()
  const { me, now, found, chosen, members } = arranging
  const { asks } = brief
  const candidates = useCandidates(arranging, asks, withRoom)
  const deadline = useDeadline(arranging, asks)
  const pick = (next: Narrowing) => candidateStarts(found.openings, me.zone, next)
  const searched = arranging.settled && found.openings.length > 0
  // What the search found first; what was chosen before stays.
  const soon = instantOf(arranging.zone, wallOf(arranging.today + 2))
  const [filled, setFilled] = useState(asks.length > 0)
  useEffect(() => {
    if (filled || !searched) return
    setFilled(true)
    // So that there is time to answer before the first of them; sooner where there is nothing later.
    const later = candidateStarts(found.openings, me.zone, { ...USUAL, earliest: soon })
    change({
      asks: later.length >= FEWEST_TIMES ? later : candidateStarts(found.openings, me.zone, USUAL),
    })
  }, [filled, searched, found.openings, me.zone, change, soon])
  const narrow = (next: Narrowing) => {
    setNarrowing(next)
    change({ asks: pick(next) })
  }
  const add = (start: number) => change({ asks: [...asks, start].sort((a, b) => a - b) })
  const addable = chosen !== null && chosen.start > now && !asks.includes(chosen.start)
  const invited = members.filter((member) => member.id !== (of || me.id))
  const wantsPlaces = brief.places.length > 0 || brief.needs.length > 0
  const missing = [
    ...(brief.title.trim() ? [] : ['a title']),
    ...(invited.length > 0 || anyone ? [] : ['people to ask']),
    ...(asks.length >= FEWEST_TIMES ? [] : [asks.length ? 'a second time' : 'two times at least']),
    ...(asks.length <= MOST_TIMES ? [] : [`no more than ${MOST_TIMES} times`]),
  ]
  const ask = async () => {
    const body = {
      ...settings,
      title: brief.title,
      note: noteOfText(brief.note),
      agenda: itemsIn(
        brief.agenda,
        members.map((member) => member.name),
      ),
      minutes: brief.minutes,
      zone: me.zone,
      people: brief.people
        .filter((one) => one.id !== (of || me.id))
        .map(({ id, required }) => ({ id, required })),
      guests: brief.guests.map((one) => ({ ...one })),
      times: candidates.map((one) => ({
        start: new Date(one.start).toISOString(),
        places: one.places.map((place) => place.id),
      })),
      closes: new Date(deadline.closes).toISOString(),
      door: anyone ? door : null,
      ...(of ? { of } : {}),
    }
    await attempt(async () => {
      const { pollId, asked, untoldMs } = await call(askPoll, { body, key: keyOf(body) })
      const before = brief
      clear()
      onClose()
      void queries.invalidateQueries()
      say({
        words: `Asked ${counted(asked, 'person', 'people')} about ${counted(asks.length, 'time', 'times')}.`,
        label: 'Take back',
        ...(untoldMs > 0 ? { stays: untoldMs } : {}),
        undo: async () => {
          await call(withdrawPoll, { params: { pollId } })
          change(before)
          void queries.invalidateQueries()
          navigate('/arrange')
          return 'Taken back. What you had chosen is here again.'
        },
      })
      navigate(`/poll/${pollId}`, { state: anyone ? { door } : null })
    })
  }
  return {
    settings,
    setSettings,
    narrowing,
    narrow,
    anyone,
    setAnyone,
    withRoom,
    setWithRoom,
    wantsPlaces,
    whose,
    candidates,
    deadline,
    /** The chosen time, where it can be added. */
    addable: addable ? chosen : null,
    add,
    invited,
    missing,
    busy,
    trouble,
    ask,
  }
}

/** What is put together, as `useAsking` gives it. */
export type Asking = ReturnType<typeof useAsking>
