/** Where a picture of some text is kept, and how one is put there. */
export interface Pictures {
  readonly add: (file: File) => Promise<{ readonly id: string; readonly name: string }>
  readonly addressOf: (id: string) => string
}

/** What can be shown as a picture. */
export const PICTURE_TYPES = 'image/png,image/jpeg,image/gif,image/webp'
