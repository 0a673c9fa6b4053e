import './theme.css'
import { createRoot } from 'react-dom/client'
import { z } from 'zod'
import { applyDaylight } from './app/daylight.ts'

// Zod would try `new Function`, which the page's own policy refuses.
z.config({ jitless: true })
applyDaylight()

// The browser's own Temporal where it has one; the polyfill is fetched only by those that need it.
if (!('Temporal' in globalThis)) await import('temporal-polyfill/global')
const { App } = await import('./app/app.tsx')

const root = document.getElementById('root')
if (root) createRoot(root).render(<App />)
