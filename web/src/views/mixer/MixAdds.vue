<script setup lang="ts">
import { ref } from 'vue'

/** Where parts are pasted, one a line. */
export interface MixAddsProps {
  /** Of the axis they are put on. */
  axis: 'headlines' | 'texts'
  label: string
}
defineProps<MixAddsProps>()
const emit = defineEmits<{ add: [lines: string] }>()
const pasted = ref('')
function onAdd() {
  emit('add', pasted.value)
  pasted.value = ''
}
</script>

<template>
  <label class="MixAdds"
    >{{ label }}, one a line
    <textarea v-model="pasted" rows="2" :data-test="`mix-${axis}`" @keydown.ctrl.enter="onAdd"></textarea>
    <button class="plain small" type="button" :disabled="pasted.trim() === ''" :data-test="`add-${axis}`" @click="onAdd">
      Add them
    </button></label
  >
</template>

<style>
.MixAdds {
  display: grid;
  gap: 2px;
  font: 12px var(--sans);
  text-align: left;
}

.MixAdds textarea {
  width: 230px;
  border: 1px dashed var(--rule);
  background: var(--field);
  font: 13px var(--serif);
}

.MixAdds button {
  justify-self: start;
}
</style>
