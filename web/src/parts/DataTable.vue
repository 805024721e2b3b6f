<script setup lang="ts" generic="Row">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { observeElementRect, useVirtualizer, type Rect, type Virtualizer } from '@tanstack/vue-virtual'
import { orderBy, sortNext, type TableColumn, type TableSort } from './table-columns'

/** A table of any length: only the rows in sight are drawn. What a cell shows beyond words comes in slots, by column. */
export interface DataTableProps<Item> {
  rows: readonly Item[]
  columns: readonly TableColumn<Item>[]
  rowKey: (row: Item) => string | number
  /** What the table is of, for those who listen. */
  label: string
  /** How it begins; it is then the table's own, unless it is bound. */
  sort: TableSort
  /** Rows come in their order already. */
  isSorted?: boolean
  isWaiting?: boolean
  rowClass?: (row: Item) => string
  /** Said where there are no rows. */
  none?: string
  /** When it changes the table begins at its top. */
  subject?: string
}
const props = defineProps<DataTableProps<Row>>()
const emit = defineEmits<{ sort: [sort: TableSort] }>()

const ROW = 27
const EXTRA = 8
/** Before it is laid out, and where nothing is: room for what a screen shows. */
const USUAL = { width: 900, height: 600 }

const own = ref<TableSort | null>(null)
const sort = computed(() => own.value ?? props.sort)
watch(
  () => props.sort,
  () => (own.value = null)
)
const ordered = computed<readonly Row[]>(() => {
  if (props.isSorted) return props.rows
  const column = props.columns.find((one) => one.id === sort.value.id)
  return [...props.rows].sort(orderBy(column, sort.value.down))
})
function onSort(column: TableColumn<Row>) {
  const next = sortNext(column, sort.value)
  if (!props.isSorted) own.value = next
  emit('sort', next)
}

const scroller = useTemplateRef<HTMLElement>('scroller')
const virtual = useVirtualizer<HTMLElement, HTMLElement>(
  computed(() => ({
    count: ordered.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => ROW,
    overscan: EXTRA,
    initialRect: USUAL,
    observeElementRect: (instance: Virtualizer<HTMLElement, HTMLElement>, tell: (rect: Rect) => void) =>
      observeElementRect(instance, (rect) => tell(rect.height > 0 ? rect : USUAL))
  }))
)
const seen = computed(() => virtual.value.getVirtualItems())
const shown = computed(() => seen.value.flatMap(({ index }) => (index < ordered.value.length ? [ordered.value[index]] : [])))
const above = computed(() => seen.value[0]?.start ?? 0)
const below = computed(() => Math.max(0, virtual.value.getTotalSize() - (seen.value.at(-1)?.end ?? 0)))
watch(
  () => [props.subject, sort.value.id, sort.value.down],
  () => virtual.value.scrollToOffset(0)
)

/** Narrower, names could not be read: then the table is scrolled sideways. */
const least = computed(() => props.columns.reduce((sum, { width, least: narrowest }) => sum + (width ?? narrowest ?? 0), 0))
const ariaSort = ({ id, value }: TableColumn<Row>) =>
  value === undefined ? undefined : sort.value.id === id ? (sort.value.down ? 'descending' : 'ascending') : 'none'
const sideOf = ({ side }: TableColumn<Row>) => (side === 'left' ? 'is-left' : '')
</script>

<template>
  <div ref="scroller" class="DataTable" :class="{ 'is-waiting': isWaiting }" tabindex="0" role="region" :aria-label="label">
    <table :aria-rowcount="rows.length" :style="{ minWidth: `${least}px` }">
      <thead>
        <tr>
          <th
            v-for="column in columns"
            :key="column.id"
            scope="col"
            :class="sideOf(column)"
            :style="column.width ? { width: `${column.width}px` } : { minWidth: `${column.least ?? 0}px` }"
            :aria-sort="ariaSort(column)"
            :title="column.title">
            <span v-if="column.isBare" class="visually-hidden">{{ column.label }}</span>
            <button
              v-else-if="column.value"
              type="button"
              :aria-description="column.title"
              :data-about="column.title"
              @click="onSort(column)">
              {{ column.label }}
            </button>
            <template v-else>{{ column.label }}</template>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true">
          <td :style="{ height: `${above}px` }" :colspan="columns.length" />
        </tr>
        <tr v-for="row in shown" :key="rowKey(row)" :class="rowClass?.(row)">
          <component
            :is="column.isHead ? 'th' : 'td'"
            v-for="column in columns"
            :key="column.id"
            :scope="column.isHead ? 'row' : undefined"
            :class="[sideOf(column), column.cellClass?.(row)]">
            <slot :name="`cell-${column.id}`" :row="row" :ordered="ordered">{{ column.words?.(row) ?? column.value?.(row) }}</slot>
          </component>
        </tr>
        <tr v-if="below > 0" aria-hidden="true">
          <td :style="{ height: `${below}px` }" :colspan="columns.length" />
        </tr>
      </tbody>
    </table>
    <p v-if="rows.length === 0 && !isWaiting && none" class="DataTable-none">{{ none }}</p>
  </div>
</template>

<style>
.DataTable {
  position: relative;
  min-height: 0;
  overflow: auto;
}

.DataTable.is-waiting tbody {
  opacity: 0.55;
}

.DataTable table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
  font-size: 12.5px;
}

.DataTable thead th {
  position: sticky;
  z-index: 1;
  top: 0;
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--rule);
  background: var(--paper);
  color: var(--ink-2);
  font: 500 11.5px var(--sans);
  font-stretch: 88%;
  text-align: right;
  white-space: nowrap;
}

.DataTable thead button {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-stretch: inherit;
  white-space: nowrap;
  cursor: pointer;
}

.DataTable th[aria-sort='descending'] button::after {
  content: ' ↓';
}

.DataTable th[aria-sort='ascending'] button::after {
  content: ' ↑';
}

.DataTable tbody tr {
  height: 27px;
}

.DataTable tbody td,
.DataTable tbody th {
  padding: 0 8px 0 0;
  overflow: hidden;
  border-bottom: 1px solid var(--rule-2);
  font-weight: 400;
  text-align: right;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.DataTable tr > .is-left {
  text-align: left;
}

.DataTable tbody tr:hover {
  background: var(--hover);
}

.DataTable tbody tr.is-chosen {
  background: var(--chosen);
}

.DataTable-none {
  padding: 18px 0;
  color: var(--ink-2);
}

/* What a heading means, for those who go by keys: a pointer has the title. */
.DataTable thead button:focus-visible[data-about]::before {
  content: attr(data-about);
  position: absolute;
  z-index: 2;
  top: 100%;
  right: 0;
  width: max-content;
  max-width: 240px;
  padding: 5px 8px;
  border: 1px solid var(--ink);
  background: var(--paper);
  color: var(--ink);
  font: 12px/1.35 var(--sans);
  text-align: left;
  white-space: normal;
}
</style>
