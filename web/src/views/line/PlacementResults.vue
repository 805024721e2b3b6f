<script setup lang="ts">
import { computed } from 'vue'
import type { PlacementResult, Results } from '@tin-harbor/core/contract'
import { LEAST_FOR_RATE } from '@tin-harbor/core/report'
import { count, cpm, money, perCent } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import RateRange from '@/parts/RateRange.vue'
import type { TableColumn } from '@/parts/table-columns'

/** What each placement brought, with how sure its click rate is; rows can be pointed at. */
export interface PlacementResultsProps {
  results: Results
  chosen: ReadonlySet<string>
  disabled: boolean
}
const props = defineProps<PlacementResultsProps>()
defineEmits<{ choose: [placement: string] }>()

const COLUMNS: readonly TableColumn<PlacementResult>[] = [
  { id: 'tick', label: 'chosen', width: 30, side: 'left', isBare: true },
  { id: 'name', label: 'placement', least: 230, side: 'left', value: (row) => row.property, isHead: true },
  { id: 'size', label: 'size', width: 96, side: 'left', value: (row) => row.size },
  { id: 'impressions', label: 'impressions', width: 90, value: (row) => row.impressions, words: (row) => count(row.impressions) },
  { id: 'clicks', label: 'clicks', width: 72, value: (row) => row.clicks, words: (row) => count(row.clicks) },
  { id: 'rate', label: 'click rate', width: 80, value: (row) => row.clickRate, words: (row) => perCent(row.clickRate, 2) },
  { id: 'range', label: '90 % range; line marked', width: 176, side: 'left' },
  { id: 'spend', label: 'spend', width: 82, value: (row) => row.spendMicros, words: (row) => money(row.spendMicros) },
  { id: 'cpm', label: 'CPM paid', width: 78, value: (row) => row.cpmMicros, words: (row) => cpm(row.cpmMicros) }
]
const rowClass = (row: PlacementResult) =>
  [
    props.chosen.has(row.placement) ? 'is-chosen' : '',
    row.leftOut ? 'is-left-out' : '',
    row.impressions < LEAST_FOR_RATE ? 'is-faint' : ''
  ].join(' ')
/** The widest range of rows with enough shown, so that small rows do not squeeze the others. */
const most = computed(() =>
  Math.max(0.001, ...props.results.rows.filter((row) => row.impressions >= LEAST_FOR_RATE).map((row) => row.clickRange.high))
)
</script>

<template>
  <DataTable
    class="PlacementResults"
    label="Results by placement"
    :rows="results.rows"
    :columns="COLUMNS"
    :row-key="(row) => row.placement"
    :row-class="rowClass"
    :sort="{ id: 'spend', down: true }">
    <template #cell-tick="{ row }"
      ><input
        type="checkbox"
        :checked="chosen.has(row.placement)"
        :disabled="disabled"
        :aria-label="`Choose ${row.property}, ${row.position}`"
        @change="$emit('choose', row.placement)"
    /></template>
    <template #cell-name="{ row }"
      ><b>{{ row.property }}</b> <span class="quiet">{{ row.position }}</span><em v-if="row.leftOut"> left out</em></template
    >
    <template #cell-range="{ row }">
      <span v-if="row.impressions < LEAST_FOR_RATE" class="small">too little shown</span>
      <RateRange v-else :rate="row.clickRate" :range="row.clickRange" :mean="results.total.clickRate" :most="most" />
    </template>
  </DataTable>
</template>

<style>
.PlacementResults {
  max-height: 70vh;
}

.PlacementResults .is-faint {
  color: var(--ink-2);
}

.PlacementResults tbody b {
  font-weight: 600;
}

.PlacementResults .is-left-out b {
  text-decoration: line-through;
  text-decoration-color: var(--brass-text);
}

.PlacementResults em {
  color: var(--brass-text);
  font-size: 11.5px;
}
</style>
