<script setup lang="ts">
import { computed } from 'vue'
import type { OfferedDealView, SurveyRowView } from '@tin-harbor/core/contract'
import { FORMATS } from '@tin-harbor/core/taxonomy'
import { useAddress } from '@/composables/use-address'
import { about, count, cpm, money } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import MoneyField from '@/parts/MoneyField.vue'
import type { TableColumn } from '@/parts/table-columns'

/** What publishers offer to everybody: searched, with the traffic of each and what the open market asks there; and taken. */
export interface OfferedDealsProps {
  offers: readonly OfferedDealView[]
  /** By what the offer is called. */
  traffic: readonly SurveyRowView[]
  mayTake: boolean
}
const props = defineProps<OfferedDealsProps>()
defineEmits<{ take: [offer: OfferedDealView] }>()

const address = useAddress()
const named = address.part('offered')
const format = address.part('format')
const kind = address.part('kind')
const mostPart = address.part('most')
const most = computed({
  get: () => (/^\d{1,12}$/.test(mostPart.value) ? Number(mostPart.value) : null),
  set: (micros: number | null) => (mostPart.value = micros === null ? '' : String(micros))
})

const rows = computed(() => {
  const words = named.value.toLowerCase().split(/\s+/).filter(Boolean)
  return props.offers.filter((offer) => {
    const text = `${offer.code} ${offer.name} ${offer.properties.join(' ')}`.toLowerCase()
    return (
      words.every((word) => text.includes(word)) &&
      (format.value === '' || offer.format === format.value) &&
      (kind.value === '' || offer.kind === kind.value) &&
      (most.value === null || offer.priceMicros <= most.value)
    )
  })
})
const trafficOf = computed(() => new Map(props.traffic.map((row) => [row.code, row])))

const columns = computed((): TableColumn<OfferedDealView>[] => {
  const ofTraffic = (pick: (row: SurveyRowView) => number, words: (value: number) => string) => {
    const value = ({ code }: OfferedDealView) => {
      const row = trafficOf.value.get(code)
      return row ? pick(row) : null
    }
    return { value, words: (offer: OfferedDealView) => (value(offer) === null ? '' : words(value(offer) ?? 0)) }
  }
  return [
    { id: 'offer', label: 'offer', least: 250, side: 'left', value: (offer) => offer.name, isHead: true },
    { id: 'kind', label: 'kind', width: 76, side: 'left', value: (offer) => (offer.kind === 'fixed' ? 'fixed price' : 'floor') },
    {
      id: 'price',
      label: 'price, CPM',
      width: 74,
      isLeastFirst: true,
      value: (offer) => offer.priceMicros,
      words: (offer) => cpm(offer.priceMicros)
    },
    { id: 'half', label: 'open market, half', width: 112, isLeastFirst: true, ...ofTraffic((row) => row.halfMicros, cpm) },
    { id: 'day', label: 'a day there', width: 82, ...ofTraffic((row) => row.opportunitiesADay, about) },
    { id: 'placements', label: 'placements', width: 82, value: (offer) => offer.placements, words: (offer) => count(offer.placements) },
    {
      id: 'most',
      label: 'most a day',
      width: 82,
      value: (offer) => offer.volume,
      words: ({ volume }) => (volume === null ? 'any' : count(volume))
    },
    {
      id: 'least',
      label: 'least spend',
      width: 82,
      value: (offer) => offer.leastSpendMicros,
      words: ({ leastSpendMicros }) => (leastSpendMicros === null ? '' : money(leastSpendMicros))
    },
    { id: 'days', label: 'stands', width: 64, value: (offer) => offer.days, words: (offer) => `${offer.days} days` },
    { id: 'take', label: 'take it', width: 80, side: 'left', isBare: true }
  ]
})
</script>

<template>
  <section class="OfferedDeals" aria-label="Offered">
    <div class="OfferedDeals-tools">
      <h2>Offered</h2>
      <label>named <input v-model="named" type="search" data-test="offers-named" placeholder="publisher, property, size" /></label>
      <label
        >format
        <select v-model="format" data-test="offers-format">
          <option value="">any</option>
          <option v-for="one in FORMATS.filter((name) => offers.some((offer) => offer.format === name))" :key="one" :value="one">
            {{ one }}
          </option>
        </select></label
      >
      <label
        >kind
        <select v-model="kind">
          <option value="">any</option>
          <option value="fixed">fixed price</option>
          <option value="floor">floor</option>
        </select></label
      >
      <label>at most <MoneyField id="offers-most" v-model="most" unit="CPM" label="Dearest price" /></label>
      <span class="quiet" data-test="offers-count">{{
        rows.length === offers.length ? count(offers.length) : `${count(rows.length)} of ${count(offers.length)}`
      }}</span>
    </div>
    <DataTable
      class="OfferedDeals-table"
      :rows="rows"
      :columns="columns"
      :row-key="(offer) => offer.code"
      :row-class="(offer) => (offer.dealId === null ? '' : 'is-taken')"
      :sort="{ id: 'day', down: true }"
      label="Offered deals"
      none="No offer is like that. Ask the publisher for a deal below."
      data-test="offers">
      <template #cell-offer="{ row }"
        ><span :title="`${row.code}: ${row.properties.join(', ')}`"
          ><b>{{ row.name }}</b> <span class="quiet small">{{ row.properties.slice(0, 3).join(', ') }}</span></span
        ></template
      >
      <template #cell-take="{ row }"
        ><span v-if="row.dealId !== null" class="quiet">deal {{ row.dealId }}</span
        ><button v-else-if="mayTake" class="plain" type="button" :aria-label="`Take ${row.name}`" @click="$emit('take', row)">
          take it
        </button></template
      >
    </DataTable>
  </section>
</template>

<style>
.OfferedDeals {
  margin-top: 14px;
}

.OfferedDeals-tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  padding: 3px 0;
  border-bottom: 1px solid var(--rule);
  font-size: 12.5px;
}

.OfferedDeals-tools h2 {
  font: 600 14px var(--serif);
}

.OfferedDeals-tools .MoneyField .el-input {
  width: 84px;
}

.OfferedDeals-table {
  height: 290px;
}

.OfferedDeals-table tbody b {
  font-weight: 600;
}

.OfferedDeals-table .is-taken {
  color: var(--ink-2);
}
</style>
