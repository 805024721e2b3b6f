<script setup lang="ts">
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import BuysField from './BuysField.vue'

const { draft, disabled, change } = useLineEdit()
const { problemUnder } = useFieldProblems()
</script>

<template>
  <FieldRow label="Buys" :problem="problemUnder('buys')">
    <BuysField :draft="draft" :disabled="disabled" @change="(buys) => change((d) => (d.buys = buys))" />
  </FieldRow>
</template>
