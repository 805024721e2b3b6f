<script setup lang="ts">
import { computed } from 'vue'
import { ElInput } from 'element-plus'
import { LAYOUTS, PLATE_SHAPES, PLATE_TEXTS, letters, type Layout, type PlateText } from '@tin-harbor/core/creative'
import { api } from '@/api'
import { perCent } from '@/composables/formats'
import type { PlateEditing } from './use-plate'

/** What pictures of every size are built of: words, pictures, colours, a layout, and the sizes. */
export interface PlatePartsProps {
  editing: PlateEditing
  disabled: boolean
}
const props = defineProps<PlatePartsProps>()
const { plate, pictures, change, found } = props.editing

const LAYOUT_WORDS: Readonly<Record<Layout, string>> = {
  shelf: 'on a shelf beside the picture',
  veil: 'on the picture, under a veil',
  label: 'on a label laid on the picture',
  words: 'on the ground alone'
}
const TEXT_PARTS = Object.entries(PLATE_TEXTS) as [PlateText, (typeof PLATE_TEXTS)[PlateText]][]
const PICTURE_PARTS = [
  { part: 'image', label: 'Picture, in a place of its own' },
  { part: 'cover', label: 'Cover, behind all of it' }
] as const
const COLOUR_PARTS = [
  { part: 'ground', label: 'Ground' },
  { part: 'accent', label: 'Button' }
] as const
const fileOf = (name: string) => pictures.value.find(({ sha256 }) => name === `sha256:${sha256}`)
/** The point of a picture that was clicked, as shares of its width and height. */
function onFocal(event: MouseEvent) {
  const { left, top, width, height } = (event.currentTarget as HTMLElement).getBoundingClientRect()
  change((p) => (p.focal = { x: share((event.clientX - left) / width), y: share((event.clientY - top) / height) }))
}
const share = (value: number) => Math.round(Math.min(1, Math.max(0, value)) * 100) / 100
const pointWords = computed(() => {
  const { x, y } = plate.value?.focal ?? { x: 0, y: 0 }
  return `${perCent(x)} from the left, ${perCent(y)} from above`
})
const focalBy = (x: number, y: number) => change((p) => (p.focal = { x: share(p.focal.x + x), y: share(p.focal.y + y) }))
function onSize(size: (typeof PLATE_SHAPES)[number], isIn: boolean) {
  change((p) => (p.sizes = PLATE_SHAPES.filter((one) => (one === size ? isIn : p.sizes.includes(one)))))
}
</script>

<template>
  <form v-if="plate" class="PlateParts" @submit.prevent>
    <template v-for="[part, { what, most }] in TEXT_PARTS" :key="part">
      <label
        ><span
          >{{ what }} <span :class="letters(plate[part]) > most ? 'trouble' : 'quiet'">{{ letters(plate[part]) }} of {{ most }}</span></span
        >
        <ElInput
          :model-value="plate[part]"
          size="small"
          :disabled="disabled"
          :data-test="`plate-${part}`"
          @update:model-value="(said: string) => change((p) => (p[part] = said))" />
      </label>
      <p v-for="one in found(part)" :key="one.says" class="trouble small" role="status">{{ one.says }}</p>
    </template>
    <label
      >The words stand
      <select
        :value="plate.layout"
        :disabled="disabled"
        data-test="plate-layout"
        @change="change((p) => (p.layout = ($event.target as HTMLSelectElement).value as Layout))">
        <option v-for="layout in LAYOUTS" :key="layout" :value="layout">{{ LAYOUT_WORDS[layout] }}</option>
      </select></label
    >
    <template v-for="{ part, label } in PICTURE_PARTS" :key="part">
      <label
        >{{ label }}
        <select
          :value="plate[part]"
          :disabled="disabled || (part === 'cover' && plate.layout === 'words')"
          :data-test="`plate-${part}`"
          @change="change((p) => (p[part] = ($event.target as HTMLSelectElement).value))">
          <option value="">none</option>
          <option v-for="file in pictures" :key="file.id" :value="`sha256:${file.sha256}`">{{ file.name }}</option>
        </select></label
      >
      <button
        v-if="fileOf(plate[part])"
        class="PlateParts-focal"
        type="button"
        :disabled="disabled"
        :aria-label="`Point of the ${part} that is kept: ${pointWords}; arrow keys move it`"
        @click="onFocal"
        @keydown.left.prevent="focalBy(-0.05, 0)"
        @keydown.right.prevent="focalBy(0.05, 0)"
        @keydown.up.prevent="focalBy(0, -0.05)"
        @keydown.down.prevent="focalBy(0, 0.05)">
        <img :src="api.fileUrl(fileOf(plate[part])?.id ?? 0)" alt="" />
        <i :style="{ left: `${plate.focal.x * 100}%`, top: `${plate.focal.y * 100}%` }"></i>
      </button>
    </template>
    <label v-if="plate.image !== ''" class="PlateParts-tick"
      ><input
        type="checkbox"
        :checked="plate.whole"
        :disabled="disabled"
        @change="change((p) => (p.whole = ($event.target as HTMLInputElement).checked))" />
      show all of the picture, on the ground</label
    >
    <div class="PlateParts-colours">
      <label v-for="{ part, label } in COLOUR_PARTS" :key="part"
        >{{ label }}
        <input
          type="color"
          :value="plate[part]"
          :disabled="disabled"
          :data-test="`plate-${part}`"
          @input="change((p) => (p[part] = ($event.target as HTMLInputElement).value))"
      /></label>
    </div>
    <fieldset>
      <legend class="ruled">Sizes</legend>
      <label v-for="size in PLATE_SHAPES" :key="size" class="PlateParts-tick"
        ><input
          type="checkbox"
          :checked="plate.sizes.includes(size)"
          :disabled="disabled"
          @change="onSize(size, ($event.target as HTMLInputElement).checked)" />
        {{ size }}</label
      >
    </fieldset>
  </form>
</template>

<style>
.PlateParts {
  padding: 0 8px 20px 0;
  overflow: auto;
}

.PlateParts label {
  display: grid;
  gap: 1px;
  margin: 5px 0 1px;
}

.PlateParts select {
  width: 100%;
  min-width: 0;
}

.PlateParts label.PlateParts-tick {
  display: flex;
  gap: 6px;
  align-items: baseline;
}

.PlateParts-focal {
  position: relative;
  max-width: 170px;
  margin-top: 4px;
  padding: 0;
  border: 1px solid var(--rule);
  background: none;
  line-height: 0;
  cursor: crosshair;
}

.PlateParts-focal img {
  max-width: 100%;
  max-height: 96px;
}

.PlateParts-focal i {
  position: absolute;
  width: 12px;
  height: 12px;
  margin: -6px 0 0 -6px;
  border: 2px solid #fff;
  border-radius: 50%;
  background: var(--brass);
  box-shadow: 0 0 0 1px #000;
  pointer-events: none;
}

.PlateParts-colours {
  display: flex;
  gap: 20px;
}

.PlateParts-colours input {
  width: 64px;
  height: 26px;
  padding: 1px;
  border: 1px solid var(--rule);
  background: var(--field);
}

.PlateParts fieldset {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 10px;
  margin: 8px 0 0;
  padding: 0;
  border: 0;
}

.PlateParts legend {
  width: 100%;
}
</style>
