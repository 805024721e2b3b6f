<script setup lang="ts">
import { perCent } from '@/composables/formats'
import { isUnderWay, type FitRun } from './use-fits'

/** How far something is that is made to fit. */
export interface FitProgressProps {
  run: FitRun
}
const madeWords = (files: number) => (files === 0 ? 'Done.' : files === 1 ? 'Made, as a file of its own.' : `Made: ${files} files.`)
defineProps<FitProgressProps>()
defineEmits<{ stop: [] }>()
</script>

<template>
  <p v-if="run.error" class="trouble small" role="alert">{{ run.error }}</p>
  <p v-else-if="run.job && isUnderWay(run)" class="small" role="status">
    <progress :value="run.job.share" max="1" aria-label="How far it is made"></progress>
    {{ run.job.state === 'waits' ? 'waits for another' : perCent(run.job.share) }}
    <button class="plain small" type="button" @click="$emit('stop')">Stop</button>
  </p>
  <p v-else-if="run.job" class="small" role="status">{{ madeWords(run.job.made.length) }} {{ run.job.said }}</p>
</template>
