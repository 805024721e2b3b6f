<script setup lang="ts">
import { computed } from 'vue'
import { perCent } from '@/composables/formats'
import { useMarket } from '@/stores/market'

/** What stands where there is nothing to show yet: what is being read and how far, or why it could not be, to be tried again. */
export interface StateNoteProps {
  /** What went wrong; null while all is well. */
  error?: string | null
  /** What is being read, said while it is. */
  reads?: string
  /** It is counted on the recorded days, which are built after a start. */
  isCounted?: boolean
}
const props = defineProps<StateNoteProps>()
defineEmits<{ retry: [] }>()
const market = useMarket()
const isLost = computed(() => market.tapeShare < 0)
const isBuilt = computed(() => !props.isCounted || market.tapeReady)
</script>

<template>
  <p v-if="error && isBuilt" class="StateNote trouble" role="alert">
    {{ error }} <button class="plain" type="button" @click="$emit('retry')">Try again</button>
  </p>
  <p v-else-if="!isBuilt && isLost" class="StateNote trouble" role="alert">
    The recorded days could not be read: nothing can be counted until the server is started again.
  </p>
  <p v-else-if="!isBuilt" class="StateNote quiet" role="status">
    The recorded days are being read, {{ perCent(market.tapeShare) }}; what is counted on them comes in a moment.
  </p>
  <p v-else-if="reads" class="StateNote quiet" role="status">{{ reads }} …</p>
</template>

<style>
.StateNote {
  padding: 6px 0;
}
</style>
