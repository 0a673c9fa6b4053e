/** Which dates of a series a change is for. */
export const SCOPES = ['this', 'following', 'all'] as const
export type Scope = (typeof SCOPES)[number]
