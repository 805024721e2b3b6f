<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Survey } from '@tin-harbor/core/forecast'
import { useChart } from '@/composables/use-chart'
import { valueAxis } from '@/theme/axes'
import { COLOURS, Chart } from '@/theme/charts'
import { about, cpm } from '@/composables/formats'

/** What a bid could win of the sentence's traffic, before caps and money. */
export interface BidCurveProps {
  curve: Survey['curve']
  aDay: number
  bidMicros: number
}
const props = defineProps<BidCurveProps>()
const canvas = useTemplateRef('canvas')

function draw(on: HTMLCanvasElement): Chart | null {
  if (props.curve.length === 0) return null
  const most = props.curve.filter((step) => step.share <= 0.985).at(-1)?.bidMicros ?? 1e6
  const points = props.curve
    .filter((step) => step.bidMicros <= most)
    .map((step) => ({ x: Math.max(0.01, step.bidMicros / 1e6), y: step.share * props.aDay }))
  return new Chart(on, {
    type: 'line',
    data: {
      datasets: [
        {
          data: points,
          borderColor: COLOURS.deep,
          backgroundColor: '#d9e6e6',
          borderWidth: 1.6,
          pointRadius: 0,
          fill: true,
          stepped: false
        },
        {
          data: [
            { x: props.bidMicros / 1e6, y: 0 },
            { x: props.bidMicros / 1e6, y: props.aDay }
          ],
          borderColor: COLOURS.brass,
          borderWidth: 1.5,
          pointRadius: 0
        }
      ]
    },
    options: {
      interaction: { mode: 'nearest', intersect: false, axis: 'x' },
      plugins: {
        legend: { display: false },
        tooltip: { callbacks: { title: () => '', label: ({ parsed }) => `${about(parsed.y ?? 0)} a day at ${cpm((parsed.x ?? 0) * 1e6)}` } }
      },
      scales: {
        x: {
          type: 'logarithmic',
          grid: { display: false },
          ticks: { maxTicksLimit: 6, callback: (value) => cpm(Number(value) * 1e6).replace(/\.?0+$/, '') }
        },
        y: valueAxis(about, 3)
      }
    }
  })
}
useChart(canvas, draw, () => [props.curve, props.bidMicros])
</script>

<template>
  <div class="BidCurve"><canvas ref="canvas" role="img" aria-label="Opportunities a day that a bid wins, by bid" /></div>
</template>

<style>
.BidCurve {
  position: relative;
  height: 104px;
}
</style>
