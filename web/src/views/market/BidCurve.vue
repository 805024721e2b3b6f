<script setup lang="ts">
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { Survey } from '@tin-harbor/core/forecast'
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
let chart: Chart | null = null

function draw() {
  chart?.destroy()
  if (!canvas.value || props.curve.length === 0) return
  const most = props.curve.filter((step) => step.share <= 0.985).at(-1)?.bidMicros ?? 1e6
  const points = props.curve
    .filter((step) => step.bidMicros <= most)
    .map((step) => ({ x: Math.max(0.01, step.bidMicros / 1e6), y: step.share * props.aDay }))
  chart = new Chart(canvas.value, {
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
        y: {
          beginAtZero: true,
          border: { display: false },
          grid: { color: '#dcdfd9' },
          ticks: { maxTicksLimit: 3, callback: (value) => about(Number(value)) }
        }
      }
    }
  })
}
onMounted(draw)
watch(() => [props.curve, props.bidMicros], draw)
onBeforeUnmount(() => chart?.destroy())
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
