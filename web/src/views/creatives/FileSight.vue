<script setup lang="ts">
import type { FileView } from '@tin-harbor/core/contract'
import { computed, useTemplateRef } from 'vue'
import { isPlayable } from '@tin-harbor/core/creative'
import { api } from '@/api'
import { tenths } from './file-words'

/** A file as it is served: the picture, the film, or the sound. */
export interface FileSightProps {
  file: FileView
  /** With what plays it. */
  plays?: boolean
}
const props = defineProps<FileSightProps>()
const player = useTemplateRef('player')
/** Where its content is; of what stands in for it, where browsers do not play it. */
const url = computed(() =>
  isPlayable(props.file.facts) ? api.fileUrl(props.file.id) : props.file.hasProxy ? api.filePlayable(props.file.id) : null
)
defineExpose({ second: () => player.value?.currentTime ?? 0 })
</script>

<template>
  <img v-if="file.medium === 'picture'" class="FileSight" loading="lazy" :src="api.fileUrl(file.id)" :alt="file.altText || file.name" />
  <span v-else-if="url === null" class="FileSight is-sound">not played by browsers</span>
  <video
    v-else-if="file.medium === 'film'"
    ref="player"
    class="FileSight"
    preload="metadata"
    :src="url"
    :controls="plays"
    :aria-label="file.altText || file.name"></video>
  <audio v-else-if="plays" class="FileSight" controls preload="metadata" :src="url" :aria-label="file.name"></audio>
  <span v-else-if="file.medium === 'banner'" class="FileSight is-sound"
    >HTML5 {{ file.facts.width ?? '?' }}x{{ file.facts.height ?? '?' }}</span
  >
  <span v-else class="FileSight is-sound">{{ tenths(file.facts.seconds ?? 0) }} s of sound</span>
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
  height: 96px;
  padding: 36px 10px;
  color: var(--ink-2);
  text-align: center;
}
</style>
