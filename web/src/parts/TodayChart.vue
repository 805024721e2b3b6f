<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useId, useTemplateRef, watch } from 'vue'
import type { TodayHour, TodayView } from '@tin-harbor/core/contract'
import { wilson } from '@tin-harbor/core/report'
import { count, money, perCent } from '@/composables/formats'
import { COLOURS, Chart } from '@/theme/charts'

export interface TodayChartProps {
  today: TodayView
}
const props = defineProps<TodayChartProps>()
const canvas = useTemplateRef('canvas')
const name = useId()
let chart: Chart | null = null

/** What is drawn by hour: a share is of what it is a share of, with its 90 % range. */
const RATES = {
  'win rate': { of: 'wins', among: 'matched', words: 'won of what it matched', digits: 0 },
  'in view': { of: 'viewable', among: 'wins', words: 'viewable of what was shown', digits: 0 },
  'click rate': { of: 'clicks', among: 'wins', words: 'clicks of what was shown', digits: 2 }
} as const
type Rate = keyof typeof RATES
const SHOWN = ['spend', 'shown', 'win rate', 'in view', 'click rate'] as const
const shown = ref<(typeof SHOWN)[number]>('spend')
const isRate = (what: string): what is Rate => what in RATES

/** Sums by the end of each hour; null for hours that are still to come. */
function upTo(hours: readonly TodayHour[], until: number): (number | null)[] {
  let sum = 0
  return [0, ...hours.map((hour) => (sum += hour.spendMicros))].map((micros, hour) => (hour <= until ? micros / 1e6 : null))
}
const sumOf = (what: keyof TodayHour) => props.today.hours.reduce((sum, hour) => sum + hour[what], 0)
const due = computed(() => props.today.plannedMicros?.[props.today.hour] ?? null)
const two = (hour: number) => String(hour).padStart(2, '0')
const hourNames = (n: number) => Array.from({ length: n }, (_, hour) => `${two(hour)}:00`)

const PALE = '#dfe8e6'
const axes = (tick: (value: number) => string) => ({
  x: { grid: { display: false }, ticks: { maxRotation: 0, autoSkipPadding: 18 } },
  y: {
    beginAtZero: true,
    border: { display: false },
    grid: { color: '#dcdfd9' },
    ticks: { maxTicksLimit: 4, callback: (value: number | string) => tick(Number(value)) }
  }
})

function drawSpend(on: HTMLCanvasElement): Chart {
  const { today } = props
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
          backgroundColor: PALE,
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
function drawHours(on: HTMLCanvasElement, what: 'shown' | Rate): Chart {
  const { hours, yesterday, hour } = props.today
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
          backgroundColor: PALE,
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

function draw() {
  chart?.destroy()
  chart = null
  if (canvas.value) chart = shown.value === 'spend' ? drawSpend(canvas.value) : drawHours(canvas.value, shown.value)
}
onMounted(draw)
watch([() => props.today, shown], draw)
onBeforeUnmount(() => chart?.destroy())

/** A share over the whole day so far, in words. */
const rateWords = computed(() => {
  if (!isRate(shown.value)) return ''
  const { of: counted, among, words, digits } = RATES[shown.value]
  const { low, high } = wilson(sumOf(counted), sumOf(among))
  return sumOf(among) === 0
    ? 'nothing yet'
    : `${perCent(sumOf(counted) / sumOf(among), digits)} ${words}, ${perCent(low, digits)} to ${perCent(high, digits)} in 9 of 10`
})
const described = computed(() =>
  shown.value === 'spend'
    ? `Spend by hour: ${money(sumOf('spendMicros'))} today${due.value === null ? '' : `, ${money(due.value)} planned by now`}`
    : `By hour: ${isRate(shown.value) ? `${shown.value}, ${rateWords.value}` : `${count(sumOf('wins'))} shown`}`
)
</script>

<template>
  <figure class="TodayChart">
    <figcaption>
      Today by {{ two(today.hour) }}:00: <b>{{ money(sumOf('spendMicros')) }}</b><template v-if="due !== null">
        of {{ money(due) }} planned by now</template
      >, {{ count(sumOf('wins')) }} shown, {{ count(sumOf('clicks')) }} {{ sumOf('clicks') === 1 ? 'click' : 'clicks'
      }}<template v-if="rateWords">; {{ rateWords }}</template
      >.
    </figcaption>
    <div class="TodayChart-bar">
      <fieldset class="TodayChart-what">
        <legend class="visually-hidden">What is drawn by hour</legend>
        <label v-for="what in SHOWN" :key="what" :class="{ 'is-chosen': what === shown }"
          ><input v-model="shown" type="radio" class="visually-hidden" :name="name" :value="what" /> {{ what }}</label
        >
      </fieldset>
      <span class="TodayChart-key"
        ><i :class="shown === 'spend' ? 'is-today' : 'is-hour'" /> today
        <template v-if="shown === 'spend'"><i class="is-plan" /> planned</template> <i class="is-before" /> yesterday</span
      >
    </div>
    <div class="TodayChart-plot"><canvas ref="canvas" role="img" :aria-label="described" /></div>
  </figure>
</template>

<style>
.TodayChart {
  margin: 14px 0 0;
}

.TodayChart figcaption {
  margin-bottom: 4px;
  font: 13.5px/1.5 var(--serif);
}

.TodayChart-bar {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: baseline;
  margin-bottom: 6px;
}

.TodayChart-what {
  display: flex;
  gap: 14px;
  margin: 0;
  padding: 0;
  border: 0;
  font-size: 12px;
}

.TodayChart-what label {
  color: var(--ink-2);
  cursor: pointer;
}

.TodayChart-what .is-chosen {
  color: var(--ink);
  font-weight: 600;
  border-bottom: 2px solid var(--brass);
}

.TodayChart-what label:has(:focus-visible) {
  outline: 2px solid var(--deep-2);
  outline-offset: 2px;
}

.TodayChart-plot {
  position: relative;
  height: 130px;
}

.TodayChart-key {
  color: var(--ink-2);
  font: 11.5px var(--sans);
}

.TodayChart-key i {
  display: inline-block;
  width: 16px;
  margin: 0 3px 3px 8px;
}

.TodayChart-key .is-today {
  border-bottom: 2px solid var(--deep-2);
}

.TodayChart-key .is-hour {
  height: 8px;
  margin-bottom: -1px;
  background: var(--water);
}

.TodayChart-key .is-plan {
  border-bottom: 2px dashed var(--brass);
}

.TodayChart-key .is-before {
  height: 8px;
  margin-bottom: -1px;
  background: #dfe8e6;
}
</style>
