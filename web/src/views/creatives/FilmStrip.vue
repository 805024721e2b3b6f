<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'

/** A film as frames side by side, with the part that is kept under a brass span to drag. */
export interface FilmStripProps {
  /** Of the frames, as one picture. */
  url: string
  seconds: number
  from: number
  to: number
  /** Moments that were marked. */
  moments?: readonly { from: number; to: number }[]
}
const props = defineProps<FilmStripProps>()
const emit = defineEmits<{ move: [from: number] }>()

const strip = useTemplateRef('strip')

const placed = (from: number, to: number) => ({
  left: `${(100 * from) / props.seconds}%`,
  width: `${(100 * (Math.min(to, props.seconds) - from)) / props.seconds}%`
})
const span = computed(() => placed(props.from, props.to))
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
    <img :src="url" alt="" draggable="false" />
    <b v-for="one in moments ?? []" :key="one.from" :style="placed(one.from, one.to)"></b>
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

.FilmStrip img {
  display: block;
  width: 100%;
  height: 34px;
}

.FilmStrip i,
.FilmStrip b {
  position: absolute;
  top: -2px;
  bottom: -2px;
  border: 2px solid var(--brass);
}

.FilmStrip i {
  background: var(--brass-veil);
  cursor: grab;
  touch-action: none;
}

.FilmStrip b {
  top: auto;
  height: 6px;
  border-width: 0;
  background: var(--brass);
}
</style>
