import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { type Drawing, INKS, type Mark } from '@marmot/core/lanes'
import { createCanvas, GlobalFonts, type SKRSContext2D } from '@napi-rs/canvas'
import type { ThreadWork } from '../platform/threads.ts'

/** Screens and paper with fine dots show twice as many as the drawing is wide. */
const SCALE = 2
const SIZE = 13
const FAMILY = 'Marmot Letters'

const folder = join(
  dirname(createRequire(import.meta.url).resolve('@fontsource-variable/source-sans-3/package.json')),
  'files',
)
/** What one has no sign for is looked for in the next. */
const PARTS = ['latin', 'latin-ext', 'cyrillic', 'greek', 'vietnamese']
for (const part of PARTS)
  GlobalFonts.registerFromPath(join(folder, `source-sans-3-${part}-wght-normal.woff2`), `${FAMILY} ${part}`)
const FAMILIES = PARTS.map((part) => `"${FAMILY} ${part}"`).join(', ')

/** A text as long as there is room for it, or cut short with an ellipsis. */
const fitted = (context: SKRSContext2D, text: string, most: number): string => {
  if (context.measureText(text).width <= most) return text
  for (let length = text.length - 1; length > 0; length--) {
    const cut = `${text.slice(0, length).trimEnd()}…`
    if (context.measureText(cut).width <= most) return cut
  }
  return ''
}

const draw = (context: SKRSContext2D, mark: Mark): void => {
  if (mark.kind === 'box') {
    const { x, y, width, height, fill, edge, thick = 1 } = mark
    if (fill) {
      context.fillStyle = INKS[fill]
      context.fillRect(x, y, width, height)
    }
    if (edge) {
      context.strokeStyle = INKS[edge]
      context.lineWidth = thick
      context.strokeRect(x + 0.5, y + 0.5, width - 1, height - 1)
    }
  } else if (mark.kind === 'line') {
    context.strokeStyle = INKS[mark.ink]
    context.lineWidth = 1.5
    context.setLineDash(mark.dotted ? [2, 5] : [])
    context.beginPath()
    context.moveTo(mark.x, mark.y)
    context.lineTo(mark.x + mark.width, mark.y + mark.height)
    context.stroke()
    context.setLineDash([])
  } else {
    context.fillStyle = INKS[mark.ink]
    context.font = `${mark.bold ? 600 : 400} ${SIZE}px ${FAMILIES}, sans-serif`
    context.textAlign = mark.middle ? 'center' : 'left'
    context.fillText(fitted(context, mark.text, mark.most), mark.x, mark.y)
  }
}

/** Draws a drawing as a PNG. */
export const drawPicture: ThreadWork<Drawing, Uint8Array> = async ({ width, height, marks }) => {
  const canvas = createCanvas(width * SCALE, height * SCALE)
  const context = canvas.getContext('2d')
  context.scale(SCALE, SCALE)
  context.fillStyle = INKS.ground
  context.fillRect(0, 0, width, height)
  for (const mark of marks) draw(context, mark)
  return canvas.toBuffer('image/png')
}
