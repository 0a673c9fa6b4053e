import { lengthInWords } from '@marmot/core/time'
import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js'
import { useEffect, useRef } from 'react'

Chart.register(BarController, BarElement, CategoryScale, Legend, LinearScale, Tooltip)

/** Minutes outside their hours that somebody bore lately, and would bear now. */
export interface Borne {
  readonly name: string
  readonly lately: number
  readonly now: number
}

const STEPS = [15, 30, 60, 120, 180, 240, 300, 360, 480, 600, 720, 1440]
const MOST_TICKS = 7

/** The finest step of the axis, in minutes, that people count in and that leaves room for its words. */
const stepFor = (people: readonly Borne[]): number => {
  const most = Math.max(0, ...people.map((one) => one.lately + one.now))
  return STEPS.find((step) => most / step <= MOST_TICKS) ?? Math.ceil(most / MOST_TICKS / 1440) * 1440
}

/** A colour of the theme as the canvas can read it: by day and by night it is another. */
const colour = (canvas: HTMLCanvasElement, name: string): string => {
  canvas.style.color = `var(${name})`
  return getComputedStyle(canvas).color
}

/** Who bore how much lately, and what the time in question adds: a bar each, the numbers in a table beside it. */
export const BalanceChart = ({
  people,
  weeks,
  adds,
}: {
  people: readonly Borne[]
  weeks: number
  adds: string
}) => {
  const ref = useRef<HTMLCanvasElement>(null)
  const text = JSON.stringify(people)
  useEffect(() => {
    const canvas = ref.current
    if (!canvas) return
    const ink = colour(canvas, '--ink')
    Chart.defaults.font.family = getComputedStyle(canvas).fontFamily
    const shown: readonly Borne[] = JSON.parse(text)
    const chart = new Chart(canvas, {
      type: 'bar',
      data: {
        labels: shown.map((one) => one.name),
        datasets: [
          {
            label: `in the last ${weeks} weeks`,
            data: shown.map((one) => one.lately),
            backgroundColor: colour(canvas, '--busy'),
          },
          { label: adds, data: shown.map((one) => one.now), backgroundColor: colour(canvas, '--sun') },
        ],
      },
      options: {
        indexAxis: 'y',
        animation: false,
        maintainAspectRatio: false,
        scales: {
          x: {
            stacked: true,
            ticks: {
              color: ink,
              stepSize: stepFor(shown),
              callback: (value) => lengthInWords(Number(value)),
            },
            grid: { color: colour(canvas, '--line') },
          },
          y: { stacked: true, ticks: { color: ink }, grid: { display: false } },
        },
        plugins: {
          legend: { labels: { color: ink, boxWidth: 14 } },
          tooltip: {
            callbacks: {
              label: ({ dataset, raw }) => `${dataset.label}: ${lengthInWords(Number(raw))}`,
            },
          },
        },
      },
    })
    return () => chart.destroy()
  }, [text, weeks, adds])
  return (
    <div style={{ height: 64 + people.length * 24 }}>
      <canvas
        ref={ref}
        role="img"
        aria-label="Minutes outside hours, by person: the numbers are in the table"
      />
    </div>
  )
}
