import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LineController,
  LineElement,
  Filler,
  LinearScale,
  LogarithmicScale,
  PointElement,
  Tooltip
} from 'chart.js'

/** Chart.js, themed once: no boxes, few grid lines, direct labels instead of a legend. */
Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LineController,
  LineElement,
  Filler,
  LinearScale,
  LogarithmicScale,
  PointElement,
  Tooltip
)
Chart.defaults.font.family = "'Archivo Variable', sans-serif"
Chart.defaults.font.size = 11
Chart.defaults.color = '#4b595f'
Chart.defaults.animation = false
Chart.defaults.maintainAspectRatio = false

export const COLOURS = { water: '#7fb0b5', deep: '#1d4450', brass: '#a9781f', rule: '#c9cfcd' } as const

export { Chart }
