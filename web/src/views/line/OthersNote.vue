<script setup lang="ts">
import type { FieldChange } from '@tin-harbor/core/buying'
import { fieldName } from './field-names'

/** Who else has the line open, and what they changed that was put together with ours. */
export interface OthersNoteProps {
  others: readonly string[]
  merged: readonly FieldChange[]
}
defineProps<OthersNoteProps>()
defineEmits<{ read: [] }>()
</script>

<template>
  <p v-if="others.length > 0" class="OthersNote" role="status" data-test="others">
    {{ others.join(' and ') }} {{ others.length === 1 ? 'has' : 'have' }} this line open too: edits of different fields are put together, of
    the same it is asked.
  </p>
  <p v-if="merged.length > 0" class="OthersNote" role="status">
    Saved together with what somebody else changed meanwhile:
    {{ merged.map(({ field, after }) => `${fieldName(field)} ${after}`).join('; ') }}.
    <button class="plain" type="button" @click="$emit('read')">Good</button>
  </p>
</template>

<style>
.OthersNote {
  margin: 6px 0;
  padding: 6px 10px;
  background: var(--brass-wash);
}
</style>
