<script setup lang="ts">
/** A part is struck out, or taken away with all that was struck of it. */
export interface MixActsProps {
  /** Which part, in words. */
  named: string
  struck: boolean | undefined
}
defineProps<MixActsProps>()
defineEmits<{ strike: [struck: true | undefined]; remove: [] }>()
</script>

<template>
  <span class="MixActs">
    <button
      class="plain small"
      type="button"
      :aria-pressed="struck === true"
      :aria-label="`Strike ${named} out`"
      @click="$emit('strike', struck ? undefined : true)">
      {{ struck ? 'take in again' : 'strike' }}
    </button>
    <button class="plain small" type="button" :aria-label="`Take ${named} away`" @click="$emit('remove')">✕</button>
  </span>
</template>

<style>
.MixActs {
  display: flex;
  gap: 10px;
}
</style>
