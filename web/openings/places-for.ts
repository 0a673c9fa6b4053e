import type { Brief } from '@marmot/contract/briefs'
import type { SomePlaces } from '../resources/resources.ts'

/** What Arrange has to know of: rooms on the sites where somebody is, to be offered, and what a brief asks for. */
export const placesFor = (brief: Pick<Brief, 'places' | 'needs'>, sites: readonly string[]): SomePlaces => ({
  sites: [...sites, ...brief.needs.flatMap((need) => need.siteId ?? [])],
  kinds: ['room', 'lab', ...brief.needs.map((need) => need.kind)],
  places: brief.places,
  alike: true,
})
