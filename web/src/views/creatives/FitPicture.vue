<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
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

const CropField = defineAsyncComponent(() => import('./CropField.vue'))
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
/** Parts that were corrected by hand, by the slot's name. */
const byHand = ref<Record<string, Share | undefined>>({})
const chosen = computed(() => slots.filter(({ name }) => wanted.value.includes(name)))
interface Share {
  left: number
  top: number
  width: number
  height: number
}
/** The part of a slot as shares of the picture: by hand, or round the point. */
function shareOf({ name, ratio }: (typeof slots)[number]): Share | null {
  const { width, height } = props.file.facts
  if (width === null || height === null) return null
  const cut = cropFor(width, height, ratio, focal.value)
  return byHand.value[name] ?? { left: cut.left / width, top: cut.top / height, width: cut.width / width, height: cut.height / height }
}
/** Of the slot that is pointed at. */
const crop = computed(() => {
  const one = slots.find(({ name }) => name === looked.value)
  const share = one && shareOf(one)
  const percent = (value: number) => `${100 * value}%`
  return share ? { left: percent(share.left), top: percent(share.top), width: percent(share.width), height: percent(share.height) } : null
})

function onPointAgain() {
  if (handled.value) byHand.value[handled.value.name] = undefined
  handled.value = null
}
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
const handled = ref<(typeof slots)[number] | null>(null)
const onCut = () =>
  emit('make', {
    slots: chosen.value.map(({ name, shape, part }) => ({ shape, part, crop: byHand.value[name] ?? null })),
    focal: focal.value
  })
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
        <button
          v-if="wanted.includes(name)"
          class="plain small"
          type="button"
          :aria-label="`Correct ${name} by hand`"
          :aria-pressed="handled?.name === name"
          @click="handled = handled?.name === name ? null : (slots.find((one) => one.name === name) ?? null)">
          {{ byHand[name] ? 'by hand' : '✎' }}
        </button>
      </li>
    </ul>
    <template v-if="handled && file.facts.width && file.facts.height">
      <p class="small">{{ handled.name.replace(' file', '') }} by hand:</p>
      <CropField
        :key="handled.name"
        :url="api.fileUrl(file.id)"
        :width="file.facts.width"
        :height="file.facts.height"
        :ratio="handled.ratio"
        :crop="shareOf(handled) ?? { left: 0, top: 0, width: 1, height: 1 }"
        @change="byHand[handled.name] = $event" />
      <p class="small">
        <button class="plain small" type="button" @click="onPointAgain">by the point again</button>
      </p>
    </template>
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
  display: flex;
  gap: 6px;
  align-items: baseline;
  border: 0;
}

.FileNote .FitPicture label {
  display: inline;
}
</style>
