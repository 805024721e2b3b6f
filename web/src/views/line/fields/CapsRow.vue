<script setup lang="ts">
import { computed } from 'vue'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import CapFields from '@/parts/CapFields.vue'
import FieldRow from '@/parts/FieldRow.vue'

const { draft, campaign, disabled, change } = useLineEdit()
const { problemUnder } = useFieldProblems()
/** Caps that hold beside the line's own, and which allows least a day. */
const hint = computed(() => {
  const own = draft.value.caps.map((cap) => ({ ...cap, of: 'the line' }))
  const all = [...own, ...(campaign.value?.caps ?? []).map((cap) => ({ ...cap, of: 'the campaign' }))]
  if (all.length === 0) return 'Without a cap one person may see it any number of times.'
  const said = (cap: (typeof all)[number]) => `${cap.times} in ${cap.hours} hours of ${cap.of}`
  const least = all.reduce((a, b) => (b.times / Math.max(24, b.hours) < a.times / Math.max(24, a.hours) ? b : a))
  const others = all
    .filter((cap) => cap.of === 'the campaign')
    .map(said)
    .join(' and ')
  return all.length === 1 && others === ''
    ? undefined
    : `${others === '' ? '' : `All lines count in ${others}. `}Over days ${said(least)} allows least.`
})
</script>

<template>
  <FieldRow label="Caps" :problem="problemUnder('caps')" :hint="hint">
    <CapFields :caps="draft.caps" :disabled="disabled" @change="(caps) => change((d) => (d.caps = caps))" />
  </FieldRow>
</template>
