<script setup lang="ts">
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import NumberField from './NumberField.vue'

const { draft, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
</script>

<template>
  <NumberField
    id="line-gap"
    label="Gap"
    :value="draft.gapMinutes ?? undefined"
    :least="1"
    :most="43_200"
    after="minutes at least between two exposures of a person"
    :disabled="disabled"
    :problem="problem('gapMinutes')"
    @change="(minutes) => change((d) => (d.gapMinutes = minutes))" />
</template>
