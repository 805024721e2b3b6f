<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import type { MarketColumn, MarketRow } from './columns'

/** Rows of the market, of which only those in sight are drawn. */
export interface MarketTableProps {
  rows: readonly MarketRow[]
  columns: readonly MarketColumn[]
  by: string
  sort: { id: string; down: boolean }
  chosen: ReadonlySet<number>
  isWaiting: boolean
  /** Properties unfold to their placements. */
  unfolds: boolean
  unfolded: ReadonlySet<number>
}
const props = defineProps<MarketTableProps>()
defineEmits<{ sort: [id: string]; choose: [key: number]; unfold: [key: number]; open: [key: number] }>()

const ROW = 27
const EXTRA = 8
const scroller = useTemplateRef('scroller')
const top = ref(0)
const height = ref(600)
const first = computed(() => Math.max(0, Math.floor(top.value / ROW) - EXTRA))
const shown = computed(() => props.rows.slice(first.value, first.value + Math.ceil(height.value / ROW) + 2 * EXTRA))
const above = computed(() => first.value * ROW)
const below = computed(() => Math.max(0, (props.rows.length - first.value - shown.value.length) * ROW))

function onScroll() {
  top.value = scroller.value?.scrollTop ?? 0
}

/** How many rows are in sight is up to the screen: it is looked at as it changes, not only when somebody scrolls. */
const sized = new ResizeObserver(([{ contentRect }]) => {
  height.value = contentRect.height
})
onMounted(() => scroller.value && sized.observe(scroller.value))
onBeforeUnmount(() => sized.disconnect())
watch(
  () => [props.by, props.sort.id, props.sort.down],
  () => {
    if (scroller.value) scroller.value.scrollTop = 0
  }
)
/** Narrower, names could not be read: then the table is scrolled sideways. */
const least = computed(() => props.columns.reduce((sum, column) => sum + column.width, 26 + 216))
const arrow = (id: string) => (props.sort.id === id ? (props.sort.down ? '↓' : '↑') : '')
const ariaSort = (id: string) => (props.sort.id === id ? (props.sort.down ? 'descending' : 'ascending') : 'none')
</script>

<template>
  <div
    ref="scroller"
    class="MarketTable"
    :class="{ 'is-waiting': isWaiting }"
    tabindex="0"
    role="region"
    aria-label="Rows of the market"
    @scroll.passive="onScroll">
    <table :aria-rowcount="rows.length" :style="{ minWidth: `${least}px` }">
      <thead>
        <tr>
          <th class="MarketTable-tick"><span class="visually-hidden">chosen</span></th>
          <th class="MarketTable-name" scope="col" :aria-sort="ariaSort('name')">
            <button type="button" @click="$emit('sort', 'name')">{{ by }} {{ arrow('name') }}</button>
          </th>
          <th
            v-for="column in columns"
            :key="column.id"
            scope="col"
            :style="{ width: `${column.width}px` }"
            :aria-sort="ariaSort(column.id)"
            :title="column.title">
            <button type="button" @click="$emit('sort', column.id)">{{ column.label }} {{ arrow(column.id) }}</button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true">
          <td :style="{ height: `${above}px` }" :colspan="columns.length + 2" />
        </tr>
        <tr
          v-for="row in shown"
          :key="`${row.isPlacement ? 'p' : ''}${row.key}`"
          :class="{ 'is-chosen': chosen.has(row.key) && !row.isPlacement, 'is-placement': row.isPlacement }">
          <td class="MarketTable-tick">
            <input
              v-if="!row.isPlacement"
              type="checkbox"
              :checked="chosen.has(row.key)"
              :aria-label="`Choose ${row.label}`"
              @change="$emit('choose', row.key)" />
          </td>
          <th scope="row" class="MarketTable-name" :title="row.about ? `${row.label}, ${row.about}` : row.label">
            <button
              v-if="unfolds && !row.isPlacement"
              class="plain MarketTable-fold"
              type="button"
              :aria-expanded="unfolded.has(row.key)"
              :aria-label="`Placements of ${row.label}`"
              @click="$emit('unfold', row.key)">
              {{ unfolded.has(row.key) ? '–' : '+' }}
            </button>
            <button v-if="unfolds && !row.isPlacement" class="MarketTable-open" type="button" @click="$emit('open', row.key)">
              {{ row.label }}</button><b v-else>{{ row.label }}</b>
            <span v-if="row.about" class="quiet small">&nbsp; {{ row.about }}</span>
          </th>
          <td v-for="column in columns" :key="column.id" :class="column.id === 'grade' ? `MarketView-grade-${row.grade}` : ''">
            {{ column.words(row) }}
          </td>
        </tr>
        <tr v-if="below > 0" aria-hidden="true">
          <td :style="{ height: `${below}px` }" :colspan="columns.length + 2" />
        </tr>
      </tbody>
    </table>
    <p v-if="rows.length === 0 && !isWaiting" class="MarketTable-none">
      Nothing on the tape is like that. Lift the phrase that is marked, or the search.
    </p>
  </div>
</template>

<style>
.MarketTable {
  position: relative;
  min-height: 0;
  overflow: auto;
}

.MarketTable.is-waiting tbody {
  opacity: 0.55;
}

.MarketTable table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
  font-size: 12.5px;
}

.MarketTable thead th {
  position: sticky;
  z-index: 1;
  top: 0;
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--rule);
  background: var(--paper);
  text-align: right;
}

.MarketTable thead button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink-2);
  font: 500 11.5px var(--sans);
  font-stretch: 88%;
  white-space: nowrap;
  cursor: pointer;
}

.MarketTable tbody tr {
  height: 27px;
}

.MarketTable tbody td,
.MarketTable tbody th {
  padding: 0 8px 0 0;
  overflow: hidden;
  border-bottom: 1px solid var(--rule-2);
  font-weight: 400;
  text-align: right;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.MarketTable tr > .MarketTable-tick {
  width: 26px;
  padding: 0;
  overflow: visible;
  text-align: left;
}

.MarketTable tr > .MarketTable-name {
  width: auto;
  text-align: left;
  min-width: 190px;
}

.MarketTable tbody b,
.MarketTable-open {
  padding: 0;
  border: 0;
  background: none;
  font: 600 12.5px var(--sans);
}

.MarketTable-open {
  cursor: pointer;
}

.MarketTable-open:hover {
  text-decoration: underline;
}

.MarketTable .is-placement th {
  padding-left: 24px;
}

.MarketTable .is-placement b {
  font-weight: 400;
}

.MarketTable-fold {
  display: inline-block;
  width: 16px;
  text-decoration: none;
}

.MarketTable tr.is-chosen {
  background: #f3edda;
}

.MarketTable-none {
  padding: 18px 0;
  color: var(--ink-2);
}
</style>
