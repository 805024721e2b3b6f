<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Survey } from '@tin-harbor/core/forecast'
import { about, cpm, decimal } from '@/composables/formats'

/** Hours of the viewer's week, shaded by traffic, price or rivals. */
export interface WeekMapProps {
  week: Survey['week']
}
const props = defineProps<WeekMapProps>()
const by = ref<'volume' | 'price' | 'rivals'>('volume')
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const values = computed(() => ({ volume: props.week.opportunities, price: props.week.halfMicros, rivals: props.week.rivals })[by.value])
const range = computed(() => {
  const seen = values.value.filter((value) => value > 0)
  return { low: Math.min(...seen, Infinity), high: Math.max(...seen, 1e-9) }
})
/** The least is light, the most is dark; nothing is paper. */
function shade(value: number): string {
  if (value <= 0) return 'transparent'
  const { low, high } = range.value
  const from = Math.min(low, high) * 0.9
  const share = Math.round(12 + (88 * (value - from)) / Math.max(1e-9, high - from))
  return `color-mix(in srgb, var(--deep-2) ${share}%, var(--tin-2))`
}
const words = (value: number) =>
  by.value === 'volume' ? `${about(value)} opportunities` : by.value === 'price' ? `half at ${cpm(value)}` : `${decimal(value)} rivals`
</script>

<template>
  <figure class="WeekMap">
    <figcaption>
      Hours of the viewer’s week, by
      <select v-model="by" aria-label="Shade hours by">
        <option value="volume">volume</option>
        <option value="price">price to win half</option>
        <option value="rivals">rivals</option>
      </select>
    </figcaption>
    <div v-for="(day, d) in DAYS" :key="day" class="WeekMap-row">
      <span>{{ day }}</span>
      <i
        v-for="hour in 24"
        :key="hour"
        :style="{ background: shade(values[d * 24 + hour - 1]) }"
        :title="`${day} ${hour - 1}:00, ${words(values[d * 24 + hour - 1])}`" />
    </div>
    <div class="WeekMap-row WeekMap-hours">
      <span /><b v-for="hour in [0, 6, 12, 18]" :key="hour">{{ hour }}</b>
    </div>
    <p class="visually-hidden">
      In the mean hour,
      {{
        DAYS.map((day, d) => `${day}: ${words(values.slice(d * 24, d * 24 + 24).reduce((sum, value) => sum + value, 0) / 24)}`).join('; ')
      }}.
    </p>
  </figure>
</template>

<style>
.WeekMap {
  margin: 0;
}

.WeekMap figcaption {
  margin-bottom: 5px;
  color: var(--ink-2);
  font-size: 12px;
}

.WeekMap-row {
  display: grid;
  grid-template-columns: 30px repeat(24, minmax(0, 1fr));
  gap: 1px;
  height: 13px;
  margin-bottom: 1px;
  color: var(--ink-2);
  font-size: 10.5px;
  line-height: 13px;
}

.WeekMap-hours {
  grid-template-columns: 30px repeat(4, minmax(0, 6fr));
}

.WeekMap-hours b {
  font-weight: 400;
}
</style>
