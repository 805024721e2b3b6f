<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'

/** A film or a spot as a player plays it: progress, sound, and a skip button once it may be skipped. */
export interface FilmSightProps {
  address: string
  name: string
  /** Seconds after which it may be skipped; null where it may not. */
  skipAfter: number | null
  isSound?: boolean
  /** A picture that stands beside a spot while it plays. */
  companion?: string | null
}
const props = defineProps<FilmSightProps>()

const player = useTemplateRef<HTMLMediaElement>('player')
const second = ref(0)
const length = ref(0)
const isPlaying = ref(false)
const isMuted = ref(false)
const isOver = ref(false)
const left = computed(() => (props.skipAfter === null ? null : Math.max(0, Math.ceil(props.skipAfter - second.value))))
const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`

function onPlay() {
  const media = player.value
  if (!media) return
  isOver.value = false
  if (media.paused) void media.play().catch(() => (isPlaying.value = false))
  else media.pause()
}
function onSkip() {
  player.value?.pause()
  isOver.value = true
}
function onTime() {
  second.value = player.value?.currentTime ?? 0
  length.value = player.value?.duration || 0
}
</script>

<template>
  <div class="FilmSight" :class="{ 'is-sound': isSound }">
    <component
      :is="isSound ? 'audio' : 'video'"
      ref="player"
      :src="address"
      :aria-label="name"
      preload="metadata"
      playsinline
      :muted="isMuted"
      @timeupdate="onTime"
      @loadedmetadata="onTime"
      @play="isPlaying = true"
      @pause="isPlaying = false"
      @ended="isOver = true" />
    <img v-if="companion && isSound" class="FilmSight-companion" :src="companion" alt="Companion" />
    <p v-if="isOver && !isSound" class="FilmSight-over">The programme goes on here.</p>
    <div class="FilmSight-bar">
      <button type="button" data-test="play-film" @click="onPlay">{{ isPlaying ? 'Pause' : 'Play' }}</button>
      <progress :max="length || 1" :value="second" :aria-label="`${clock(second)} of ${clock(length)}`" />
      <span>{{ clock(second) }} / {{ clock(length) }}</span>
      <button type="button" :aria-pressed="isMuted" @click="isMuted = !isMuted">{{ isMuted ? 'Sound on' : 'Sound off' }}</button>
      <button v-if="left !== null" type="button" class="FilmSight-skip" :disabled="left > 0" @click="onSkip">
        {{ left > 0 ? `Skip in ${left}` : 'Skip' }}
      </button>
    </div>
  </div>
</template>

<style>
.FilmSight {
  position: relative;
  width: 100%;
  height: 100%;
  background: #000;
}

.FilmSight video {
  width: 100%;
  height: 100%;
  object-fit: contain;
}

.FilmSight-companion {
  display: block;
  max-width: 100%;
  margin: 0 auto 6px;
}

.FilmSight-over {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  background: #0b1216;
  color: #b9c2c4;
}

.FilmSight-bar {
  position: absolute;
  right: 0;
  bottom: 0;
  left: 0;
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 5px 8px;
  background: rgb(0 0 0 / 62%);
  color: #fff;
  font: 11.5px var(--sans);
}

.FilmSight.is-sound {
  height: auto;
  background: none;
}

.FilmSight.is-sound .FilmSight-bar {
  position: static;
  background: #2b3940;
}

.FilmSight-bar progress {
  flex: 1;
  min-width: 30px;
  height: 5px;
  accent-color: var(--brass);
}

.FilmSight-bar button {
  padding: 1px 6px;
  border: 1px solid rgb(255 255 255 / 55%);
  background: none;
  color: #fff;
  font: inherit;
  cursor: pointer;
}

.FilmSight-bar button:disabled {
  opacity: 0.6;
}
</style>
