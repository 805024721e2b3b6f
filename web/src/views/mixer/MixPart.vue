<script setup lang="ts">
import { computed } from 'vue'
import { letters, type MixFinding, type MixPart } from '@tin-harbor/core/creative'
import MixActs from './MixActs.vue'

/** A part in its head: what it says is typed there, with what is found in it, and it is struck out or taken away whole. */
export interface MixPartProps {
  part: MixPart
  /** Place among its axis, from 1, and what it is called. */
  place: number
  what: string
  most: number
  /** Of a long form beside it; null where there is none. */
  mostLong: number | null
  findings: readonly MixFinding[]
  disabled: boolean
}
const props = defineProps<MixPartProps>()
defineEmits<{ write: [change: Partial<MixPart>]; remove: [] }>()
const said = computed(() => letters(props.part.said.trim()))
</script>

<template>
  <div class="MixPart" :class="{ 'is-struck': part.struck }">
    <span class="MixPart-said">
      <textarea
        rows="2"
        :value="part.said"
        :disabled="disabled"
        :aria-label="`${what} ${place}`"
        @input="$emit('write', { said: ($event.target as HTMLTextAreaElement).value.replace(/\n/g, ' ') })"></textarea>
      <em :class="{ trouble: said > most }">{{ said }} of {{ most }}</em>
    </span>
    <input
      v-if="mostLong !== null"
      type="text"
      :value="part.long ?? ''"
      :placeholder="`long form, as the short one`"
      :disabled="disabled"
      :aria-label="`${what} ${place}, long form`"
      @input="$emit('write', { long: ($event.target as HTMLInputElement).value || undefined })" />
    <p v-for="{ says, severity } in findings" :key="says" class="small" :class="severity === 'stops' ? 'trouble' : 'MixPart-warns'">
      {{ says }}
    </p>
    <MixActs
      v-if="!disabled"
      :named="`${what.toLowerCase()} ${place}`"
      :struck="part.struck"
      @strike="$emit('write', { struck: $event })"
      @remove="$emit('remove')" />
  </div>
</template>

<style>
.MixPart {
  display: grid;
  gap: 2px;
  font-weight: 400;
  text-align: left;
}

.MixPart-said {
  position: relative;
  display: block;
}

.MixPart textarea,
.MixPart input {
  width: 100%;
  padding: 2px 5px;
  border: 1px solid transparent;
  border-bottom-color: var(--rule);
  background: none;
  color: var(--ink);
  font: 500 13px/1.3 var(--serif);
  resize: none;
}

.MixPart input {
  color: var(--ink-2);
  font: 12px var(--sans);
}

.MixPart textarea:focus,
.MixPart input:focus {
  background: var(--field);
}

.MixPart em {
  position: absolute;
  right: 4px;
  bottom: 3px;
  color: var(--ink-2);
  font: 10.5px var(--sans);
}

.MixPart em.trouble {
  color: var(--hull);
}

.MixPart.is-struck textarea {
  color: var(--ink-2);
  text-decoration: line-through;
}

.MixPart-warns {
  color: var(--brass-text);
}
</style>
