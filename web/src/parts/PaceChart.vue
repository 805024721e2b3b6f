<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Pace } from '@tin-harbor/core/contract'
import { useChart } from '@/composables/use-chart'
import { valueAxis } from '@/theme/axes'
import { COLOURS, Chart } from '@/theme/charts'
import { money, shortDate } from '@/composables/formats'

export interface PaceChartProps {
  days: Pace['days']
}
const props = defineProps<PaceChartProps>()
const canvas = useTemplateRef('canvas')
function draw(on: HTMLCanvasElement): Chart {
  return new Chart(on, {
    data: {
      labels: props.days.map((day) => shortDate(day.date)),
      datasets: [
        {
          type: 'line',
          label: 'planned',
          data: props.days.map((day) => (day.plannedMicros === null ? null : day.plannedMicros / 1e6)),
          borderColor: COLOURS.brass,
          borderDash: [4, 3],
          borderWidth: 1.6,
          pointRadius: 0,
          stepped: 'middle'
        },
        {
          type: 'bar',
          label: 'spent',
          data: props.days.map((day) => day.spendMicros / 1e6),
          backgroundColor: COLOURS.water,
          hoverBackgroundColor: COLOURS.deep,
          barPercentage: 0.72,
          maxBarThickness: 34
        }
      ]
    },
    options: {
      plugins: {
        legend: { display: false },
        tooltip: { callbacks: { label: ({ dataset, parsed }) => `${dataset.label ?? ''} ${money((parsed.y ?? 0) * 1e6)}` } }
      },
      scales: {
        x: { grid: { display: false }, ticks: { maxRotation: 0, autoSkipPadding: 14 } },
        y: valueAxis((value) => `€${value}`, 5)
      }
    }
  })
}
useChart(canvas, draw, () => props.days)
</script>

<template>
  <figure class="PaceChart">
    <figcaption>
      Euro a day; the last day is not over. <span class="TodayChart-key"><i class="is-spent" /> spent <i class="is-plan" /> planned</span>
    </figcaption>
    <div>
      <canvas ref="canvas" role="img" :aria-label="days.map((day) => `${shortDate(day.date)}: ${money(day.spendMicros)}`).join('; ')" />
    </div>
  </figure>
</template>

<style>
.PaceChart {
  margin: 0;
}

.PaceChart figcaption {
  margin-bottom: 12px;
  color: var(--ink-2);
  font-size: 11.5px;
}

.PaceChart div {
  position: relative;
  height: 190px;
}

.PaceChart .is-spent {
  width: 8px;
  height: 8px;
  margin-bottom: -1px;
  background: var(--water);
}
</style>
