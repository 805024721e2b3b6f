<script setup lang="ts">
import { computed, ref, useId, useTemplateRef } from 'vue'
import type { TodayHour, TodayView } from '@tin-harbor/core/contract'
import { wilson } from '@tin-harbor/core/report'
import { count, money, perCent } from '@/composables/formats'
import { useChart } from '@/composables/use-chart'
import { RATES, SHOWN, drawHours, drawSpend, isRate, two } from './today-drawings'

export interface TodayChartProps {
  today: TodayView
}
const props = defineProps<TodayChartProps>()
const canvas = useTemplateRef('canvas')
const name = useId()

const shown = ref<(typeof SHOWN)[number]>('spend')
const sumOf = (what: keyof TodayHour) => props.today.hours.reduce((sum, hour) => sum + hour[what], 0)
const due = computed(() => props.today.plannedMicros?.[props.today.hour] ?? null)

useChart(
  canvas,
  (on) => (shown.value === 'spend' ? drawSpend(on, props.today) : drawHours(on, props.today, shown.value)),
  () => [props.today, shown.value]
)

/** A share over the whole day so far, in words. */
const rateWords = computed(() => {
  if (!isRate(shown.value)) return ''
  const { of: counted, among, words, digits } = RATES[shown.value]
  const { low, high } = wilson(sumOf(counted), sumOf(among))
  return sumOf(among) === 0
    ? 'nothing yet'
    : `${perCent(sumOf(counted) / sumOf(among), digits)} ${words}, ${perCent(low, digits)} to ${perCent(high, digits)} in 9 of 10`
})
const described = computed(() =>
  shown.value === 'spend'
    ? `Spend by hour: ${money(sumOf('spendMicros'))} today${due.value === null ? '' : `, ${money(due.value)} planned by now`}`
    : `By hour: ${isRate(shown.value) ? `${shown.value}, ${rateWords.value}` : `${count(sumOf('wins'))} shown`}`
)
</script>

<template>
  <figure class="TodayChart">
    <figcaption>
      Today by {{ two(today.hour) }}:00: <b>{{ money(sumOf('spendMicros')) }}</b><template v-if="due !== null">
        of {{ money(due) }} planned by now</template
      >, {{ count(sumOf('wins')) }} shown, {{ count(sumOf('clicks')) }} {{ sumOf('clicks') === 1 ? 'click' : 'clicks'
      }}<template v-if="rateWords">; {{ rateWords }}</template
      >.
    </figcaption>
    <div class="TodayChart-bar">
      <fieldset class="TodayChart-what">
        <legend class="visually-hidden">What is drawn by hour</legend>
        <label v-for="what in SHOWN" :key="what" :class="{ 'is-chosen': what === shown }"
          ><input v-model="shown" type="radio" class="visually-hidden" :name="name" :value="what" /> {{ what }}</label
        >
      </fieldset>
      <span class="TodayChart-key"
        ><i :class="shown === 'spend' ? 'is-today' : 'is-hour'" /> today
        <template v-if="shown === 'spend'"><i class="is-plan" /> planned</template> <i class="is-before" /> yesterday</span
      >
    </div>
    <div class="TodayChart-plot"><canvas ref="canvas" role="img" :aria-label="described" /></div>
  </figure>
</template>

<style>
.TodayChart {
  margin: 14px 0 0;
}

.TodayChart figcaption {
  margin-bottom: 4px;
  font: 13.5px/1.5 var(--serif);
}

.TodayChart-bar {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: baseline;
  margin-bottom: 6px;
}

.TodayChart-what {
  display: flex;
  gap: 14px;
  margin: 0;
  padding: 0;
  border: 0;
  font-size: 12px;
}

.TodayChart-what label {
  color: var(--ink-2);
  cursor: pointer;
}

.TodayChart-what .is-chosen {
  color: var(--ink);
  font-weight: 600;
  border-bottom: 2px solid var(--brass);
}

.TodayChart-what label:has(:focus-visible) {
  outline: 2px solid var(--deep-2);
  outline-offset: 2px;
}

.TodayChart-plot {
  position: relative;
  height: 130px;
}

.TodayChart-key {
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

.TodayChart-key .is-hour {
  height: 8px;
  margin-bottom: -1px;
  background: var(--water);
}

.TodayChart-key .is-plan {
  border-bottom: 2px dashed var(--brass);
}

.TodayChart-key .is-before {
  height: 8px;
  margin-bottom: -1px;
  background: var(--water-wash);
}
</style>
