import type { Domain } from '../platform/house.ts'
import { tidyDoors } from './doors.ts'
import { tidyLinks } from './store.ts'

export const domain: Domain = {
  nightly: {
    links: ({ pool, clock }) => tidyLinks(pool, clock()),
    doors: ({ pool, clock }) => tidyDoors(pool, clock()),
  },
}
