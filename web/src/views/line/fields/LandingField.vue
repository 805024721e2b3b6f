<script setup lang="ts">
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import { useTail } from '@/composables/use-tail'
import FieldRow from '@/parts/FieldRow.vue'
import LandingsField from '@/parts/LandingsField.vue'
import LinkField from '@/parts/LinkField.vue'

const { draft, disabled, change } = useLineEdit()
const { problem } = useFieldProblems()
const tail = useTail()
</script>

<template>
  <FieldRow
    label="Landing link"
    for="line-landing"
    :problem="problem('landing')"
    hint="Left empty, people land where the offer or the campaign says; an ad's own link counts before it.">
    <LinkField
      id="line-landing"
      :link="draft.landing"
      :tail="tail"
      :disabled="disabled"
      @change="(landing) => change((d) => (d.landing = landing))" />
  </FieldRow>
  <FieldRow label="For some people" :problem="problem('landings')">
    <LandingsField
      id="line-landings"
      :landings="draft.landings ?? []"
      :disabled="disabled"
      :problem="(path) => problem(`landings${path}`)"
      @change="(landings) => change((d) => (d.landings = landings))" />
  </FieldRow>
</template>
