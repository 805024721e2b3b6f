<script setup lang="ts">
import type { FileView } from '@tin-harbor/core/contract'
import { api } from '@/api'

/** A file as it is served: the picture, the film, or the sound. */
export interface FileSightProps {
  file: FileView
  /** With what plays it. */
  plays?: boolean
}
defineProps<FileSightProps>()

/** Stands for a sound: its shape says nothing of what is heard. */
const WAVE = Array.from({ length: 29 }, (_, n) => {
  const high = 3 + 19 * Math.abs(Math.sin(n * 1.7) * Math.sin(n / 9))
  return `M${4 + n * 4} ${30 - high} V${30 + high}`
}).join(' ')
</script>

<template>
  <img v-if="file.medium === 'picture'" class="FileSight" loading="lazy" :src="api.fileUrl(file.id)" :alt="file.altText || file.name" />
  <video
    v-else-if="file.medium === 'film'"
    class="FileSight"
    preload="metadata"
    :src="api.fileUrl(file.id)"
    :controls="plays"
    :aria-label="file.altText || file.name"></video>
  <audio v-else-if="plays" class="FileSight" controls preload="metadata" :src="api.fileUrl(file.id)" :aria-label="file.name"></audio>
  <svg v-else class="FileSight is-sound" viewBox="0 0 120 60" role="img" :aria-label="file.altText || file.name">
    <path :d="WAVE" stroke="var(--water-2)" stroke-width="1.6" />
  </svg>
</template>

<style>
.FileSight {
  display: block;
  max-width: min(100%, 380px);
  max-height: 96px;
  background: var(--tin-2);
}

audio.FileSight {
  width: 100%;
  height: 40px;
}

.FileSight.is-sound {
  width: 150px;
}
</style>
