import { laneOf, MOST_ASKED, unknownLane } from '@marmot/contract/availability'
import {
  deleteLayerSet,
  type Layer,
  type LayerSet,
  listLayerSets,
  putLayerSet,
} from '@marmot/contract/layers'
import type { LaneTime } from '@marmot/core/availability'
import { teamLane } from '@marmot/core/lanes'
import type { Instant } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useMemo } from 'react'
import { useFeedSpans, useFeeds } from '../feeds/feeds.ts'
import { usePeople } from '../people/people.ts'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'
import { useMe } from '../platform/session.tsx'
import { usePlaces } from '../resources/resources.ts'
import { flower, TONES_COUNT } from '../ui/parts.tsx'
import { useTime } from './time.ts'

const SEES_WORDS = {
  nothing: 'unknown',
  busy: 'busy times',
  headlines: 'headlines',
  everything: 'everything',
} as const

/** A layer with what is known of it: whose, at which level, and the lane. */
export interface KnownLayer extends Layer {
  readonly name: string
  readonly about: string
  readonly colour: string
  readonly time: LaneTime
  /** Of a team, its people, each as a layer of their own. */
  readonly members?: readonly KnownLayer[]
}

/** How many a team is, and of how many of them nothing is known. */
const teamWords = (members: readonly KnownLayer[]): string => {
  const unknown = members.filter((member) => !member.time.known).length
  return `team of ${members.length}${unknown ? `, ${unknown} unknown` : ''}`
}

/** Layers as they have lanes: a team that is open as its people. */
export const lanesOfLayers = (layers: readonly KnownLayer[]): KnownLayer[] =>
  layers.flatMap((layer) => (layer.open && layer.members?.length ? layer.members : [layer]))

const layersKey = () => ['layers']

/** My sets of layers; the first is the one in use. Changes are kept at once, so that they are there next time. */
export const useLayerSets = () => {
  const queries = useQueryClient()
  const answer = useQuery({
    queryKey: layersKey(),
    queryFn: () => call(listLayerSets),
    staleTime: 60_000,
    // A feed that is added lies beside mine at once.
    meta: { heeds: ON_MY_TIME },
  })
  const sets = answer.data?.sets ?? []
  const keep = async (set: LayerSet) => {
    const others = sets.filter((each) => each.id !== set.id)
    queries.setQueryData(layersKey(), { sets: [set, ...others] })
    try {
      await call(putLayerSet, {
        params: { setId: set.id },
        body: { name: set.name, layers: [...set.layers] },
      })
    } finally {
      await queries.invalidateQueries({ queryKey: layersKey() })
    }
  }
  const forget = async (setId: string) => {
    await call(deleteLayerSet, { params: { setId } })
    await queries.invalidateQueries({ queryKey: layersKey() })
  }
  const current = sets[0] ?? null
  const put = (layers: readonly Layer[]) =>
    keep({ id: current?.id ?? crypto.randomUUID(), name: current?.name ?? '', layers: [...layers] })
  return { sets, current, keep, forget, put, pending: answer.isPending }
}

const NO_LAYERS: readonly Layer[] = []

/** The layers of the set in use, with their time in a range. Somebody who shares nothing is unknown, never free. */
export const useLayers = (layers: readonly Layer[] = NO_LAYERS, from: Instant, to: Instant): KnownLayer[] => {
  const { person: me, zone } = useMe()
  const ids = (kind: Layer['kind']) => layers.filter((layer) => layer.kind === kind).map((layer) => layer.id)
  const people = usePeople(ids('person'), ids('team'))
  const teams = people.data?.teams
  const peopleIds = [
    ...new Set([
      ...ids('person'),
      ...(teams ?? []).flatMap((team) => team.members.map((member) => member.id)),
    ]),
  ].slice(0, MOST_ASKED)
  const time = useTime(peopleIds, from, to)
  const placeIds = ids('place')
  const { places } = usePlaces(from, to, {
    enabled: placeIds.length > 0,
    of: { sites: [], kinds: [], places: placeIds },
  })
  const feeds = useFeeds()
  const feedSpans = useFeedSpans(ids('feed'), from, to)
  return useMemo(() => {
    const times = new Map(time.data?.people.map((each) => [each.personId, each]))
    return layers.map((layer): KnownLayer => {
      const colour = flower(layer.tone) ?? 'var(--soft)'
      const ofPerson = (id: string, name: string | undefined, tone = layer.tone) => {
        const theirs = times.get(id)
        return {
          ...layer,
          kind: 'person' as const,
          id,
          tone,
          colour: flower(tone) ?? 'var(--soft)',
          name: name ?? '…',
          about: theirs ? SEES_WORDS[theirs.sees] : 'fetching…',
          time: theirs ? laneOf(theirs) : unknownLane(me.zone),
        }
      }
      if (layer.kind === 'person')
        return ofPerson(layer.id, people.data?.people.find((each) => each.id === layer.id)?.name)
      if (layer.kind === 'team') {
        const team = teams?.find((each) => each.id === layer.id)
        // My own time is there anyway.
        const others = (team?.members ?? []).filter((member) => member.id !== me.id)
        const members = others.map((member, i) =>
          ofPerson(member.id, member.name, (layer.tone + i) % TONES_COUNT),
        )
        return {
          ...layer,
          colour,
          name: team?.name ?? 'a team that is gone',
          about: teamWords(members),
          time: teamLane(
            members.map((member) => member.time),
            zone,
            from,
          ),
          members,
        }
      }
      if (layer.kind === 'place') {
        const place = places.find((each) => each.id === layer.id)
        return {
          ...layer,
          colour,
          name: place?.name ?? '…',
          about: 'place',
          time: place?.time ?? unknownLane(me.zone),
        }
      }
      const feed = feeds.data?.read.find((each) => each.id === layer.id)
      const read = feedSpans.data?.feeds.find((each) => each.id === layer.id)
      const instants = (span: { start: string; end: string }) => ({
        start: Date.parse(span.start),
        end: Date.parse(span.end),
      })
      return {
        ...layer,
        colour,
        name: feed?.name ?? 'a feed that is gone',
        about: feed?.trouble ? '⚠ could not be read' : 'calendar',
        time: read
          ? {
              zone: me.zone,
              known: true,
              hours: [],
              outside: 'outside',
              spans: read.spans.map((span) => ({ ...span, ...instants(span) })),
              unknown: read.unknown.map(instants),
            }
          : unknownLane(me.zone),
      }
    })
  }, [layers, people.data, teams, time.data, places, feeds.data, feedSpans.data, me, zone, from])
}
