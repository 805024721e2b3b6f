<script setup lang="ts">
import { computed } from 'vue'
import { ElOption, ElSelect } from 'element-plus'
import { AIM_WORDS, type Goal, type LineDraft } from '@tin-harbor/core/buying'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** What an event may cost, and which event. */
export interface AimFieldProps {
  aim: NonNullable<LineDraft['price']['aim']>
}
const props = defineProps<AimFieldProps>()
const { campaign, disabled, change, onProblem } = useLineEdit()
const { problemUnder } = useFieldProblems()

type AimEvent = AimFieldProps['aim']['event']
const ALWAYS: readonly AimEvent[] = ['conversion', 'click', 'view', 'stay']
/** What else can be aimed at where the campaign's goal is that. */
const OF_GOAL: Partial<Record<Goal, AimEvent>> = { reach: 'person', pages: 'page', revenue: 'value' }
const events = computed(() => {
  const own = OF_GOAL[campaign.value?.goal ?? 'visits']
  return [...new Set([...(own ? [own] : []), ...ALWAYS, props.aim.event])]
})
const set = (over: Partial<AimFieldProps['aim']>) => change((d) => (d.price.aim = { ...props.aim, ...over }))
</script>

<template>
  <FieldRow
    label="Aim"
    for="line-aim"
    :problem="problemUnder('price.aim')"
    hint="Bids follow what each opportunity is expected to bring, learned from results; never above the maximum.">
    <span class="AimField">
      <MoneyField
        id="line-aim"
        :model-value="aim.micros"
        unit="for"
        :disabled="disabled"
        @problem="onProblem('price.aim.micros', $event)"
        @update:model-value="(micros) => set({ micros: micros ?? 0 })" />
      <ElSelect
        :model-value="aim.event"
        :disabled="disabled"
        aria-label="What the aim is for"
        @update:model-value="(event: AimEvent) => set({ event })"
        ><ElOption v-for="event in events" :key="event" :value="event" :label="AIM_WORDS[event]"
      /></ElSelect>
    </span>
  </FieldRow>
</template>

<style>
.AimField {
  display: flex;
  gap: 8px;
}
</style>
