<script setup lang="ts">
import { useLineEdit } from '@/composables/line-edit'
import ChoiceField from './ChoiceField.vue'

const { draft, disabled, change } = useLineEdit()
const CHOICES = [
  { value: 'weight', label: 'by weight' },
  { value: 'even', label: 'in turn' },
  { value: 'learning', label: 'learn which serves the goal' }
] as const
</script>

<template>
  <ChoiceField
    label="Ads"
    named="How ads take turns"
    :value="draft.rotation ?? 'weight'"
    :choices="CHOICES"
    :disabled="disabled"
    @choose="(rotation) => change((d) => (d.rotation = rotation))" />
</template>
