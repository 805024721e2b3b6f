<script setup lang="ts">
import { useLineEdit } from '@/composables/line-edit'
import ChoiceField from './ChoiceField.vue'

const { draft, disabled, change } = useLineEdit()
const CHOICES = [
  { value: 'even', label: 'evenly over the day' },
  { value: 'traffic', label: 'with the traffic' },
  { value: 'fast', label: 'as fast as it can' }
] as const
</script>

<template>
  <ChoiceField
    label="Pacing"
    :value="draft.pacing"
    :choices="CHOICES"
    :disabled="disabled"
    @choose="(pacing) => change((d) => (d.pacing = pacing))" />
</template>
