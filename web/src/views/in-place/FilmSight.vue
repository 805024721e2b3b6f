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
  /** A picture that is shown when a film is over. */
  endCard?: string | null
  icon?: string | null
  /** What stands over a film to be clicked, and from which second on. */
  overlay?: { text: string; from: number } | null
  /** What is said while a spot is heard, and the button beside it. */
  tagline?: string | null
  button?: string | null
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
    <img v-if="icon && !isOver" class="FilmSight-icon" :src="icon" alt="Icon" />
    <span v-if="overlay && !isOver && second >= overlay.from" class="FilmSight-overlay" data-test="overlay">{{ overlay.text }}</span>
    <p v-if="isOver && !isSound" class="FilmSight-over">
      <img v-if="endCard" :src="endCard" alt="End card" /><template v-else>The programme goes on here.</template>
    </p>
    <p v-if="isSound && (tagline || button)" class="FilmSight-says">
      {{ tagline }} <b v-if="button">{{ button }}</b>
    </p>
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

.FilmSight-over img {
  max-width: 100%;
  max-height: 100%;
}

.FilmSight-icon {
  position: absolute;
  top: 8px;
  right: 8px;
  width: 28px;
  height: 28px;
}

.FilmSight-overlay {
  position: absolute;
  bottom: 42px;
  left: 14px;
  padding: 6px 12px;
  background: #fff;
  color: #14181c;
  font: 600 14px/1.2 var(--sans);
}

.FilmSight-says {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 0 0 6px;
  color: #1b2326;
}

.FilmSight-says b {
  padding: 2px 8px;
  border: 1px solid currentcolor;
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
