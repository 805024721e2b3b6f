<script setup lang="ts">
import type { FixableFinding } from '@tin-harbor/core/buying'

/** A finding beside its field, with what one click does about it. */
export interface FindingNoteProps {
  finding: FixableFinding
  disabled: boolean
  /** The field by name, where the note does not stand beside it. */
  label?: string
}
defineProps<FindingNoteProps>()
defineEmits<{ fix: [] }>()
</script>

<template>
  <p class="FindingNote" :class="`is-${finding.severity}`">
    <b>{{ finding.severity === 'stops' ? 'Stops it' : 'Worth a thought' }}{{ label ? `, ${label}` : '' }}.</b> {{ finding.message }}
    <template v-if="finding.fix && !disabled"
      ><button class="plain" type="button" data-test="fix" @click="$emit('fix')">{{ finding.fix.words }}</button
      ><span v-if="finding.fix.adds.length > 0" class="quiet"> (then: {{ finding.fix.adds.join(' ') }})</span></template
    >
  </p>
</template>

<style>
.FindingNote {
  margin: 0 0 5px;
  padding-left: 9px;
  border-left: 2px solid var(--brass);
  font-size: 12.5px;
}

.FindingNote.is-stops {
  border-left-color: var(--hull);
}

.FindingNote.is-stops b {
  color: var(--hull);
}

.FindingNote b {
  font-weight: 600;
}
</style>
