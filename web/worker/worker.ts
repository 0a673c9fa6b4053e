import { cleanupOutdatedCaches, matchPrecache, precache } from 'workbox-precaching'
import { NavigationRoute, registerRoute } from 'workbox-routing'

/** The files with which Marmot opens without a network, and the page itself with what names its contents; laid in by the build. */
declare const FILES: readonly { url: string; revision: string | null }[]

const PAGE = '/now'
/** A network that has not answered by then is none, for whoever waits for the page. */
const PATIENCE_MS = 6000

// All of one release are fetched together, and stay until the pages that came with them are closed: an older page never gets
// newer parts. Whatever has been fetched is taken from there; what is not among them comes from the network as it is asked for.
precache([...FILES])
cleanupOutdatedCaches()

registerRoute(
  ({ url, sameOrigin }) => sameOrigin && /^\/(?:assets\/|mark\.svg$)/.test(url.pathname),
  async ({ request }) => (await matchPrecache(request)) ?? fetch(request),
)

// The page comes from the network while there is one, so that a new release shows at once. The interface and the pages of those
// who have no account are left alone: what is kept of answers, the page keeps itself.
registerRoute(
  new NavigationRoute(
    async ({ request }) => {
      try {
        return await fetch(request, { signal: AbortSignal.timeout(PATIENCE_MS) })
      } catch (error) {
        const page = await matchPrecache(PAGE)
        if (page) return page
        throw error
      }
    },
    { denylist: [/^\/api\//, /^\/[ivq]\//] },
  ),
)
