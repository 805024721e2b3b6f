<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'

/** A film as frames side by side, with the part that is kept under a brass span to drag. */
export interface FilmStripProps {
  url: string
  seconds: number
  from: number
  to: number
}
const props = defineProps<FilmStripProps>()
const emit = defineEmits<{ move: [from: number] }>()

const FRAMES = 10
const HEIGHT = 34
const canvas = useTemplateRef('canvas')
const strip = useTemplateRef('strip')
let isGone = false

async function draw(): Promise<void> {
  const target = canvas.value
  const context = target?.getContext('2d')
  if (!target || !context) return
  const film = document.createElement('video')
  film.muted = true
  film.preload = 'auto'
  film.src = props.url
  await new Promise((resolve) => film.addEventListener('loadeddata', resolve, { once: true }))
  const width = target.width / FRAMES
  for (let n = 0; n < FRAMES && !isGone; n++) {
    film.currentTime = ((n + 0.5) * props.seconds) / FRAMES
    await new Promise((resolve) => film.addEventListener('seeked', resolve, { once: true }))
    const scale = Math.max(width / film.videoWidth, HEIGHT / film.videoHeight)
    const [wide, tall] = [width / scale, HEIGHT / scale]
    context.drawImage(film, (film.videoWidth - wide) / 2, (film.videoHeight - tall) / 2, wide, tall, n * width, 0, width, HEIGHT)
  }
  film.removeAttribute('src')
}
onMounted(() => void draw())
onBeforeUnmount(() => (isGone = true))

const span = computed(() => ({
  left: `${(100 * props.from) / props.seconds}%`,
  width: `${(100 * (Math.min(props.to, props.seconds) - props.from)) / props.seconds}%`
}))
const grabbed = ref<{ x: number; from: number } | null>(null)
function onGrab(event: PointerEvent) {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  grabbed.value = { x: event.clientX, from: props.from }
}
function onDrag(event: PointerEvent) {
  if (!grabbed.value || !strip.value) return
  const moved = ((event.clientX - grabbed.value.x) / strip.value.clientWidth) * props.seconds
  const most = Math.max(0, props.seconds - (props.to - props.from))
  emit('move', Math.round(Math.min(most, Math.max(0, grabbed.value.from + moved)) * 10) / 10)
}
</script>

<template>
  <div ref="strip" class="FilmStrip" aria-hidden="true">
    <canvas ref="canvas" width="300" :height="HEIGHT"></canvas>
    <i
      :style="span"
      data-test="strip-span"
      @pointerdown="onGrab"
      @pointermove="onDrag"
      @pointerup="grabbed = null"
      @pointercancel="grabbed = null"></i>
  </div>
</template>

<style>
.FilmStrip {
  position: relative;
  height: 34px;
  margin: 4px 0;
  background: var(--tin);
}

.FilmStrip canvas {
  display: block;
  width: 100%;
  height: 34px;
}

.FilmStrip i {
  position: absolute;
  top: -2px;
  bottom: -2px;
  border: 2px solid var(--brass);
  background: var(--brass-veil);
  cursor: grab;
  touch-action: none;
}
</style>
