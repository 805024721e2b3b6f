<script setup lang="ts">
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import { useTail } from '@/composables/use-tail'
import FieldRow from '@/parts/FieldRow.vue'
import LinkField from '@/parts/LinkField.vue'

const { draft, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
const tail = useTail()
</script>

<template>
  <FieldRow label="Landing link" for="line-landing" :problem="problem('landing')">
    <LinkField
      id="line-landing"
      :link="draft.landing"
      :tail="tail"
      :disabled="disabled"
      @change="(landing) => change((d) => (d.landing = landing))" />
  </FieldRow>
</template>
