<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElButton } from 'element-plus'
import { SPECIFICATION, cropFor, type PictureFit } from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'
import { DISPLAY_SIZES, SHAPES } from '@tin-harbor/core/taxonomy'
import { api } from '@/api'

/** Cuts a picture for slots, all at once, with the point that matters kept in each. */
export interface FitPictureProps {
  file: FileView
  isBusy: boolean
}
const props = defineProps<FitPictureProps>()
const emit = defineEmits<{ make: [fit: PictureFit] }>()

const STEP = 0.02
const slots = SHAPES.flatMap((shape) =>
  SPECIFICATION[shape]
    .filter(({ medium }) => medium === 'picture')
    .map(({ part, exact, ratios }) => ({
      name: `${shape} ${part}`,
      shape,
      part,
      ratio: exact ? exact.width / exact.height : (ratios[0] ?? 1)
    }))
)
const wanted = ref<string[]>(DISPLAY_SIZES.map((size) => `${size} file`))
const focal = ref({ x: 0.5, y: 0.5 })
const looked = ref(slots[0].name)
const chosen = computed(() => slots.filter(({ name }) => wanted.value.includes(name)))
/** The part of the slot that is pointed at, as shares of the picture. */
const crop = computed(() => {
  const { width, height } = props.file.facts
  const one = slots.find(({ name }) => name === looked.value)
  if (!one || width === null || height === null) return null
  const cut = cropFor(width, height, one.ratio, focal.value)
  const part = (pixels: number, all: number) => `${(100 * pixels) / all}%`
  return { left: part(cut.left, width), top: part(cut.top, height), width: part(cut.width, width), height: part(cut.height, height) }
})

function onPoint(event: MouseEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  focal.value = { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height }
}
function onKey(event: KeyboardEvent) {
  const step = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[event.key]
  if (!step) return
  event.preventDefault()
  const inside = (value: number) => Math.min(1, Math.max(0, value))
  focal.value = { x: inside(focal.value.x + step[0]), y: inside(focal.value.y + step[1]) }
}
const onCut = () => emit('make', { slots: chosen.value.map(({ shape, part }) => ({ shape, part })), focal: focal.value })
</script>

<template>
  <section class="FitPicture" data-test="fit-picture">
    <h3>Cut it for slots</h3>
    <p class="small quiet">Point at what must stay in sight.</p>
    <div
      class="FitPicture-point"
      role="slider"
      tabindex="0"
      aria-label="Point that stays in sight; arrow keys move it"
      :aria-valuetext="`${Math.round(focal.x * 100)} % from the left, ${Math.round(focal.y * 100)} % from the top`"
      aria-valuemin="0"
      aria-valuemax="100"
      :aria-valuenow="Math.round(focal.x * 100)"
      @click="onPoint"
      @keydown="onKey">
      <img :src="api.fileUrl(file.id)" alt="" />
      <i v-if="crop" class="FitPicture-crop" :style="crop"></i>
      <i class="FitPicture-mark" :style="{ left: `${focal.x * 100}%`, top: `${focal.y * 100}%` }"></i>
    </div>
    <p class="small">
      For <button class="plain small" type="button" @click="wanted = slots.map(({ name }) => name)">all</button>,
      <button class="plain small" type="button" @click="wanted = []">none</button> of
    </p>
    <ul>
      <li v-for="{ name, shape, part } in slots" :key="name" @mouseenter="looked = name" @focusin="looked = name">
        <label><input v-model="wanted" type="checkbox" :value="name" /> {{ shape }}{{ part === 'file' ? '' : `, ${part}` }}</label>
      </li>
    </ul>
    <ElButton v-if="!isBusy" size="small" :disabled="chosen.length === 0" data-test="cut-picture" @click="onCut">
      Cut for {{ chosen.length === 1 ? '1 slot' : `${chosen.length} slots` }}
    </ElButton>
  </section>
</template>

<style>
.FitPicture-point {
  position: relative;
  display: inline-block;
  overflow: hidden;
  cursor: crosshair;
}

.FitPicture-point img {
  display: block;
  max-width: 100%;
  max-height: 230px;
}

.FitPicture-point i {
  pointer-events: none;
}

.FitPicture-crop {
  position: absolute;
  border: 2px solid var(--brass);
  box-shadow: 0 0 0 600px var(--shade);
}

.FitPicture-mark {
  position: absolute;
  width: 13px;
  height: 13px;
  margin: -7px 0 0 -7px;
  border: 2px solid var(--field);
  border-radius: 50%;
  background: var(--brass);
}

.FileNote .FitPicture ul {
  display: grid;
  grid-template-columns: 1fr 1fr;
  margin: 6px 0;
}

.FileNote .FitPicture li {
  border: 0;
}

.FileNote .FitPicture label {
  display: inline;
}
</style>
