<script setup lang="ts">
import { computed } from 'vue'
import { perCent } from '@/composables/formats'

/** A rate with its 90 % range on the scale of its table, and what all rows have in the mean. */
export interface RateRangeProps {
  rate: number
  range: { low: number; high: number }
  /** Of all rows. */
  mean: number
  /** Right end of the scale. */
  most: number
}
const props = defineProps<RateRangeProps>()
const placeOf = (rate: number) => `${Math.min(100, (100 * rate) / props.most)}%`
const words = computed(() => `${perCent(props.rate, 2)} (${perCent(props.range.low, 2)} to ${perCent(props.range.high, 2)})`)
</script>

<template>
  <span class="RateRange" role="img" :aria-label="words" :title="words">
    <i :style="{ left: placeOf(mean) }" /><u :style="{ left: placeOf(range.low), right: `calc(100% - ${placeOf(range.high)})` }" /><b
      :style="{ left: placeOf(rate) }" />
  </span>
</template>

<style>
.RateRange {
  position: relative;
  display: block;
  height: 14px;
}

.RateRange i {
  position: absolute;
  top: 0;
  height: 14px;
  border-left: 2px dotted var(--brass);
}

.RateRange u {
  position: absolute;
  top: 6px;
  height: 3px;
  background: var(--ink-3);
}

.RateRange b {
  position: absolute;
  top: 2px;
  width: 3px;
  height: 11px;
  background: var(--ink);
}
</style>
