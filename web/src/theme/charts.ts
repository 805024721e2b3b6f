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
Chart.defaults.animation = false
Chart.defaults.maintainAspectRatio = false

const NAMED = {
  water: '--water',
  waterWash: '--water-wash',
  waterVeil: '--water-veil',
  deep: '--deep-2',
  brass: '--brass',
  rule: '--rule',
  tin: '--tin',
  tin2: '--tin-2',
  paper: '--paper',
  ink2: '--ink-2'
} as const
/** Colours of the theme for what is drawn on a canvas, which knows no names of style sheets. */
export const COLOURS: Readonly<Record<keyof typeof NAMED, string>> = new Proxy(NAMED, {
  get: (named, name: keyof typeof NAMED) => getComputedStyle(document.documentElement).getPropertyValue(named[name]).trim()
})
Chart.defaults.color = () => COLOURS.ink2

export { Chart }
