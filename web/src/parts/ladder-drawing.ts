import type { Ladder } from '@tin-harbor/core/forecast'
import { about } from '@/composables/formats'
import { valueAxis } from '@/theme/axes'
import { COLOURS, Chart } from '@/theme/charts'

/** Wins a day by bid: what could be won, and what this budget buys of it. */
export function drawLadder(on: HTMLCanvasElement, { rungs }: Ladder): Chart {
  const points = (figure: 'wins' | 'budgetWins') => rungs.map((rung) => ({ x: rung.bidMicros / 1e6, y: rung[figure] }))
  return new Chart(on, {
    type: 'line',
    data: {
      datasets: [
        { label: 'this budget', data: points('budgetWins'), borderColor: COLOURS.deep, borderWidth: 2, pointRadius: 0, tension: 0.2 },
        {
          label: 'could be won',
          data: points('wins'),
          borderColor: COLOURS.water,
          backgroundColor: COLOURS.waterVeil,
          fill: true,
          borderWidth: 1.4,
          pointRadius: 0,
          tension: 0.2
        }
      ]
    },
    options: {
      events: [],
      plugins: { tooltip: { enabled: false } },
      layout: { padding: { top: 4 } },
      scales: {
        x: {
          type: 'logarithmic',
          min: rungs[0].bidMicros / 1e6,
          max: (rungs.at(-1)?.bidMicros ?? 1e6) / 1e6,
          grid: { display: false },
          ticks: { maxRotation: 0, autoSkipPadding: 18, callback: (value) => String(Number(Number(value).toPrecision(2))) }
        },
        y: valueAxis(about)
      }
    }
  })
}

/** Wins at a bid, between the rungs beside it. */
export function winsAt({ rungs }: Ladder, micros: number, figure: 'wins' | 'budgetWins'): number {
  const upper = rungs.findIndex((rung) => rung.bidMicros >= micros)
  if (upper <= 0) return upper === 0 ? rungs[0][figure] : (rungs.at(-1)?.[figure] ?? 0)
  const [a, b] = [rungs[upper - 1], rungs[upper]]
  return a[figure] + ((b[figure] - a[figure]) * Math.log(micros / a.bidMicros)) / Math.log(b.bidMicros / a.bidMicros)
}
