<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { HOURS_PER_WEEK } from '@tin-harbor/core/pricing'
import { dateOfDay, localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { api } from '@/api'
import { ORGANISATION_ZONE } from '@/composables/formats'
import { useSurvey } from '@/composables/use-survey'
import { useLineEdit } from '@/composables/line-edit'
import HourGrid from '@/parts/HourGrid.vue'
import { useMarket } from '@/stores/market'

/** Hours and multipliers of a line, with the traffic of whom it is for above them. */
const { draft, disabled, change } = useLineEdit()
const route = useRoute()
const market = useMarket()
const { survey, ask } = useSurvey('hours')
watch(
  () => JSON.stringify([draft.value.format, draft.value.targeting]),
  () =>
    void ask({
      sentence: { formats: [draft.value.format], targeting: draft.value.targeting, hours: null },
      by: [],
      without: 'hours',
      bidMicros: 0
    }),
  { immediate: true }
)
const traffic = computed(() => survey.value?.week.opportunities ?? null)
/** Hours of the day by what they converted, once there is enough to tell; null while there is not. */
const converted = shallowRef<number[] | null>(null)
const LEAST_CONVERSIONS = 20
onMounted(async () => {
  const today = localDayOf(zoneIndex(ORGANISATION_ZONE), Math.max(0, market.run.hour - 1))
  const report = await api
    .report({
      by: 'hour of the viewer',
      from: dateOfDay(today - 27),
      to: dateOfDay(today),
      windowHours: 720,
      campaign: null,
      line: Number(route.params.lineId)
    })
    .catch(() => null)
  if (!report || report.total.conversions < LEAST_CONVERSIONS || report.total.wins === 0) return
  const mean = report.total.conversions / report.total.wins
  // An hour of few wins says little: each is drawn towards the mean by as much as the mean hour shows.
  const prior = report.total.wins / 24
  converted.value = Array.from({ length: 24 }, (_, hour) => {
    const row = report.rows.find(({ key }) => key === hour)
    return ((row?.conversions ?? 0) + prior * mean) / ((row?.wins ?? 0) + prior) / mean
  })
})
function followConversions() {
  const hours = converted.value
  if (hours)
    change(
      (d) =>
        (d.hours = {
          clock: 'viewer',
          perMille: Array.from(
            { length: HOURS_PER_WEEK },
            (_, hour) => Math.round(Math.min(1.5, Math.max(0.5, hours[hour % 24])) * 20) * 50
          )
        })
    )
}

/** Hours with more than their share of traffic bid up to a half more, quiet ones less; nothing is closed. */
function followTraffic() {
  const hours = traffic.value
  if (!hours) return
  const mean = hours.reduce((sum, n) => sum + n, 0) / HOURS_PER_WEEK
  if (mean === 0) return
  const perMille = hours.map((n) => Math.round(Math.min(1.5, Math.max(0.5, Math.sqrt(n / mean))) * 20) * 50)
  change((d) => (d.hours = { clock: d.hours?.clock ?? 'viewer', perMille }))
}
</script>

<template>
  <HourGrid
    :hours="draft.hours ?? null"
    :disabled="disabled"
    :traffic="traffic"
    multipliers
    @update:hours="(hours) => change((d) => (d.hours = hours))">
    <button v-if="!disabled && traffic" class="plain" type="button" data-test="follow-traffic" @click="followTraffic">
      Follow traffic
    </button>
    <button v-if="!disabled && converted" class="plain" type="button" @click="followConversions">Follow conversions</button>
  </HourGrid>
</template>
