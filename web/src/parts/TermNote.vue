<script setup lang="ts">
import { computed, ref, useId } from 'vue'
import { GLOSSARY, type GlossaryTerm } from '@tin-harbor/core/wording'

/** A word that explains itself in one sentence when it is asked. */
export interface TermNoteProps {
  of: GlossaryTerm
  /** As it stands in the text; as the glossary has it when left out. */
  words?: string
}
const props = defineProps<TermNoteProps>()
const entry = computed(() => GLOSSARY[props.of])
const isOpen = ref(false)
/** Near the right edge it opens to the left. */
const isLate = ref(false)
const ROOM = 280
function onAsk(event: MouseEvent) {
  isLate.value = (event.currentTarget as HTMLElement).getBoundingClientRect().left > window.innerWidth - ROOM
  isOpen.value = !isOpen.value
}
const id = useId()
</script>

<template>
  <span class="TermNote">
    <button
      type="button"
      :aria-expanded="isOpen"
      :aria-describedby="isOpen ? id : undefined"
      :data-term="of"
      @click="onAsk"
      @blur="isOpen = false"
      @keydown.esc.stop="isOpen = false">
      {{ words ?? entry.term }}</button><span v-if="isOpen" :id="id" role="note" :class="{ 'is-late': isLate }">{{ entry.about }}</span>
  </span>
</template>

<style>
.TermNote {
  position: relative;
}

.TermNote button {
  padding: 0;
  border: 0;
  border-bottom: 1px dotted var(--ink-2);
  background: none;
  color: inherit;
  font: inherit;
  text-align: inherit;
  cursor: help;
}

.TermNote [role='note'] {
  position: absolute;
  z-index: 30;
  top: calc(100% + 4px);
  left: 0;
  width: max-content;
  max-width: 260px;
  padding: 6px 9px;
  border: 1px solid var(--ink);
  background: var(--paper);
  color: var(--ink);
  font: 12.5px/1.4 var(--sans);
  text-align: left;
  white-space: normal;
}

.TermNote [role='note'].is-late {
  right: 0;
  left: auto;
}
</style>
