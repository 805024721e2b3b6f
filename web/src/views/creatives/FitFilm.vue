<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { ElButton } from 'element-plus'
import {
  SOURCE_NAMES,
  findingsOf,
  fitFor,
  fitWords,
  frameIn,
  ratioWords,
  shapesTaking,
  takenBy,
  type FilmFit
} from '@tin-harbor/core/creative'
import type { FileView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import FilmStrip from './FilmStrip.vue'
import { tenths } from './file-words'
import ShortFilm from './ShortFilm.vue'

/** Makes a film or a sound as a slot takes it: what does not fit is changed, the rest is left as it is. */
export interface FitFilmProps {
  file: FileView
  isBusy: boolean
}
const props = defineProps<FitFilmProps>()
defineEmits<{ make: [fit: FilmFit] }>()

const shapes = shapesTaking(props.file.medium)
const shape = ref(shapes[shapes.length - 1])
const source = ref('')
const fit = ref<FilmFit | null>(null)
watch([shape, source], () => (fit.value = fitFor(props.file.facts, shape.value, source.value || null)), { immediate: true })
const moments = ref<{ from: number; to: number }[]>([])
/** As it will be asked for: of the moments, where some were marked. */
const wanted = computed(() => fit.value && { ...fit.value, moments: moments.value.length > 0 ? moments.value : null })
const seconds = computed(() => props.file.facts.seconds ?? 0)
const words = computed(() => wanted.value && fitWords(props.file.facts, wanted.value))
/** Nothing is to be changed for the slot, and nothing was asked for. */
const isAsItIs = computed(() => {
  const slot = takenBy(shape.value, source.value || null).find(({ medium }) => medium === props.file.medium)
  return words.value === 'written anew' && slot !== undefined && findingsOf(props.file.facts, slot).length === 0
})

function onMove(from: number) {
  if (fit.value) fit.value = { ...fit.value, from, to: Math.round((from + fit.value.to - fit.value.from) * 10) / 10 }
}
function onEnd(end: 'from' | 'to', typed: string) {
  if (fit.value && typed !== '') fit.value = { ...fit.value, [end]: Number(typed) }
}
/** Ratios that the slot takes. */
const ratios = computed(() => takenBy(shape.value, source.value || null).find(({ medium }) => medium === props.file.medium)?.ratios ?? [])
const ratio = ref('')
watch(shape, () => (ratio.value = ''))
function onRatio(chosen: string) {
  ratio.value = chosen
  if (!fit.value) return
  const slot = takenBy(shape.value, source.value || null).find(({ medium }) => medium === props.file.medium)
  const usual = fitFor(props.file.facts, shape.value, source.value || null)?.frame ?? null
  fit.value = { ...fit.value, frame: chosen === '' ? usual : frameIn(props.file.facts, Number(chosen), slot?.least ?? null) }
}
/** The side along which a part is cut away. */
const side = computed<'x' | 'y'>(() => {
  const { width, height } = props.file.facts
  const frame = fit.value?.frame
  return frame && width && height && frame.width / frame.height > width / height ? 'y' : 'x'
})
function onFocal(share: number) {
  if (fit.value?.frame)
    fit.value = { ...fit.value, frame: { ...fit.value.frame, focal: { ...fit.value.frame.focal, [side.value]: share } } }
}
function onHow(how: 'pad' | 'crop') {
  if (fit.value?.frame) fit.value = { ...fit.value, frame: { ...fit.value.frame, how } }
}
</script>

<template>
  <section v-if="fit" class="FitFilm" data-test="fit-film">
    <h3>Make it fit</h3>
    <p class="small">
      <select v-model="shape" aria-label="Slot it is for">
        <option v-for="one in shapes" :key="one" :value="one">{{ one }}</option>
      </select>
      by
      <select v-model="source" aria-label="Source it is for">
        <option value="">any source that takes it</option>
        <option v-for="name in SOURCE_NAMES" :key="name" :value="name">{{ name }}</option>
      </select>
    </p>
    <FilmStrip
      v-if="file.medium === 'film'"
      :url="api.fileStrip(file.id)"
      :seconds="seconds"
      :from="fit.from"
      :to="fit.to"
      :moments="moments"
      @move="onMove" />
    <p class="FitFilm-ends small">
      <label
        >from
        <input
          type="number"
          step="0.1"
          min="0"
          :max="fit.to"
          :value="tenths(fit.from)"
          aria-label="Seconds at which the part begins"
          @change="onEnd('from', ($event.target as HTMLInputElement).value)"
      /></label>
      <label
        >to
        <input
          type="number"
          step="0.1"
          :min="fit.from"
          :max="seconds"
          :value="tenths(fit.to)"
          aria-label="Seconds at which the part ends"
          @change="onEnd('to', ($event.target as HTMLInputElement).value)" />
        s</label
      >
      <label v-if="ratios.length > 0"
        >frame
        <select :value="ratio" aria-label="Shape of the frame" @change="onRatio(($event.target as HTMLSelectElement).value)">
          <option value="">as the slot needs it</option>
          <option v-for="one in ratios" :key="one" :value="String(one)">{{ ratioWords(one) }}</option>
        </select></label
      >
      <template v-if="fit.frame">
        <label><input type="radio" name="how" :checked="fit.frame.how === 'pad'" @change="onHow('pad')" /> whole, with bars</label>
        <label><input type="radio" name="how" :checked="fit.frame.how === 'crop'" @change="onHow('crop')" /> filled</label>
        <label v-if="fit.frame.how === 'crop'"
          >kept in sight
          <input
            type="range"
            min="0"
            max="1"
            step="0.02"
            :value="fit.frame.focal[side]"
            :aria-label="side === 'x' ? 'What is kept in sight, from left to right' : 'What is kept in sight, from top to bottom'"
            @input="onFocal(Number(($event.target as HTMLInputElement).value))"
        /></label>
      </template>
    </p>
    <ShortFilm v-if="file.medium === 'film'" v-model="moments" :from="fit.from" :to="Math.min(fit.to, seconds)" />
    <p class="FitFilm-words">{{ isAsItIs ? 'It is taken there as it is.' : `It is ${words}.` }}</p>
    <ElButton v-if="!isBusy && !isAsItIs" size="small" data-test="make-fit" @click="wanted && $emit('make', wanted)">Make it</ElButton>
  </section>
</template>

<style>
.FitFilm-ends {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
}

.FileNote .FitFilm-ends label {
  display: inline;
}

.FitFilm-ends input[type='number'] {
  width: 62px;
}

.FitFilm-words {
  margin: 6px 0;
  font: 13px/1.5 var(--serif);
}
</style>
