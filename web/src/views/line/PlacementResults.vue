<script setup lang="ts">
import { computed } from 'vue'
import type { PlacementResult, Results } from '@tin-harbor/core/contract'
import { LEAST_FOR_RATE } from '@tin-harbor/core/report'
import { ONE_OF } from '@tin-harbor/core/results'
import { count, cpm, money, perCent, smallMoney } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import { useRowRange } from '@/parts/use-row-range'
import RateRange from '@/parts/RateRange.vue'
import { drawnTo } from '@/parts/rate-scale'
import type { TableColumn } from '@/parts/table-columns'

/**
 * What each placement brought of what the line is judged by, the first with how sure its rate is; each with what one cost. Rows can be
 * pointed at, several in a row with Shift.
 */
export interface PlacementResultsProps {
  results: Results
  /** Rows that are shown, in the order of the answer. */
  rows: readonly PlacementResult[]
  chosen: ReadonlySet<string>
  disabled: boolean
}
const props = defineProps<PlacementResultsProps>()
const emit = defineEmits<{ choose: [placements: readonly string[], isIn: boolean] }>()

const costRange = ({ costRange: range }: PlacementResult['brought'][number]) =>
  range === null ? '' : `90 % range: ${smallMoney(range.low)} to ${range.high === null ? 'any' : smallMoney(range.high)}`
const columns = computed((): TableColumn<PlacementResult>[] => [
  { id: 'tick', label: 'chosen', width: 30, side: 'left', isBare: true },
  { id: 'name', label: 'placement', least: 200, side: 'left', value: (row) => row.property, isHead: true },
  { id: 'size', label: 'size', width: 78, side: 'left', value: (row) => row.size },
  { id: 'impressions', label: 'shown', width: 64, value: (row) => row.impressions, words: (row) => count(row.impressions) },
  ...props.results.events.flatMap((event, n): TableColumn<PlacementResult>[] => [
    {
      id: event,
      label: event,
      width: event === 'conversions' ? 74 : 54,
      value: (row) => row.brought[n].count,
      words: (row) => count(row.brought[n].count)
    },
    ...(n === 0
      ? [
          {
            id: 'rate',
            label: 'of shown',
            title: `${event} of a hundred shown`,
            width: event === 'conversions' ? 74 : 58,
            value: (row: PlacementResult) => row.brought[0].rate,
            words: (row: PlacementResult) => perCent(row.brought[0].rate, event === 'conversions' ? 4 : 2)
          },
          { id: 'range', label: '90 % range; line marked', width: 128, side: 'left' as const }
        ]
      : []),
    {
      id: `cost-${event}`,
      label: `a ${ONE_OF[event]}`,
      title: `what one ${ONE_OF[event]} cost; its 90 % range stands in each row`,
      width: event === 'conversions' ? 80 : 62,
      isLeastFirst: true,
      value: (row) => row.brought[n].costMicros
    }
  ]),
  { id: 'spend', label: 'spend', width: 70, value: (row) => row.spendMicros, words: (row) => money(row.spendMicros) },
  { id: 'cpm', label: 'CPM paid', width: 60, value: (row) => row.cpmMicros, words: (row) => cpm(row.cpmMicros) }
])
const rowClass = (row: PlacementResult) =>
  [
    props.chosen.has(row.placement) ? 'is-chosen' : '',
    row.leftOut ? 'is-left-out' : '',
    row.impressions < LEAST_FOR_RATE ? 'is-faint' : ''
  ].join(' ')
/** Right end of the ranges, of rows with enough shown. */
const most = computed(() => {
  const told = props.rows.filter((row) => row.impressions >= LEAST_FOR_RATE).map((row) => row.brought[0].range.high)
  return drawnTo(props.results.total.brought[0].rate, Math.max(0.0005, ...told))
})
const rangeOf = useRowRange()
function onChoose(row: PlacementResult, inOrder: readonly PlacementResult[], event: MouseEvent) {
  const places = inOrder.map(({ placement }) => placement)
  emit('choose', rangeOf(row.placement, places, event), (event.currentTarget as HTMLInputElement).checked)
}
</script>

<template>
  <DataTable
    class="PlacementResults"
    label="Results by placement"
    :rows="rows"
    :columns="columns"
    :row-key="(row) => row.placement"
    :row-class="rowClass"
    :sort="{ id: 'spend', down: true }"
    none="No placement is like that.">
    <template #cell-tick="{ row, ordered }"
      ><input
        type="checkbox"
        :checked="chosen.has(row.placement)"
        :disabled="disabled"
        :aria-label="`Choose ${row.property}, ${row.position}`"
        @click="onChoose(row, ordered, $event)"
    /></template>
    <template #cell-name="{ row }"
      ><b>{{ row.property }}</b> <span class="quiet">{{ row.position }}</span><em v-if="row.leftOut"> left out</em
      ><em v-else-if="row.ownMicros !== null"> bids {{ cpm(row.ownMicros) }}</em></template
    >
    <template #cell-range="{ row }">
      <span v-if="row.impressions < LEAST_FOR_RATE" class="small">too little shown</span>
      <RateRange v-else :rate="row.brought[0].rate" :range="row.brought[0].range" :mean="results.total.brought[0].rate" :most="most" />
    </template>
    <template v-for="(event, n) in results.events" #[`cell-cost-${event}`]="{ row }" :key="event">
      <span :title="costRange(row.brought[n])">{{
        row.brought[n].costMicros === null ? (row.spendMicros > 0 ? 'none yet' : '') : smallMoney(row.brought[n].costMicros)
      }}</span>
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
