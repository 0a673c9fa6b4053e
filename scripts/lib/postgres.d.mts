/** Where a private cluster can be reached, and how it is stopped. */
export interface Cluster {
  readonly url: (database: string) => string
  readonly data: string
  readonly port: number
  readonly stop: () => unknown
  readonly restart: (mode: 'fast' | 'immediate') => { ok: boolean; text: string }
}
export const startCluster: (folder: string, options?: { fast?: boolean }) => Promise<Cluster>
export const reachableFolder: (wanted: string, otherwise: string) => string
