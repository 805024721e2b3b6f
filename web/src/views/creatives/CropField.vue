<script setup lang="ts">
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
const emit = defineEmits<{ change: [crop: CropFieldProps['crop']] }>()

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
</script>

<template>
  <Cropper
    class="CropField"
    :src="url"
    :stencil-props="{ aspectRatio: ratio }"
    :default-position="{ left: start.left, top: start.top }"
    :default-size="{ width: start.width, height: start.height }"
    :check-orientation="false"
    @change="onChange" />
</template>

<style>
.CropField {
  height: 220px;
  background: var(--tin);
}
</style>
