<script setup lang="ts">
import { computed } from 'vue'
import { about, count } from '@/composables/formats'

/** People by how often they are reached. */
export interface FrequencyBarsProps {
  /** Entry n - 1 for n times, the last for that many or more. */
  people: readonly number[]
  replayedDays: number
}
const props = defineProps<FrequencyBarsProps>()

/** A flight beyond 14 days replays the tape twice, so single counts are mostly even then: they are told in pairs. */
const bars = computed(() => {
  const step = props.replayedDays > 14 ? 2 : 1
  const groups = props.people.flatMap((_, i) =>
    i % step === 0 ? [{ from: i + 1, n: props.people.slice(i, i + step).reduce((sum, n) => sum + n, 0) }] : []
  )
  const most = Math.max(...groups.map((group) => group.n), 1)
  return groups.map(({ from, n }, i) => ({
    times: i === groups.length - 1 ? `${from}+` : step === 2 ? `${from}–${from + 1}` : String(from),
    n,
    height: `${(100 * n) / most}%`
  }))
})
</script>

<template>
  <div class="FrequencyBars" role="img" :aria-label="bars.map((bar) => `${bar.times} times: ${count(bar.n)} people`).join('; ')">
    <div v-for="bar in bars" :key="bar.times">
      <em>{{ bar.n >= 1 ? about(bar.n) : '' }}</em><i :style="{ height: bar.height }" /><span>{{ bar.times }}</span>
    </div>
  </div>
</template>

<style>
.FrequencyBars {
  display: flex;
  gap: 4px;
  height: 74px;
}

.FrequencyBars > div {
  display: flex;
  flex: 1;
  flex-direction: column;
  justify-content: flex-end;
  text-align: center;
}

.FrequencyBars i {
  min-height: 1px;
  background: var(--water);
}

.FrequencyBars em,
.FrequencyBars span {
  color: var(--ink-2);
  font: 10.5px/1.3 var(--sans);
  font-stretch: 85%;
}
</style>
