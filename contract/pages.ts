/**
 * The first part of each address that is the application's own to show; what begins otherwise, and is neither a file nor
 * the interface, does not exist. `i` is the guest's page, behind a link.
 */
export const PAGES = ['now', 'time', 'arrange', 'people', 'places', 'meeting', 'poll', 'i', 'q'] as const
