/**
 * The first part of each address that is the application's own to show; what begins otherwise, and is neither a file nor
 * the interface, does not exist. `i` is the guest's page, behind a link.
 */
export const PAGES = [
  'now',
  'time',
  'arrange',
  'people',
  'settings',
  'places',
  'meeting',
  'poll',
  'i',
] as const

/** The same of what those without an account see, a page of its own: `q` is a poll, behind a link, `v` a page on which they pick a time. */
export const OUTSIDE_PAGES = ['q', 'v'] as const
