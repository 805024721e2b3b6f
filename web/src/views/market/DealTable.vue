<script setup lang="ts">
import { computed } from 'vue'
import type { DealView, SurveyRowView } from '@tin-harbor/core/contract'
import { about, count, cpm, marketTime, money } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import type { TableColumn } from '@/parts/table-columns'

/** Deals that stand, with the traffic of their placements beside what they ask. */
export interface DealTableProps {
  deals: readonly DealView[]
  /** By the deal's number. */
  traffic: readonly SurveyRowView[]
  mayStart: boolean
}
const props = defineProps<DealTableProps>()
defineEmits<{ start: [deal: DealView] }>()

const trafficOf = computed(() => new Map(props.traffic.map((row) => [row.key, row])))
const untilWords = ({ untilHour, isExpired }: DealView) =>
  untilHour === null ? 'stands' : isExpired ? `ended ${marketTime(untilHour)}` : marketTime(untilHour)

const columns = computed((): TableColumn<DealView>[] => {
  const ofTraffic = (pick: (row: SurveyRowView) => number, words: (value: number) => string) => {
    const value = ({ id }: DealView) => {
      const row = trafficOf.value.get(id)
      return row ? pick(row) : null
    }
    return { value, words: (deal: DealView) => (value(deal) === null ? '' : words(value(deal) ?? 0)) }
  }
  return [
    {
      id: 'deal',
      label: 'deal',
      least: 220,
      side: 'left',
      value: (deal) => deal.id,
      words: (deal) => `${deal.id} ${deal.name}`,
      isHead: true
    },
    { id: 'kind', label: 'kind', width: 76, side: 'left', value: (deal) => (deal.kind === 'fixed' ? 'fixed price' : 'floor') },
    {
      id: 'price',
      label: 'price',
      width: 62,
      isLeastFirst: true,
      value: (deal) => deal.priceMicros,
      words: (deal) => cpm(deal.priceMicros)
    },
    { id: 'placements', label: 'placements', width: 82, value: (deal) => deal.placements, words: (deal) => count(deal.placements) },
    { id: 'day', label: 'a day there', width: 82, ...ofTraffic((row) => row.opportunitiesADay, about) },
    { id: 'half', label: 'open market, half', width: 112, isLeastFirst: true, ...ofTraffic((row) => row.halfMicros, cpm) },
    {
      id: 'most',
      label: 'most a day',
      width: 82,
      value: (deal) => deal.volume,
      words: ({ volume }) => (volume === null ? 'any' : count(volume))
    },
    {
      id: 'least',
      label: 'least spend',
      width: 82,
      value: (deal) => deal.leastSpendMicros,
      words: ({ leastSpendMicros }) => (leastSpendMicros === null ? '' : money(leastSpendMicros))
    },
    { id: 'until', label: 'until', width: 148, side: 'left', value: (deal) => deal.untilHour, words: untilWords },
    { id: 'used', label: 'bought by', width: 190, side: 'left' },
    ...(props.mayStart ? [{ id: 'start', label: 'start a line on it', width: 84, side: 'left' as const, isBare: true }] : [])
  ]
})
</script>

<template>
  <DataTable
    class="DealTable"
    :rows="deals"
    :columns="columns"
    :row-key="(deal) => deal.id"
    :row-class="(deal) => (deal.isExpired ? 'is-expired' : '')"
    :sort="{ id: 'deal', down: false }"
    label="Deals"
    none="No deal yet: ask a publisher for one."
    data-test="deals">
    <template #cell-start="{ row }"
      ><button v-if="!row.isExpired" class="plain" type="button" :aria-label="`Start a line on ${row.name}`" @click="$emit('start', row)">
        start a line
      </button></template
    >
    <template #cell-used="{ row }">
      <template v-for="(use, n) in row.usedBy" :key="use.line"
        ><template v-if="n > 0">, </template
        ><RouterLink :to="{ name: 'line', params: { lineId: use.line } }">{{ use.name }}</RouterLink></template
      >
    </template>
  </DataTable>
</template>

<style>
.DealTable {
  max-height: 34vh;
}

.DealTable tbody th {
  font-weight: 600;
}

.DealTable .is-expired {
  color: var(--ink-2);
}
</style>
