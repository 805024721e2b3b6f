<script setup lang="ts">
import { computed } from 'vue'
import { money } from '@/composables/formats'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import LimitFields from '@/parts/LimitFields.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** What the line may spend and show, as a whole and at one place of buying. */
const { draft, problems, campaign, disabled, change, onProblem } = useLineEdit()
const { problem } = useFieldProblems()
const PLACE_LIMITS = [
  { field: 'placementDailyMicros', id: 'line-placement', label: 'On one placement' },
  { field: 'sourceDailyMicros', id: 'line-source', label: 'Through one source' }
] as const
const campaignWords = computed(() => {
  const { dailyMicros = null, totalMicros = null } = campaign.value?.budget ?? {}
  return [dailyMicros === null ? '' : `${money(dailyMicros)} a day`, totalMicros === null ? '' : `${money(totalMicros)} in all`]
    .filter(Boolean)
    .join(' and ')
})
</script>

<template>
  <FieldRow label="At most" :hint="campaignWords && `The campaign allows ${campaignWords} for all its lines.`">
    <LimitFields
      id="line"
      :budget="draft.budget"
      :problems="problems"
      :disabled="disabled"
      @problem="onProblem"
      @change="(field, value) => change((d) => (d.budget[field] = value))" />
  </FieldRow>
  <FieldRow v-for="{ field, id, label } in PLACE_LIMITS" :key="field" :label="label" :for="id" :problem="problem(`budget.${field}`)">
    <MoneyField
      :id="id"
      :model-value="draft.budget[field] ?? null"
      unit="a day"
      :disabled="disabled"
      @problem="onProblem(`budget.${field}`, $event)"
      @update:model-value="(micros) => change((d) => (d.budget[field] = micros))" />
  </FieldRow>
</template>
