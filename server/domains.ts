import { existsSync, readdirSync } from 'node:fs'
import type { Domain } from './platform/house.ts'

/** From its sources, with nobody to put them together, the server looks for them itself. */
const fromFolders = async (): Promise<Domain[]> => {
  const folders = readdirSync(new URL('.', import.meta.url))
    .map((name) => new URL(`./${name}/domain.ts`, import.meta.url))
    .filter((file) => existsSync(file))
  const modules: { domain: Domain }[] = await Promise.all(folders.map((file) => import(file.href)))
  return modules.map((module) => module.domain)
}

/** The domains of the house: whatever folder has a `domain.ts`. The application, `openapi.json` and the matrix read this. */
export const domains: readonly Domain[] = import.meta.env
  ? Object.values(import.meta.glob<Domain>('./*/domain.ts', { eager: true, import: 'domain' }))
  : await fromFolders()
