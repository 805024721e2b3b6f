<script setup lang="ts">
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import NumberField from './NumberField.vue'

const { draft, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
</script>

<template>
  <NumberField
    id="line-repeat"
    label="Each repeat"
    :value="(draft.price.repeatDiscount ?? 0) / 10"
    :least="0"
    :most="100"
    :precision="1"
    after="% less than the showing before it to the same person"
    :disabled="disabled"
    :problem="problem('price.repeatDiscount')"
    @change="(share) => change((d) => (d.price.repeatDiscount = Math.round((share ?? 0) * 10)))" />
</template>
