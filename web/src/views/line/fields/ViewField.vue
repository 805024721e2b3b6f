<script setup lang="ts">
import { VIEW_SECONDS, type ViewSeconds } from '@tin-harbor/core/response'
import { isWatched } from '@tin-harbor/core/taxonomy'
import { viewWords } from '@tin-harbor/core/wording'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'

const { draft, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
function onChoose(event: Event) {
  const { value } = event.target as HTMLSelectElement
  change((d) => (d.viewSeconds = value === '' ? null : (Number(value) as ViewSeconds)))
}
</script>

<template>
  <FieldRow
    v-if="isWatched(draft.format)"
    label="Viewed"
    for="line-view"
    :problem="problem('viewSeconds')"
    hint="What counts as a view, and is paid for where views are: an ad that is shorter counts at its end.">
    <select id="line-view" :value="draft.viewSeconds ?? ''" :disabled="disabled" @change="onChoose">
      <option value="">{{ viewWords(null) }}</option>
      <option v-for="seconds in VIEW_SECONDS" :key="seconds" :value="seconds">{{ viewWords(seconds) }}</option>
    </select>
  </FieldRow>
</template>
