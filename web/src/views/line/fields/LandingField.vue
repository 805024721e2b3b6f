<script setup lang="ts">
import { ElInput } from 'element-plus'
import { withTail } from '@tin-harbor/core/buying'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'

const { draft, campaign, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
</script>

<template>
  <FieldRow label="Landing link" for="line-landing" :problem="problem('landing')">
    <ElInput
      id="line-landing"
      :model-value="draft.landing"
      :disabled="disabled"
      placeholder="https://"
      @update:model-value="(landing: string) => change((d) => (d.landing = landing.trim()))" />
    <p v-if="campaign?.linkTail && draft.landing" class="FieldRow-hint">
      With the tail of its campaign people land on {{ withTail(draft.landing, campaign.linkTail) }}
    </p>
  </FieldRow>
</template>
