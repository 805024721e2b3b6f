<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { TodayView } from '@tin-harbor/core/buying'
import { count, money } from '@/composables/formats'
import { COLOURS, Chart } from '@/theme/charts'

export interface TodayChartProps {
  today: TodayView
}
const props = defineProps<TodayChartProps>()
const canvas = useTemplateRef('canvas')
let chart: Chart | null = null

/** Sums by the end of each hour; null for hours that are still to come. */
function upTo(hours: TodayView['hours'], until: number): (number | null)[] {
  let sum = 0
  return [0, ...hours.map((hour) => (sum += hour.spendMicros))].map((micros, at) => (at <= until ? micros / 1e6 : null))
}
const spent = computed(() => props.today.hours.reduce((sum, hour) => sum + hour.spendMicros, 0))
const wins = computed(() => props.today.hours.reduce((sum, hour) => sum + hour.wins, 0))
const clicks = computed(() => props.today.hours.reduce((sum, hour) => sum + hour.clicks, 0))
const due = computed(() => props.today.plannedMicros?.[props.today.hour] ?? null)

function draw() {
  chart?.destroy()
  if (!canvas.value) return
  const { today } = props
  chart = new Chart(canvas.value, {
    type: 'line',
    data: {
      labels: Array.from({ length: 25 }, (_, hour) => `${String(hour).padStart(2, '0')}:00`),
      datasets: [
        { label: 'today', data: upTo(today.hours, today.hour), borderColor: COLOURS.deep, borderWidth: 2, pointRadius: 0 },
        { label: 'planned', data: today.plannedMicros?.map((micros) => micros / 1e6) ?? [], borderColor: COLOURS.brass, borderDash: [4, 3], borderWidth: 1.6, pointRadius: 0 },
        { label: 'yesterday', data: upTo(today.yesterday, 24), borderColor: 'transparent', backgroundColor: '#dfe8e6', borderWidth: 0, pointRadius: 0, fill: true }
      ]
    },
    options: {
      interaction: { mode: 'index', intersect: false },
      plugins: { legend: { display: false }, tooltip: { callbacks: { label: ({ dataset, parsed }) => `${dataset.label ?? ''} ${money((parsed.y ?? 0) * 1e6)}` } } },
      scales: { x: { grid: { display: false }, ticks: { maxRotation: 0, autoSkipPadding: 18 } }, y: { beginAtZero: true, border: { display: false }, grid: { color: '#dcdfd9' }, ticks: { maxTicksLimit: 4, callback: (value) => `€${value}` } } }
    }
  })
}
onMounted(draw)
watch(() => props.today, draw)
onBeforeUnmount(() => chart?.destroy())
</script>

<template>
  <figure class="TodayChart">
    <figcaption>
      Today by {{ String(today.hour).padStart(2, '0') }}:00: <b>{{ money(spent) }}</b><template v-if="due !== null"> of {{ money(due) }} planned by now</template>, {{ count(wins) }} shown, {{ count(clicks) }} clicks.
      <span class="TodayChart-key"><i class="is-today" /> today <i class="is-plan" /> planned <i class="is-before" /> yesterday</span>
    </figcaption>
    <div><canvas ref="canvas" role="img" :aria-label="`Spend by hour: ${money(spent)} today${due === null ? '' : `, ${money(due)} planned by now`}`" /></div>
  </figure>
</template>

<style>
.TodayChart {
  margin: 14px 0 0;
}

.TodayChart figcaption {
  margin-bottom: 8px;
  font: 13.5px/1.5 var(--serif);
}

.TodayChart div {
  position: relative;
  height: 130px;
}

.TodayChart-key {
  margin-left: 12px;
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

.TodayChart-key .is-plan {
  border-bottom: 2px dashed var(--brass);
}

.TodayChart-key .is-before {
  height: 8px;
  margin-bottom: -1px;
  background: #dfe8e6;
}
</style>
