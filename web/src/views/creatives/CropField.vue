<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { Cropper, type CropperResult } from 'vue-advanced-cropper'
import 'vue-advanced-cropper/dist/style.css'

/** Corrects by hand which part of a picture a slot shows. */
export interface CropFieldProps {
  url: string
  width: number
  height: number
  /** Width by height of the slot. */
  ratio: number
  /** The part, as shares of the picture. */
  crop: { left: number; top: number; width: number; height: number }
}
const props = defineProps<CropFieldProps>()
/** Share of the picture by which a key moves the part, or sizes it. */
const STEP = 0.02
const emit = defineEmits<{ change: [crop: CropFieldProps['crop']] }>()

const cropper = useTemplateRef('cropper')
const start = {
  left: props.crop.left * props.width,
  top: props.crop.top * props.height,
  width: props.crop.width * props.width,
  height: props.crop.height * props.height
}
function onChange({ coordinates: { left, top, width, height } }: CropperResult) {
  // It says where it begins, which nobody has changed yet.
  if (Math.abs(left - start.left) + Math.abs(top - start.top) + Math.abs(width - start.width) < 3) return
  const share = (pixels: number, all: number) => Math.min(1, Math.max(0, pixels / all))
  emit('change', {
    left: share(left, props.width),
    top: share(top, props.height),
    width: share(width, props.width),
    height: share(height, props.height)
  })
}

const STEPS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP]
}
function onKey(event: KeyboardEvent) {
  const step = STEPS[event.key] as readonly [number, number] | undefined
  const scale = event.key === '+' ? 1 + STEP : event.key === '-' ? 1 - STEP : null
  if (!step && scale === null) return
  event.preventDefault()
  cropper.value?.setCoordinates(({ coordinates: { left, top, width, height } }: Pick<CropperResult, 'coordinates'>) =>
    step
      ? { left: left + step[0] * props.width, top: top + step[1] * props.height, width, height }
      : { left, top, width: width * (scale ?? 1), height: height * (scale ?? 1) }
  )
}
</script>

<template>
  <div
    class="CropField"
    role="group"
    tabindex="0"
    aria-label="The part that is shown; arrow keys move it, plus and minus size it"
    @keydown="onKey">
    <Cropper
      ref="cropper"
      aria-hidden="true"
      :src="url"
      :stencil-props="{ aspectRatio: ratio }"
      :default-position="{ left: start.left, top: start.top }"
      :default-size="{ width: start.width, height: start.height }"
      :check-orientation="false"
      @change="onChange" />
  </div>
</template>

<style>
.CropField > div {
  height: 220px;
  background: var(--tin);
}
</style>
