<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useResizeObserver } from '@vueuse/core'
import type { Ladder } from '@tin-harbor/core/forecast'
import { about, cpm } from '@/composables/formats'
import { useChart } from '@/composables/use-chart'
import { drawLadder, winsAt } from './ladder-drawing'

export interface BidLadderProps {
  ladder: Ladder
  bidMicros: number | null
  /** Smallest step of a bid, micros. */
  step: number
  disabled: boolean
}
const props = defineProps<BidLadderProps>()
/** `settled` is false while the mark is still being dragged. */
const emit = defineEmits<{ bid: [micros: number, settled: boolean] }>()

const canvas = useTemplateRef('canvas')
const plot = useTemplateRef('plot')
const area = ref({ left: 0, right: 1, top: 0, bottom: 1 })
const dragged = ref<number | null>(null)

const low = computed(() => props.ladder.rungs[0].bidMicros)
const high = computed(() => props.ladder.rungs.at(-1)?.bidMicros ?? 1)
const bid = computed(() => dragged.value ?? props.bidMicros)
const MARKS = {
  lowestFloor: 'lowest floor',
  mostFloors: 'over 95 % of floors',
  enters: 'wins 1 in 10',
  half: 'wins half',
  nineInTen: 'wins 9 in 10'
} as const
const marks = computed(() =>
  (Object.keys(MARKS) as (keyof typeof MARKS)[]).flatMap((name) => {
    const micros = props.ladder.marks[name]
    return micros === null ? [] : [{ name, words: MARKS[name], micros, left: leftOf(micros) }]
  })
)

/** Where a bid stands on the chart, in pixels; bids are in geometric steps, so the scale is logarithmic. */
function leftOf(micros: number): number {
  const share = Math.log(Math.max(1, micros) / low.value) / Math.log(high.value / low.value)
  return area.value.left + Math.min(1, Math.max(0, share)) * (area.value.right - area.value.left)
}

function bidAtX(x: number): number {
  const share = Math.min(1, Math.max(0, (x - area.value.left) / (area.value.right - area.value.left)))
  const micros = low.value * (high.value / low.value) ** share
  // Coarse enough to be a price somebody would type.
  const grain = Math.max(props.step, 10 ** (Math.floor(Math.log10(micros)) - 1))
  return Math.max(props.step, Math.round(micros / grain) * grain)
}

const chart = useChart(
  canvas,
  (on) => drawLadder(on, props.ladder),
  () => props.ladder
)
/** The marks lie where the chart has its axis: that is known once it is drawn, and when it has another size. */
function measure() {
  if (!chart.value) return
  const { left, right, top, bottom } = chart.value.chartArea
  area.value = { left, right, top, bottom }
}
watch(chart, measure)
useResizeObserver(plot, measure)

function onDown(event: PointerEvent) {
  if (props.disabled) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  onMove(event)
}
function onMove(event: PointerEvent) {
  if (props.disabled || (event.type === 'pointermove' && dragged.value === null)) return
  const micros = bidAtX(event.clientX - (plot.value?.getBoundingClientRect().left ?? 0))
  if (micros === dragged.value) return
  dragged.value = micros
  emit('bid', micros, false)
}
function onUp() {
  if (dragged.value === null) return
  emit('bid', dragged.value, true)
  dragged.value = null
}
function onKey(event: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 5, PageDown: -5 }[event.key]
  if (by === undefined || props.disabled) return
  event.preventDefault()
  const now = bid.value ?? low.value
  const grain = Math.max(props.step, 10 ** (Math.floor(Math.log10(now)) - 1))
  emit('bid', Math.max(props.step, Math.round(now / grain + by) * grain), true)
}
</script>

<template>
  <section class="BidLadder" aria-label="Bid ladder" data-test="ladder">
    <h3>
      Wins a day as the bid grows
      <small class="quiet"><i class="BidLadder-could" /> could be won <i class="BidLadder-budget" /> this budget</small>
    </h3>
    <div
      ref="plot"
      class="BidLadder-plot"
      :class="{ 'is-still': disabled }"
      @pointerdown="onDown"
      @pointermove="onMove"
      @pointerup="onUp"
      @pointercancel="onUp">
      <canvas
        ref="canvas"
        role="img"
        :aria-label="
          ladder.rungs
            .map((rung) => `${cpm(rung.bidMicros)}: ${about(rung.wins)} could be won, ${about(rung.budgetWins)} by this budget`)
            .join('; ')
        " />
      <i
        v-for="mark in marks"
        :key="mark.name"
        class="BidLadder-tick"
        :style="{ left: `${mark.left}px`, top: `${area.bottom - 5}px` }"
        :title="`${mark.words}: ${cpm(mark.micros)}`" />
      <div
        v-if="bid !== null"
        class="BidLadder-mark"
        role="slider"
        :tabindex="disabled ? -1 : 0"
        aria-label="Base bid"
        :aria-valuemin="low / 1e6"
        :aria-valuemax="high / 1e6"
        :aria-valuenow="bid / 1e6"
        :aria-disabled="disabled"
        :aria-valuetext="`${cpm(bid)}: ${about(winsAt(ladder, bid, 'budgetWins'))} wins a day`"
        :style="{ left: `${leftOf(bid)}px`, height: `${area.bottom}px` }"
        data-test="ladder-mark"
        @keydown="onKey">
        <span :class="{ 'is-left': leftOf(bid) > (area.left + area.right) / 2 }">{{ cpm(bid) }}</span>
      </div>
    </div>
    <dl class="BidLadder-marks">
      <template v-for="mark in marks" :key="mark.name"
        ><dt>{{ mark.words }}</dt>
        <dd>{{ cpm(mark.micros) }}</dd></template
      >
    </dl>
    <p v-if="ladder.ownPricedADay > 0" class="quiet small">
      {{ about(ladder.ownPricedADay) }} a day have a price of their own; no mark is about them.
    </p>
  </section>
</template>

<style>
.BidLadder-plot {
  position: relative;
  height: 132px;
  cursor: ew-resize;
  touch-action: none;
}

.BidLadder-plot.is-still {
  cursor: default;
}

.BidLadder h3 small {
  font-weight: 400;
  font-size: 11px;
}

.BidLadder h3 i {
  display: inline-block;
  width: 12px;
  margin-left: 8px;
  border-top: 3px solid var(--water);
  vertical-align: middle;
}

.BidLadder h3 i.BidLadder-budget {
  border-color: var(--deep-2);
}

.BidLadder-tick {
  position: absolute;
  width: 1px;
  height: 9px;
  background: var(--ink);
  pointer-events: none;
}

.BidLadder-mark {
  position: absolute;
  top: 0;
  width: 2px;
  margin-left: -1px;
  background: var(--brass);
}

.BidLadder-mark::after {
  content: '';
  position: absolute;
  inset: 0 -5px;
}

.BidLadder-mark span {
  position: absolute;
  top: -2px;
  left: 3px;
  padding: 0 5px;
  background: var(--brass-wash);
  color: var(--brass-text);
  font: 600 12px/17px var(--sans);
}

.BidLadder-mark span.is-left {
  right: 3px;
  left: auto;
}

.ForecastPanel dl.BidLadder-marks {
  display: grid;
  grid-template-columns: 1fr auto 1fr auto;
  gap: 1px 8px;
  margin: 6px 0 0;
}

.ForecastPanel dl.BidLadder-marks dt,
.ForecastPanel dl.BidLadder-marks dd {
  grid-row: auto;
  margin: 0;
  color: var(--ink-2);
  font: 11px/1.5 var(--sans);
}

.ForecastPanel dl.BidLadder-marks dd {
  color: var(--ink);
  text-align: right;
}
</style>
