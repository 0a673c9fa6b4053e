import './theme.css'
import { createRoot } from 'react-dom/client'
import { z } from 'zod'
import { applyDaylight } from './platform/daylight.ts'

// Zod would try `new Function`, which the page's own policy refuses.
z.config({ jitless: true })
applyDaylight()

const { OutsidePage } = await import('./outside/outside-page.tsx')

const root = document.getElementById('root')
if (root) createRoot(root).render(<OutsidePage />)
