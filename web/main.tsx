import './theme.css'
import './print.css'
import { createRoot } from 'react-dom/client'
import { z } from 'zod'
import { applyDaylight } from './platform/daylight.ts'

// Zod would try `new Function`, which the page's own policy refuses.
z.config({ jitless: true })
applyDaylight()

const { App, firstAnswers } = await import('./app/app.tsx')
await firstAnswers()

const root = document.getElementById('root')
if (root) createRoot(root).render(<App />)
