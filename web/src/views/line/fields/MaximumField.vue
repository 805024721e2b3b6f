<script setup lang="ts">
import { MODEL_WORDS } from '@tin-harbor/core/taxonomy'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'

const { draft, disabled, change, onProblem } = useLineEdit()
const { problem } = useFieldProblems()
</script>

<template>
  <FieldRow label="Maximum bid" for="line-max" :problem="problem('price.maxMicros')">
    <MoneyField
      id="line-max"
      :model-value="draft.price.maxMicros"
      :unit="`${MODEL_WORDS[draft.price.model]}; never above`"
      :disabled="disabled"
      @problem="onProblem('price.maxMicros', $event)"
      @update:model-value="(micros) => change((d) => (d.price.maxMicros = micros))" />
  </FieldRow>
</template>
