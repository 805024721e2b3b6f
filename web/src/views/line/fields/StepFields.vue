<script setup lang="ts">
import { computed } from 'vue'
import { ElInputNumber } from 'element-plus'
import { dateOfDay, dayOfDate } from '@tin-harbor/core/time'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import DayField from '@/parts/DayField.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** Base bids that take over from some moment on. */
const { draft, disabled, change, onProblem } = useLineEdit()
const { problemUnder } = useFieldProblems()
const steps = computed(() => draft.value.price.steps ?? [])
type Step = NonNullable<typeof draft.value.price.steps>[number]
const AFTERS = ['date', 'days live', 'impressions'] as const

const edit = (n: number, over: Partial<Step>) =>
  change((d) => (d.price.steps = d.price.steps?.map((one, place) => (place === n ? { ...one, ...over } : one))))
const remove = (n: number) => change((d) => (d.price.steps = d.price.steps?.filter((_, place) => place !== n)))
const add = () =>
  change((d) => (d.price.steps = [...(d.price.steps ?? []), { after: 'days live', from: 3, bidMicros: d.price.bidMicros ?? 1_000_000 }]))
/** Each kind begins where it is likely to be wanted. */
const setAfter = (n: number, after: Step['after']) =>
  edit(n, { after, from: after === 'date' ? dayOfDate(draft.value.flight.startDate) + 3 : after === 'days live' ? 3 : 10_000 })
</script>

<template>
  <FieldRow class="StepFields" label="Bid steps" :problem="problemUnder('price.steps')">
    <p v-for="(step, n) in steps" :key="n">
      <select
        :value="step.after"
        :disabled="disabled"
        :aria-label="`Step ${n + 1} begins`"
        @change="setAfter(n, ($event.target as HTMLSelectElement).value as Step['after'])">
        <option v-for="after in AFTERS" :key="after" :value="after">
          {{ after === 'date' ? 'from the day' : after === 'days live' ? 'after days live' : 'after impressions' }}
        </option>
      </select>
      <DayField
        v-if="step.after === 'date'"
        :id="`line-step-${n}`"
        :model-value="dateOfDay(step.from)"
        :disabled="disabled"
        @update:model-value="(date) => date && edit(n, { from: dayOfDate(date) })" />
      <ElInputNumber
        v-else
        :model-value="step.from"
        :min="0"
        :max="1_000_000_000"
        :controls="false"
        :disabled="disabled"
        :aria-label="`Step ${n + 1}: ${step.after}`"
        @update:model-value="(from) => edit(n, { from: from ?? 0 })" />
      bid
      <MoneyField
        :id="`line-step-bid-${n}`"
        :label="`Step ${n + 1}: bid`"
        :model-value="step.bidMicros"
        :disabled="disabled"
        @problem="onProblem(`price.steps[${n}].bidMicros`, $event)"
        @update:model-value="(micros) => micros !== null && edit(n, { bidMicros: micros })" />
      <button v-if="!disabled" class="plain" type="button" :aria-label="`Take step ${n + 1} away`" @click="remove(n)">✕</button>
    </p>
    <button v-if="!disabled && steps.length < 20" class="plain" type="button" data-test="add-step" @click="add">Add a step</button>
  </FieldRow>
</template>

<style>
.StepFields p {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 3px;
}

.StepFields .el-input-number {
  width: 92px;
}
</style>
