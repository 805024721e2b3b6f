<script setup lang="ts">
import { ONCE_WORDS } from '@tin-harbor/core/wording'
import { useLineEdit } from '@/composables/line-edit'
import ChoiceField from './ChoiceField.vue'

const { draft, disabled, change } = useLineEdit()
const CHOICES = (['start', 'wait'] as const).map((value) => ({ value, label: ONCE_WORDS[value] }))
</script>

<template>
  <ChoiceField
    label="Once cleared"
    :value="draft.onceCleared"
    :choices="CHOICES"
    :disabled="disabled"
    @choose="(once) => change((d) => (d.onceCleared = once))" />
</template>
