<script setup lang="ts">
import { computed, watch } from 'vue'
import { HOURS_PER_WEEK } from '@tin-harbor/core/pricing'
import { useSurvey } from '@/composables/use-survey'
import { useLineEdit } from '@/composables/line-edit'
import HourGrid from '@/parts/HourGrid.vue'

/** Hours and multipliers of a line, with the traffic of whom it is for above them. */
const { draft, disabled, change } = useLineEdit()
const { survey, ask } = useSurvey('hours')
watch(() => JSON.stringify([draft.value.format, draft.value.targeting]), () => void ask({ sentence: { formats: [draft.value.format], targeting: draft.value.targeting, hours: null }, by: [], without: 'hours', bidMicros: 0 }), { immediate: true })
const traffic = computed(() => survey.value?.week.opportunities ?? null)
/** Hours with more than their share of traffic bid up to a half more, quiet ones less; nothing is closed. */
function followTraffic() {
  const of = traffic.value
  if (!of) return
  const mean = of.reduce((sum, n) => sum + n, 0) / HOURS_PER_WEEK
  if (mean === 0) return
  const perMille = of.map((n) => Math.round(Math.min(1.5, Math.max(0.5, Math.sqrt(n / mean))) * 20) * 50)
  change((d) => (d.hours = { clock: d.hours?.clock ?? 'viewer', perMille }))
}
</script>

<template>
  <HourGrid :hours="draft.hours ?? null" :disabled="disabled" :traffic="traffic" multipliers @update:hours="(hours) => change((d) => (d.hours = hours))">
    <button v-if="!disabled && traffic" class="plain" type="button" data-test="follow-traffic" @click="followTraffic">Follow traffic</button>
  </HourGrid>
</template>
