<script setup lang="ts">
import type { FixableFinding } from '@tin-harbor/core/buying'
import FindingNote from './FindingNote.vue'
import { fieldName } from './field-names'

/** All that preflight says of the line, each with its fix and the way to its field. */
export interface PreflightListProps {
  findings: readonly FixableFinding[]
  disabled: boolean
}
defineProps<PreflightListProps>()
defineEmits<{ fix: [finding: FixableFinding]; go: [finding: FixableFinding] }>()
</script>

<template>
  <section class="PreflightList" aria-label="Preflight" data-test="findings">
    <p v-if="findings.length === 0" class="quiet">Nothing to look at: it could go live as it is.</p>
    <div v-for="finding in findings" :key="finding.field + finding.message">
      <FindingNote :finding="finding" :label="fieldName(finding.field)" :disabled="disabled" @fix="$emit('fix', finding)" /><button
        class="plain small"
        type="button"
        @click="$emit('go', finding)">
        go there
      </button>
    </div>
  </section>
</template>

<style>
.PreflightList {
  margin: 6px 0;
  padding: 8px 12px;
  background: var(--tin-2);
}

.PreflightList > div {
  display: flex;
  gap: 14px;
  justify-content: space-between;
}

.PreflightList > div > button {
  flex: none;
  align-self: start;
}
</style>
