<script setup lang="ts">
import { FORMATS, type Format } from '@tin-harbor/core/taxonomy'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import { withFormat } from '../with-format'
import ChoiceField from './ChoiceField.vue'

const emit = defineEmits<{ dropped: [words: string] }>()
const { draft, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
const CHOICES = FORMATS.map((format) => ({ value: format, label: format }))

function onChoose(format: Format) {
  const { draft: next, dropped } = withFormat(draft.value, format)
  change((d) => Object.assign(d, next))
  emit('dropped', dropped)
}
</script>

<template>
  <ChoiceField
    label="Format"
    :value="draft.format"
    :choices="CHOICES"
    :disabled="disabled"
    :problem="problem('format')"
    @choose="onChoose" />
</template>
