<script setup lang="ts">
import { computed } from 'vue'
import { TEXTS, cellKey, cellName, type MixCell, type MixPart as Part } from '@tin-harbor/core/creative'
import MixActs from './MixActs.vue'
import MixAdds from './MixAdds.vue'
import MixMini from './MixMini.vue'
import MixPart from './MixPart.vue'
import MixPictures from './MixPictures.vue'
import type { MixEditing } from './use-mix'

/** One sheet of a matrix: headlines down, pictures across, each cell the ad that it is. */
export interface MixMatrixProps {
  editing: MixEditing
  /** The text that the sheet is of. */
  text: Part | null
  disabled: boolean
}
const props = defineProps<MixMatrixProps>()
const { view, mix: edited, cells, change, add, write, remove, found, urlOf } = props.editing
const mix = computed(() => edited.value!)

const headlineMost = computed(() => (mix.value.kind === 'native' ? TEXTS.native.headline.most : TEXTS.notification.title.most))
const shown = computed(() => new Map(cells.value.filter((cell) => cell.text.key === props.text?.key).map((cell) => [cell.key, cell])))
const columns = computed((): (Part | null)[] =>
  mix.value.pictures.length === 0 && mix.value.kind === 'notification' ? [null] : mix.value.pictures
)
const cellAt = (headline: Part, picture: Part | null): MixCell | undefined =>
  props.text ? shown.value.get(cellKey(headline.key, picture?.key ?? '-', props.text.key)) : undefined
const madeOf = computed(() => new Map((view.value?.made ?? []).map((one) => [one.cell, one])))
const stateOf = (cell: MixCell) => {
  const made = madeOf.value.get(cell.key)
  if (!made) return ''
  return made.lines.length > 0 ? `on ${made.lines.map((number) => `L-${number}`).join(', ')}` : 'made'
}
const isStruckAlone = (cell: MixCell) => mix.value.struck.includes(cell.key)
const strike = (cell: MixCell) =>
  change((m) => {
    m.struck = m.struck.includes(cell.key) ? m.struck.filter((one) => one !== cell.key) : [...m.struck, cell.key]
  })

/** Arrow keys go from cell to cell. */
function onKey(event: KeyboardEvent) {
  const by: Readonly<Record<string, readonly [number, number]>> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1]
  }
  const step = by[event.key]
  const from = (event.target as HTMLElement).closest<HTMLElement>('[data-cell]')
  if (!step || !from) return
  event.preventDefault()
  const [row, column] = (from.dataset.cell ?? '').split(' ').map(Number)
  document.querySelector<HTMLElement>(`[data-cell="${row + step[0]} ${column + step[1]}"]`)?.focus()
}
</script>

<template>
  <div class="MixMatrix" tabindex="0" role="region" aria-label="Matrix" @keydown="onKey">
    <table>
      <thead>
        <tr>
          <th scope="col" class="MixMatrix-corner">
            <MixAdds
              v-if="!disabled"
              axis="headlines"
              :label="mix.kind === 'native' ? 'Headlines' : 'Titles'"
              @add="add('headlines', $event)" />
          </th>
          <th v-for="(picture, n) in columns" :key="picture?.key ?? '-'" scope="col">
            <template v-if="picture">
              <span class="MixMatrix-picture" :class="{ 'is-struck': picture.struck }">
                <img v-if="urlOf(picture.file)" :src="urlOf(picture.file) ?? ''" :alt="picture.said" />
                <span :title="picture.said">{{ picture.said }}</span>
              </span>
              <em v-for="one in found('pictures', picture.key)" :key="one.says" class="trouble small">{{ one.says }}</em>
              <MixActs
                v-if="!disabled"
                :named="`picture ${n + 1}`"
                :struck="picture.struck"
                @strike="write('pictures', picture.key, { struck: $event })"
                @remove="remove('pictures', picture.key)" />
            </template>
            <span v-else class="quiet small">without a picture</span>
          </th>
          <th v-if="!disabled" scope="col" class="MixMatrix-choose"><MixPictures :editing="editing" /></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(headline, row) in mix.headlines" :key="headline.key">
          <th scope="row">
            <MixPart
              :part="headline"
              :place="row + 1"
              what="Headline"
              :most="headlineMost"
              :most-long="mix.kind === 'native' ? TEXTS.native.longHeadline.most : null"
              :findings="found('headlines', headline.key)"
              :disabled="disabled"
              @write="write('headlines', headline.key, $event)"
              @remove="remove('headlines', headline.key)" />
          </th>
          <td v-for="(picture, column) in columns" :key="picture?.key ?? '-'">
            <template v-for="cell in [cellAt(headline, picture)]" :key="cell?.key ?? 'none'">
              <button
                v-if="cell"
                class="MixMatrix-cell"
                type="button"
                :class="{ 'is-struck': cell.struck }"
                :data-cell="`${row} ${column}`"
                :disabled="disabled"
                :aria-pressed="isStruckAlone(cell)"
                :aria-label="`${cellName(mix, cell)}${cell.struck ? ', struck out' : ''}`"
                :title="cell.struck ? 'Struck out: no ad is made of it' : 'Click to strike it out'"
                @click="strike(cell)">
                <MixMini :mix="mix" :cell="cell" :picture="urlOf(picture?.file)" :icon="urlOf(mix.common.icon)" />
                <em class="quiet">{{ stateOf(cell) }}</em>
              </button>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="mix.headlines.length === 0" class="quiet MixMatrix-none">
      Paste headlines on the left, one a line, and add pictures at the top.
    </p>
  </div>
</template>

<style>
.MixMatrix {
  flex: 1;
  min-height: 0;
  overflow: auto;
  border-top: 1px solid var(--rule);
}

.MixMatrix table {
  border-collapse: separate;
  border-spacing: 0;
}

.MixMatrix th,
.MixMatrix td {
  padding: 6px 8px 6px 0;
  border-bottom: 1px solid var(--rule-2);
  vertical-align: top;
}

.MixMatrix thead th {
  position: sticky;
  z-index: 2;
  top: 0;
  background: var(--paper);
  font-weight: 400;
  text-align: left;
}

.MixMatrix th[scope='row'],
.MixMatrix-corner {
  position: sticky !important;
  z-index: 1;
  left: 0;
  width: 240px;
  min-width: 240px;
  background: var(--paper);
}

.MixMatrix-corner {
  z-index: 3 !important;
}

.MixMatrix-picture {
  display: grid;
  width: 112px;
  font-size: 11px;
}

.MixMatrix-picture span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.MixMatrix-picture img {
  width: 112px;
  aspect-ratio: 1.91;
  object-fit: cover;
}

.MixMatrix-picture.is-struck {
  opacity: 0.45;
}

.MixMatrix-cell {
  position: relative;
  display: grid;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}

.MixMatrix-cell em {
  font: 10.5px var(--sans);
  text-align: left;
}

.MixMatrix-cell.is-struck .MixMini {
  opacity: 0.35;
}

.MixMatrix-cell.is-struck::after {
  position: absolute;
  top: 4px;
  left: 4px;
  width: calc(100% - 8px);
  height: 78px;
  background: linear-gradient(to top right, transparent calc(50% - 1px), var(--hull) 50%, transparent calc(50% + 1px));
  content: '';
}

.MixMatrix-none {
  padding: 14px 0;
  font: 14px/1.5 var(--serif);
}
</style>
