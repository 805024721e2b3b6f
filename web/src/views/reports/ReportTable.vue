<script setup lang="ts">
import { computed } from 'vue'
import type { ReportRowView, ReportView } from '@tin-harbor/core/contract'
import { LEAST_FOR_RATE } from '@tin-harbor/core/report'
import { money } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import RateRange from '@/parts/RateRange.vue'
import { drawnTo } from '@/parts/rate-scale'
import type { TableColumn } from '@/parts/table-columns'
import { REPORT_COLUMNS } from './report-columns'

/** A report's rows; those that say too little about rates are faint. */
export interface ReportTableProps {
  report: ReportView
  isWaiting: boolean
}
const props = defineProps<ReportTableProps>()

const columns = computed((): TableColumn<ReportRowView>[] => [
  { id: 'name', label: props.report.by, least: 190, side: 'left', value: (row) => row.label, isHead: true },
  // Without a margin it is our cost once more.
  ...REPORT_COLUMNS.filter(({ id }) => id !== 'chargedMicros' || props.report.total.chargedMicros !== props.report.total.spendMicros)
])
/** Right end of the ranges. */
const most = computed(() => {
  const { rows, total } = props.report
  const told = rows.filter((row) => row.wins >= LEAST_FOR_RATE).map((row) => row.clickRange.high)
  return drawnTo(total.clickRate, Math.max(0.0001, ...told))
})
const costWords = ({ costRange }: ReportRowView) =>
  costRange ? `90 % range: ${money(costRange.low)} to ${costRange.high === null ? 'any' : money(costRange.high)}` : ''
</script>

<template>
  <DataTable
    class="ReportTable"
    :rows="report.rows"
    :columns="columns"
    :row-key="(row) => row.key"
    :row-class="(row) => (row.wins < LEAST_FOR_RATE ? 'is-faint' : '')"
    :sort="{ id: 'spendMicros', down: true }"
    :subject="report.by"
    :is-waiting="isWaiting"
    :label="`Results by ${report.by}`"
    none="Nothing was shown in these days.">
    <template #cell-name="{ row }"
      ><b :title="row.label">{{ row.label }}</b></template
    >
    <template #cell-range="{ row }">
      <span v-if="row.wins < LEAST_FOR_RATE" class="small quiet">too little shown</span>
      <RateRange v-else :rate="row.clickRate" :range="row.clickRange" :mean="report.total.clickRate" :most="most" />
    </template>
    <template #cell-cost="{ row }"
      ><span :title="costWords(row)" :class="{ quiet: row.costMicros === null }">{{
        REPORT_COLUMNS.find(({ id }) => id === 'cost')?.words?.(row)
      }}</span></template
    >
  </DataTable>
</template>

<style>
.ReportTable {
  flex: 1;
}

.ReportTable tbody b {
  font-weight: 600;
}

.ReportTable .is-faint b {
  color: var(--ink-2);
  font-weight: 500;
}
</style>
