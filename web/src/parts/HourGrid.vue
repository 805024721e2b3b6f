<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElRadio, ElRadioGroup } from 'element-plus'
import { HOURS_PER_WEEK, type HourPlan } from '@tin-harbor/core/pricing'
import { OPEN, useHourPaint } from './use-hour-paint'

export interface HourGridProps {
  hours: HourPlan | null
  disabled: boolean
  /** Opportunities by hour of the week, drawn above; null for none. */
  traffic?: readonly number[] | null
  /** Whether hours can bid more or less, not only be off. */
  multipliers?: boolean
}
const props = defineProps<HourGridProps>()
const emit = defineEmits<{ 'update:hours': [hours: HourPlan | null] }>()

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const { brush, perMille, begin, over, end, toggle, only, copyMonday } = useHourPaint(props, (hours) => emit('update:hours', hours))
const open = computed(() => perMille.value.filter((value) => value > 0).length)
const focused = ref(0)
const BRUSHES = [0, 500, 750, 850, 1000, 1150, 1250, 1500, 2000]
const brushWords = (value: number) => (value === 0 ? 'off' : value === OPEN ? 'as bid' : signed(value))
const signed = (value: number) => `${value > OPEN ? '+' : '−'}${Math.abs(value - OPEN) / 10}`
/** Mean traffic of each hour of a day, drawn as an area over the columns. */
const area = computed(() => {
  if (!props.traffic) return null
  const day = Array.from({ length: 24 }, (_, hour) =>
    WEEKDAYS.reduce((sum, __, weekday) => sum + (props.traffic?.[weekday * 24 + hour] ?? 0), 0)
  )
  const most = Math.max(...day, 1)
  return `M0 30 ${day.map((n, hour) => `L${hour + 0.5} ${(30 - (28 * n) / most).toFixed(1)}`).join(' ')} L24 30 Z`
})

function onDown(hour: number) {
  focused.value = hour
  begin(hour)
}
function onKey(event: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 24, ArrowUp: -24 }[event.key]
  if (by !== undefined) {
    event.preventDefault()
    focused.value = (focused.value + by + HOURS_PER_WEEK) % HOURS_PER_WEEK
    const cell = (event.currentTarget as HTMLElement).querySelector<HTMLElement>(`[data-hour="${focused.value}"]`)
    cell?.focus()
  } else if (event.key === ' ' || event.key === 'Enter') {
    event.preventDefault()
    toggle([focused.value])
  }
}
/** Hours that are chosen by name. */
const QUICK = [
  { name: 'After dinner', hours: (hour: number) => hour % 24 >= 19 && hour % 24 < 23 },
  { name: 'Weekends', hours: (hour: number) => hour >= 120 },
  { name: 'Office hours', hours: (hour: number) => hour < 120 && hour % 24 >= 9 && hour % 24 < 18 }
]
const nameOf = (hour: number) => `${WEEKDAYS[Math.floor(hour / 24)]} ${hour % 24}:00`
const stateOf = (hour: number) =>
  perMille.value[hour] === 0 ? 'off' : perMille.value[hour] === OPEN ? 'open' : `open, ${signed(perMille.value[hour])} %`
const rowOf = (day: number) => Array.from({ length: 24 }, (_, hour) => day * 24 + hour)
</script>

<template>
  <div class="HourGrid" :class="{ 'is-wide': multipliers }">
    <p v-if="multipliers && !disabled" class="HourGrid-brush" role="radiogroup" aria-label="What is painted, per cent of the bid">
      paint
      <button
        v-for="value in BRUSHES"
        :key="value"
        type="button"
        role="radio"
        :aria-checked="brush === value"
        :class="{ 'is-chosen': brush === value }"
        @click="brush = value">
        {{ brushWords(value) }}
      </button>
      <span class="quiet">% of the bid</span>
    </p>
    <svg
      v-if="area"
      class="HourGrid-traffic"
      viewBox="0 0 24 30"
      preserveAspectRatio="none"
      role="img"
      aria-label="Traffic by hour of the day">
      <path :d="area" />
    </svg>
    <table aria-label="Hours of the week" data-test="hours" @keydown="onKey" @pointerup="end" @pointerleave="end">
      <tbody>
        <tr v-for="(weekday, day) in WEEKDAYS" :key="weekday">
          <th scope="row">
            <button class="plain" type="button" :disabled="disabled" :aria-label="`${weekday}, all day`" @click="toggle(rowOf(day))">
              {{ weekday }}
            </button>
          </th>
          <td v-for="hour in rowOf(day)" :key="hour">
            <button
              type="button"
              :data-hour="hour"
              :tabindex="hour === focused ? 0 : -1"
              :disabled="disabled"
              :aria-pressed="perMille[hour] > 0"
              :aria-label="`${nameOf(hour)}, ${stateOf(hour)}`"
              :class="{
                'is-off': perMille[hour] === 0,
                'is-more': perMille[hour] > OPEN,
                'is-less': perMille[hour] > 0 && perMille[hour] < OPEN
              }"
              @pointerdown.prevent="onDown(hour)"
              @pointerover="over(hour)">
              {{ multipliers && perMille[hour] > 0 && perMille[hour] !== OPEN ? signed(perMille[hour]) : '' }}
            </button>
          </td>
        </tr>
      </tbody>
      <tfoot aria-hidden="true">
        <tr>
          <td />
          <td v-for="hour in 24" :key="hour">{{ (hour - 1) % 6 === 0 ? hour - 1 : '' }}</td>
        </tr>
      </tfoot>
    </table>
    <p class="HourGrid-words">
      {{ open === HOURS_PER_WEEK ? 'open all week; drag over hours to close them' : `${open} of 168 hours are open` }}
      <button v-if="hours && !disabled" class="plain" type="button" @click="$emit('update:hours', null)">Open all</button>
    </p>
    <p v-if="multipliers && !disabled" class="HourGrid-quick">
      <button v-for="quick in QUICK" :key="quick.name" class="plain" type="button" @click="only(quick.hours)">{{ quick.name }}</button>
      <button class="plain" type="button" @click="copyMonday">Monday to all days</button>
      <slot />
    </p>
    <ElRadioGroup
      v-if="hours"
      :model-value="hours.clock"
      :disabled="disabled"
      aria-label="Whose hours"
      @update:model-value="(clock) => hours && $emit('update:hours', { ...hours, clock: clock as HourPlan['clock'] })">
      <ElRadio value="viewer" label="where the viewer is" /><ElRadio value="line" label="of the line's zone" />
    </ElRadioGroup>
  </div>
</template>

<style>
.HourGrid table {
  border-collapse: collapse;
  touch-action: none;
  user-select: none;
}

.HourGrid th {
  padding: 0 8px 0 0;
  font-weight: 400;
  text-align: left;
}

.HourGrid td {
  padding: 0;
  color: var(--ink-2);
  font-size: 10.5px;
  line-height: 1.2;
}

.HourGrid td button {
  display: block;
  width: 17px;
  height: 15px;
  padding: 0;
  border: 1px solid var(--paper);
  background: var(--water);
}

.HourGrid td button.is-off {
  border-color: var(--rule-2);
  background: repeating-linear-gradient(135deg, var(--tin-2) 0 3px, var(--rule-2) 3px 4px);
}

.HourGrid.is-wide td button {
  width: 22px;
  height: 17px;
  color: var(--ink);
  font: 9.5px/1 var(--sans);
  font-stretch: 80%;
}

.HourGrid td button.is-more {
  background: var(--water-2);
  color: var(--field);
}

.HourGrid td button.is-less {
  background: var(--water-wash-2);
}

.HourGrid-traffic {
  display: block;
  width: 528px;
  height: 30px;
  margin-left: 38px;
}

.HourGrid-traffic path {
  fill: var(--water-wash-2);
}

.HourGrid.is-wide th {
  width: 38px;
}

.HourGrid-brush {
  display: flex;
  gap: 4px;
  align-items: baseline;
  margin-bottom: 6px;
  font-size: 12px;
}

.HourGrid-brush button {
  padding: 1px 6px;
  border: 1px solid var(--rule);
  background: none;
  font: 11.5px var(--sans);
  cursor: pointer;
}

.HourGrid-brush button.is-chosen {
  border-color: var(--deep);
  background: var(--deep-2);
  color: var(--field);
}

.HourGrid-quick {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 16px;
  margin-top: 4px;
  font-size: 12px;
}

.HourGrid-words {
  color: var(--ink-2);
  font-size: 11.5px;
}
</style>
