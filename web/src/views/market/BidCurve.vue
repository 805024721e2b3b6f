<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Survey } from '@tin-harbor/core/forecast'
import { useChart } from '@/composables/use-chart'
import { valueAxis } from '@/theme/axes'
import { COLOURS, Chart } from '@/theme/charts'
import { about, cpm } from '@/composables/formats'
import { pointsOf } from './bid-curve-points'

/** What a bid could win of the sentence's traffic, before caps and money. */
export interface BidCurveProps {
  curve: Survey['curve']
  aDay: number
  bidMicros: number
  /** Ends of the axes where curves stand side by side: CPM, and opportunities a day. */
  ends?: { from: number; to: number; most: number }
}
const props = defineProps<BidCurveProps>()
const canvas = useTemplateRef('canvas')
/** Marks at 1, 2 and 5: closer ones would write over each other. */
const DECADES = /^[125]e/

function draw(on: HTMLCanvasElement): Chart | null {
  if (props.curve.length === 0) return null
  const points = pointsOf(props.curve, props.aDay)
  return new Chart(on, {
    type: 'line',
    data: {
      datasets: [
        {
          data: points,
          borderColor: COLOURS.deep,
          backgroundColor: COLOURS.waterWash,
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
          min: props.ends?.from,
          max: props.ends?.to,
          grid: { display: false },
          afterBuildTicks: (axis) => (axis.ticks = axis.ticks.filter(({ value }) => DECADES.test(value.toExponential()))),
          ticks: {
            maxTicksLimit: 6,
            autoSkipPadding: 12,
            maxRotation: 0,
            callback: (value) => cpm(Number(value) * 1e6).replace(/\.?0+$/, '')
          }
        },
        y: { ...valueAxis(about, 3), max: props.ends?.most }
      }
    }
  })
}
useChart(canvas, draw, () => [props.curve, props.bidMicros, props.ends])
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
