import type { TodayHour, TodayView } from '@tin-harbor/core/contract'
import { wilson } from '@tin-harbor/core/report'
import { count, money, perCent } from '@/composables/formats'
import { valueAxis } from '@/theme/axes'
import { COLOURS, Chart } from '@/theme/charts'

/** What is drawn by hour: a share is of what it is a share of, with its 90 % range. */
export const RATES = {
  'win rate': { of: 'wins', among: 'matched', words: 'won of what it matched', digits: 0 },
  'in view': { of: 'viewable', among: 'wins', words: 'viewable of what was shown', digits: 0 },
  'click rate': { of: 'clicks', among: 'wins', words: 'clicks of what was shown', digits: 2 }
} as const
export type Rate = keyof typeof RATES
export const SHOWN = ['spend', 'shown', 'win rate', 'in view', 'click rate'] as const
export const isRate = (what: string): what is Rate => what in RATES

/** Sums by the end of each hour; null for hours that are still to come. */
function upTo(hours: readonly TodayHour[], until: number): (number | null)[] {
  let sum = 0
  return [0, ...hours.map((hour) => (sum += hour.spendMicros))].map((micros, hour) => (hour <= until ? micros / 1e6 : null))
}
export const two = (hour: number) => String(hour).padStart(2, '0')
const hourNames = (n: number) => Array.from({ length: n }, (_, hour) => `${two(hour)}:00`)

const pale = () => COLOURS.waterWash
const axes = (tick: (value: number) => string) => ({
  x: { grid: { display: false }, ticks: { maxRotation: 0, autoSkipPadding: 18 } },
  y: valueAxis(tick)
})

/** What was spent by the end of each hour, beside the plan and yesterday. */
export function drawSpend(on: HTMLCanvasElement, today: TodayView): Chart {
  return new Chart(on, {
    type: 'line',
    data: {
      labels: hourNames(25),
      datasets: [
        { label: 'today', data: upTo(today.hours, today.hour), borderColor: COLOURS.deep, borderWidth: 2, pointRadius: 0 },
        {
          label: 'planned',
          data: today.plannedMicros?.map((micros) => micros / 1e6) ?? [],
          borderColor: COLOURS.brass,
          borderDash: [4, 3],
          borderWidth: 1.6,
          pointRadius: 0
        },
        {
          label: 'yesterday',
          data: upTo(today.yesterday, 24),
          borderColor: 'transparent',
          backgroundColor: pale(),
          borderWidth: 0,
          pointRadius: 0,
          fill: true
        }
      ]
    },
    options: {
      interaction: { mode: 'index', intersect: false },
      plugins: {
        legend: { display: false },
        tooltip: { callbacks: { label: ({ dataset, parsed }) => `${dataset.label ?? ''} ${money((parsed.y ?? 0) * 1e6)}` } }
      },
      scales: axes((value) => `€${value}`)
    }
  })
}

/** Counts as bars, shares as a mark inside the bar of their range; what yesterday had lies behind. */
export function drawHours(on: HTMLCanvasElement, { hours, yesterday, hour }: TodayView, what: 'shown' | Rate): Chart {
  const rate = isRate(what) ? RATES[what] : null
  const told = ({ [rate?.of ?? 'wins']: events, [rate?.among ?? 'wins']: trials }: TodayHour) => ({ events, trials })
  const value = (one: TodayHour) => {
    const { events, trials } = told(one)
    return rate ? (trials > 0 ? (100 * events) / trials : null) : events
  }
  const range = (one: TodayHour): [number, number] | null => {
    const { events, trials } = told(one)
    if (trials === 0) return null
    const { low, high } = wilson(events, trials)
    return [100 * low, 100 * high]
  }
  const past = hours.map((one, n) => (n < hour ? one : null))
  const words = (one: TodayHour) => {
    const { events, trials } = told(one)
    if (!rate) return `${count(events)} shown`
    const { low, high } = wilson(events, trials)
    return `${count(events)} of ${count(trials)}: ${perCent(trials > 0 ? events / trials : 0, rate.digits)}, ${perCent(low, rate.digits)} to ${perCent(high, rate.digits)}`
  }
  return new Chart(on, {
    type: 'bar',
    data: {
      labels: hourNames(24),
      datasets: [
        ...(rate
          ? [
              {
                type: 'line' as const,
                label: 'today',
                data: past.map((one) => one && value(one)),
                borderColor: 'transparent',
                pointBackgroundColor: COLOURS.deep,
                pointBorderColor: COLOURS.deep,
                pointStyle: 'rect' as const,
                pointRadius: 3
              }
            ]
          : []),
        {
          label: 'today',
          data: past.map((one) => one && (rate ? range(one) : value(one))),
          backgroundColor: COLOURS.water,
          grouped: false,
          barPercentage: rate ? 0.3 : 0.6
        },
        {
          label: 'yesterday',
          data: yesterday.map(value),
          backgroundColor: pale(),
          grouped: false,
          barPercentage: 1,
          categoryPercentage: 0.95
        }
      ]
    },
    options: {
      interaction: { mode: 'index', intersect: false },
      plugins: {
        legend: { display: false },
        tooltip: {
          filter: (item, n, items) => items.findIndex((other) => other.dataset.label === item.dataset.label) === n,
          callbacks: {
            label: ({ dataset, dataIndex }) =>
              `${dataset.label ?? ''} ${words((dataset.label === 'yesterday' ? yesterday : hours)[dataIndex])}`
          }
        }
      },
      scales: axes((value) => (rate ? `${value} %` : count(value)))
    }
  })
}
