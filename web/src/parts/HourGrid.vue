<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElRadio, ElRadioGroup } from 'element-plus'
import { HOURS_PER_WEEK, type HourPlan } from '@tin-harbor/core/pricing'

export interface HourGridProps {
  hours: HourPlan | null
  disabled: boolean
}
const props = defineProps<HourGridProps>()
const emit = defineEmits<{ 'update:hours': [hours: HourPlan | null] }>()

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const OPEN = 1000
/** While painting: what is laid down, and the grid as it becomes. */
const paint = ref<{ value: number; perMille: number[] } | null>(null)
const perMille = computed(() => paint.value?.perMille ?? props.hours?.perMille ?? new Array<number>(HOURS_PER_WEEK).fill(OPEN))
const open = computed(() => perMille.value.filter((value) => value > 0).length)
const focused = ref(0)

function set(next: number[]) {
  const clock = props.hours?.clock ?? 'viewer'
  emit('update:hours', next.every((value) => value === OPEN) ? null : { clock, perMille: next })
}

function onDown(hour: number) {
  if (props.disabled) return
  const next = [...perMille.value]
  const value = next[hour] > 0 ? 0 : OPEN
  next[hour] = value
  paint.value = { value, perMille: next }
  focused.value = hour
}
function onOver(hour: number) {
  if (!paint.value || paint.value.perMille[hour] === paint.value.value) return
  const next = [...paint.value.perMille]
  next[hour] = paint.value.value
  paint.value = { ...paint.value, perMille: next }
}
function onUp() {
  if (!paint.value) return
  const { perMille: next } = paint.value
  paint.value = null
  set(next)
}

function toggle(hours: number[]) {
  if (props.disabled) return
  const next = [...perMille.value]
  const value = hours.every((hour) => next[hour] > 0) ? 0 : OPEN
  for (const hour of hours) next[hour] = value
  set(next)
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
const nameOf = (hour: number) => `${WEEKDAYS[Math.floor(hour / 24)]} ${hour % 24}:00`
const rowOf = (day: number) => Array.from({ length: 24 }, (_, hour) => day * 24 + hour)
</script>

<template>
  <div class="HourGrid">
    <table aria-label="Hours of the week" data-test="hours" @keydown="onKey" @pointerup="onUp" @pointerleave="onUp">
      <tbody>
        <tr v-for="(weekday, day) in WEEKDAYS" :key="weekday">
          <th scope="row"><button class="plain" type="button" :disabled="disabled" :aria-label="`${weekday}, all day`" @click="toggle(rowOf(day))">{{ weekday }}</button></th>
          <td v-for="hour in rowOf(day)" :key="hour">
            <button
              type="button" :data-hour="hour" :tabindex="hour === focused ? 0 : -1" :disabled="disabled" :aria-pressed="perMille[hour] > 0" :aria-label="`${nameOf(hour)}, ${perMille[hour] > 0 ? 'open' : 'off'}`"
              :class="{ 'is-off': perMille[hour] === 0 }" @pointerdown.prevent="onDown(hour)" @pointerover="onOver(hour)" />
          </td>
        </tr>
      </tbody>
      <tfoot aria-hidden="true"><tr><td /><td v-for="hour in 24" :key="hour">{{ (hour - 1) % 6 === 0 ? hour - 1 : '' }}</td></tr></tfoot>
    </table>
    <p class="HourGrid-words">
      {{ open === HOURS_PER_WEEK ? 'open all week; drag over hours to close them' : `${open} of 168 hours are open` }}
      <button v-if="open < HOURS_PER_WEEK && !disabled" class="plain" type="button" @click="$emit('update:hours', null)">Open all</button>
    </p>
    <ElRadioGroup v-if="hours" :model-value="hours.clock" :disabled="disabled" aria-label="Whose hours" @update:model-value="(clock) => hours && $emit('update:hours', { ...hours, clock: clock as HourPlan['clock'] })">
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

.HourGrid-words {
  color: var(--ink-2);
  font-size: 11.5px;
}
</style>
