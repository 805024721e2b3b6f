<script setup lang="ts">
import type { FitView } from '@tin-harbor/core/contract'
import { perCent } from '@/composables/formats'

/** How far something is that is made to fit. */
export interface FitProgressProps {
  job: FitView | null
  error: string | null
}
defineProps<FitProgressProps>()
defineEmits<{ stop: [] }>()
</script>

<template>
  <p v-if="error" class="trouble small" role="alert">{{ error }}</p>
  <p v-else-if="job && (job.state === 'waits' || job.state === 'works')" class="small" role="status">
    <progress :value="job.share" max="1" aria-label="How far it is made"></progress>
    {{ job.state === 'waits' ? 'waits for another' : perCent(job.share) }}
    <button class="plain small" type="button" @click="$emit('stop')">Stop</button>
  </p>
  <p v-else-if="job?.state === 'done'" class="small" role="status">
    {{ job.made.length === 1 ? 'Made, as a file of its own.' : `Made: ${job.made.length} files.` }} {{ job.said }}
  </p>
</template>
