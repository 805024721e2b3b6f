<script setup lang="ts">
import type { LinePhraseOf } from '@tin-harbor/core/wording'
import { FIELDS } from './fields'
import FormatField from './fields/FormatField.vue'

/** The field or fields of one part of a line, as its clause and its phrase edit it. */
export interface LineFieldProps {
  of: LinePhraseOf
}
defineProps<LineFieldProps>()
defineEmits<{ dropped: [words: string] }>()
</script>

<template>
  <FormatField v-if="of === 'format'" @dropped="$emit('dropped', $event)" />
  <component :is="FIELDS[of]" v-else-if="of !== 'where' && of !== 'restriction'" />
</template>
