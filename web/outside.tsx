import './theme.css'
import { createRoot } from 'react-dom/client'
import { OutsidePage } from './outside-page.tsx'
import { applyDaylight } from './platform/daylight.ts'

applyDaylight()

const root = document.getElementById('root')
if (root) createRoot(root).render(<OutsidePage />)
