<script setup lang="ts">
import { computed, ref } from 'vue'
import type { CampaignView, ManifestLine } from '@tin-harbor/core/contract'
import { dateOfDay, dayOfDate } from '@tin-harbor/core/time'
import { axisOf } from '@/composables/axis'
import { shortDate } from '@/composables/formats'
import { shortName } from '@/composables/short-name'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'

/** Flights of a campaign's lines on one calendar: drag a strip to move it, an end to stretch it; arrow keys do the same. */
export interface FlightCalendarProps {
  campaign: CampaignView
  lines: readonly ManifestLine[]
  disabled: boolean
}
const props = defineProps<FlightCalendarProps>()
const emit = defineEmits<{ move: [line: number, flight: { startDate: string; endDate: string | null }] }>()
const market = useMarket()
const manifest = useManifest()

const WIDTH = 700
const ROW = 24
const HEAD = 30
/** Letters of a name beside its dates. */
const MOST_LETTERS = 24
const today = computed(() => Math.floor(market.run.hour / 24))
const axis = computed(() =>
  axisOf([{ startDate: props.campaign.flight.startDate, endDate: props.campaign.flight.endDate }, ...props.lines], today.value)
)
const leftOf = (day: number) => axis.value.at(day) * WIDTH
const nowAt = computed(() => leftOf(market.run.hour / 24))
const dayWidth = computed(
  () => leftOf(dayOfDate(props.campaign.flight.startDate) + 1) - leftOf(dayOfDate(props.campaign.flight.startDate)) || WIDTH / 60
)

type Part = 'all' | 'start' | 'end'
const drag = ref<{ line: number; part: Part; from: number; by: number } | null>(null)

/** A line's flight moved by some days, kept inside the campaign's and at least a day long. */
function moved(line: ManifestLine, part: Part, by: number): { startDate: string; endDate: string | null } {
  const first = dayOfDate(props.campaign.flight.startDate)
  const last = props.campaign.flight.endDate === null ? Infinity : dayOfDate(props.campaign.flight.endDate)
  let [start, end] = [dayOfDate(line.startDate), line.endDate === null ? null : dayOfDate(line.endDate)]
  if (part === 'all') {
    const step = Math.max(first - start, Math.min(by, end === null ? Infinity : last - end))
    start += step
    end = end === null ? null : end + step
  } else if (part === 'start') start = Math.max(first, Math.min(start + by, end ?? Infinity))
  else end = Math.min(last, Math.max((end ?? today.value + 13) + by, start))
  return { startDate: dateOfDay(start), endDate: end === null || end === Infinity ? null : dateOfDay(end) }
}
const strips = computed(() =>
  props.lines.map((line) => {
    const flight = drag.value?.line === line.id ? moved(line, drag.value.part, drag.value.by) : line
    const from = leftOf(dayOfDate(flight.startDate))
    const to = leftOf(flight.endDate === null ? today.value + 14 : dayOfDate(flight.endDate) + 1)
    return {
      line,
      flight,
      from,
      width: Math.max(4, to - from),
      words: `${shortDate(flight.startDate)} ${flight.endDate ? `to ${shortDate(flight.endDate)}` : 'on'}`
    }
  })
)

function onDown(event: PointerEvent, line: ManifestLine, part: Part) {
  if (props.disabled || line.state === 'ended') return
  ;(event.target as Element).setPointerCapture(event.pointerId)
  drag.value = { line: line.id, part, from: event.clientX, by: 0 }
}
function onMove(event: PointerEvent) {
  if (drag.value) drag.value = { ...drag.value, by: Math.round((event.clientX - drag.value.from) / dayWidth.value) }
}
function settle(line: ManifestLine, part: Part, by: number) {
  const flight = moved(line, part, by)
  if (flight.startDate !== line.startDate || flight.endDate !== line.endDate) emit('move', line.id, flight)
}
function onUp(line: ManifestLine) {
  const was = drag.value
  drag.value = null
  if (was && was.line === line.id && was.by !== 0) settle(line, was.part, was.by)
}
/** Arrows move by a day, with Shift the end, with Alt the start. */
function onKey(event: KeyboardEvent, line: ManifestLine) {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
  if (by === undefined || props.disabled) return
  event.preventDefault()
  settle(line, event.shiftKey ? 'end' : event.altKey ? 'start' : 'all', by)
}
</script>

<template>
  <figure class="FlightCalendar" aria-label="Flights of the lines">
    <div class="FlightCalendar-scroll" tabindex="0" role="group" aria-label="Calendar of flights">
      <svg class="FlightCalendar-axis" :width="WIDTH + 250" :height="HEAD">
        <g v-for="tick in axis.ticks" :key="tick.label">
          <text :x="tick.at * WIDTH" y="10">{{ tick.label }}</text>
          <line :x1="tick.at * WIDTH" :x2="tick.at * WIDTH" y1="14" :y2="HEAD" stroke="var(--rule-2)" />
        </g>
        <rect
          :x="leftOf(dayOfDate(campaign.flight.startDate))"
          y="18"
          :width="
            leftOf(campaign.flight.endDate === null ? today + 14 : dayOfDate(campaign.flight.endDate) + 1) -
            leftOf(dayOfDate(campaign.flight.startDate))
          "
          height="6"
          fill="var(--rule)" />
        <text :x="WIDTH + 10" y="25" class="quiet">the campaign</text>
        <line :x1="nowAt" :x2="nowAt" y1="14" :y2="HEAD" stroke="var(--brass)" stroke-width="1.4" />
      </svg>
      <svg :width="WIDTH + 250" :height="strips.length * ROW + 6" @pointermove="onMove">
        <line
          v-for="tick in axis.ticks"
          :key="tick.label"
          :x1="tick.at * WIDTH"
          :x2="tick.at * WIDTH"
          y1="0"
          :y2="strips.length * ROW + 6"
          stroke="var(--rule-2)" />
        <g v-for="({ line, from, width, words }, n) in strips" :key="line.id" :transform="`translate(0 ${n * ROW + 2})`">
          <rect
            class="FlightCalendar-strip"
            :class="{ 'is-draft': line.state === 'draft' }"
            :x="from"
            y="2"
            :width="width"
            height="13"
            role="button"
            :tabindex="disabled ? -1 : 0"
            :aria-label="`${line.name}: ${words}. Arrow keys move it, with Shift its end, with Alt its start.`"
            :data-strip="line.id"
            @pointerdown.prevent="onDown($event, line, 'all')"
            @pointerup="onUp(line)"
            @keydown="onKey($event, line)" />
          <rect
            class="FlightCalendar-end"
            :x="from - 2"
            y="1"
            width="7"
            height="15"
            aria-hidden="true"
            @pointerdown.prevent="onDown($event, line, 'start')"
            @pointerup="onUp(line)" />
          <rect
            class="FlightCalendar-end"
            :x="from + width - 5"
            y="1"
            width="7"
            height="15"
            aria-hidden="true"
            :data-strip-end="line.id"
            @pointerdown.prevent="onDown($event, line, 'end')"
            @pointerup="onUp(line)" />
          <text :x="WIDTH + 10" y="13">
            <title>{{ line.name }}</title>
            {{ shortName(manifest.lineName(line.id), MOST_LETTERS) }}
            <tspan class="quiet">{{ words }}</tspan>
          </text>
        </g>
        <line :x1="nowAt" :x2="nowAt" y1="0" :y2="strips.length * ROW + 6" stroke="var(--brass)" stroke-width="1.4" />
      </svg>
    </div>
    <figcaption v-if="!disabled" class="quiet small">
      Drag a strip to move its flight, an end to stretch it. A live line’s new flight waits on the slip.
    </figcaption>
  </figure>
</template>

<style>
.FlightCalendar {
  margin: 0 0 10px;
}

/* Of many lines some: what follows the calendar stays near. */
.FlightCalendar-scroll {
  max-height: 342px;
  overflow: auto;
}

.FlightCalendar-scroll svg {
  display: block;
}

.FlightCalendar-axis {
  position: sticky;
  z-index: 1;
  top: 0;
  background: var(--paper);
}

.FlightCalendar text {
  font: 11px var(--sans);
}

.FlightCalendar .quiet {
  fill: var(--ink-2);
}

.FlightCalendar-strip {
  fill: var(--water);
  stroke: var(--deep-2);
  cursor: grab;
  touch-action: none;
}

.FlightCalendar-strip.is-draft {
  fill: none;
  stroke-dasharray: 3 2;
  pointer-events: all;
}

.FlightCalendar-end {
  fill: transparent;
  cursor: ew-resize;
  touch-action: none;
}
</style>
