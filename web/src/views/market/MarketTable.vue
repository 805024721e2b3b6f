<script setup lang="ts">
import { computed } from 'vue'
import DataTable from '@/parts/DataTable.vue'
import type { TableColumn, TableSort } from '@/parts/table-columns'
import { useRowRange } from '@/parts/use-row-range'
import { rowKey, type MarketColumn, type MarketRow } from './columns'

/** Rows of the market: each can be chosen, a property opened, and unfolded to its placements. */
export interface MarketTableProps {
  rows: readonly MarketRow[]
  columns: readonly MarketColumn[]
  by: string
  sort: TableSort
  /** By the rows' own keys. */
  chosen: ReadonlySet<string>
  isWaiting: boolean
  /** Properties unfold to their placements. */
  unfolds: boolean
  unfolded: ReadonlySet<number>
}
const props = defineProps<MarketTableProps>()
const emit = defineEmits<{
  sort: [sort: TableSort]
  choose: [keys: readonly string[], isIn: boolean]
  unfold: [key: number]
  open: [code: string]
}>()

const columns = computed((): TableColumn<MarketRow>[] => [
  { id: 'tick', label: 'chosen', width: 26, side: 'left', isBare: true, cellClass: () => 'MarketTable-tick' },
  {
    id: 'name',
    label: props.by,
    least: 216,
    side: 'left',
    value: (row) => row.label,
    isHead: true,
    cellClass: () => 'MarketTable-name'
  },
  ...props.columns
])
const rowClass = (row: MarketRow) => [row.isPlacement ? 'is-placement' : '', props.chosen.has(rowKey(row)) ? 'is-chosen' : ''].join(' ')
const rangeOf = useRowRange()
/** Placements and the properties over them are chosen apart. */
function onChoose(row: MarketRow, inOrder: readonly MarketRow[], event: MouseEvent) {
  const keys = inOrder.filter((one) => one.isPlacement === row.isPlacement).map(rowKey)
  emit('choose', rangeOf(rowKey(row), keys, event), (event.currentTarget as HTMLInputElement).checked)
}
</script>

<template>
  <DataTable
    class="MarketTable"
    :rows="rows"
    :columns="columns"
    :row-key="rowKey"
    :row-class="rowClass"
    :sort="sort"
    :subject="by"
    :is-waiting="isWaiting"
    is-sorted
    label="Rows of the market"
    none="Nothing in the recorded days is like that. Lift the phrase that is marked, or the search."
    @sort="$emit('sort', $event)">
    <template #cell-tick="{ row, ordered }">
      <input
        type="checkbox"
        :checked="chosen.has(rowKey(row))"
        :aria-label="`Choose ${row.label}`"
        @click="onChoose(row, ordered, $event)" />
    </template>
    <template #cell-name="{ row }">
      <span :title="row.about ? `${row.label}, ${row.about}` : row.label">
        <button
          v-if="unfolds && !row.isPlacement"
          class="plain MarketTable-fold"
          type="button"
          :aria-expanded="unfolded.has(row.key)"
          :aria-label="`Placements of ${row.label}`"
          @click="$emit('unfold', row.key)">
          {{ unfolded.has(row.key) ? '–' : '+' }}
        </button>
        <button v-if="unfolds && !row.isPlacement" class="MarketTable-open" type="button" @click="row.code && $emit('open', row.code)">
          {{ row.label }}</button><b v-else>{{ row.label }}</b>
        <span v-if="row.about" class="quiet small">&nbsp; {{ row.about }}</span>
      </span>
    </template>
  </DataTable>
</template>

<style>
.DataTable tbody .MarketTable-tick {
  padding: 0;
  overflow: visible;
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

.MarketTable-grade-A,
.MarketTable-grade-B {
  color: var(--lamp);
}

.MarketTable .MarketTable-grade-A,
.MarketTable .MarketTable-grade-B,
.MarketTable .MarketTable-grade-E {
  font-weight: 600;
}

.MarketTable-grade-E {
  color: var(--hull);
}
</style>
