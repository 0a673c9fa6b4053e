import type { Domain } from '../platform/house.ts'
import { letterTasks } from './send.ts'

export const domain: Domain = {
  tasks: (house) => letterTasks({ ...house, url: house.url(), from: house.mailFrom() }),
}
