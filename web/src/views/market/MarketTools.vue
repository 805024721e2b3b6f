<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { onClickOutside } from '@vueuse/core'
import MoneyField from '@/parts/MoneyField.vue'
import { MARKET_COLUMNS, isOfOffer, type MarketRow } from './columns'
import { downloadRows } from './download'
import { ROWS, type MarketAddress } from './use-market-address'

/** What the rows are, which of them, at which bid, for which offer, in which columns; and as a file. */
export interface MarketToolsProps {
  market: MarketAddress
  rows: readonly MarketRow[]
}
const props = defineProps<MarketToolsProps>()
const menu = useTemplateRef('menu')
function closeMenu() {
  if (!menu.value?.open) return
  menu.value.open = false
  menu.value.querySelector('summary')?.focus()
}
onClickOutside(menu, () => menu.value && (menu.value.open = false))
// Its refs are taken out here: in a template only those of the top are unwrapped.
const { by, setBy, named, bidMicros, setBid, offers, offerId, columns, flipColumn } = props.market
</script>

<template>
  <div class="MarketTools">
    <label
      >Rows
      <select :value="by" data-test="rows" @change="setBy(($event.target as HTMLSelectElement).value)">
        <option v-for="row in ROWS" :key="row.by" :value="row.by">{{ row.words }}</option>
      </select></label
    >
    <label>named <input v-model="named" type="search" class="MarketTools-named" data-test="named" aria-label="Named" /></label>
    <label class="MarketTools-bid"
      >won at
      <MoneyField
        id="market-bid"
        :model-value="bidMicros"
        unit="CPM"
        label="Bid whose win rate is shown"
        @update:model-value="(micros) => setBid(micros)"
    /></label>
    <label v-if="offers.length > 0"
      >for the offer
      <select v-model="offerId" data-test="offer">
        <option value="">none</option>
        <option v-for="one in offers" :key="one.id" :value="String(one.id)">{{ one.advertiser }}: {{ one.name }}</option>
      </select></label
    >
    <details ref="menu" class="MarketTools-columns" @keydown.esc.stop="closeMenu">
      <summary>columns</summary>
      <div>
        <label v-for="column in MARKET_COLUMNS.filter((one) => !isOfOffer(one))" :key="column.id"
          ><input type="checkbox" :checked="columns.includes(column)" @change="flipColumn(column.id)" /> {{ column.label }}</label
        >
      </div>
    </details>
    <button
      v-for="kind in ['csv', 'xlsx'] as const"
      :key="kind"
      class="plain"
      type="button"
      :disabled="rows.length === 0"
      @click="downloadRows(kind, by, columns, rows)">
      {{ kind.toUpperCase() }}
    </button>
  </div>
</template>

<style>
.MarketTools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  padding-top: 8px;
  font-size: 12.5px;
}

.MarketTools select {
  max-width: 150px;
}

.MarketTools-named {
  width: 120px;
}

.MarketTools-bid .el-input {
  width: 78px;
}

.MarketTools-columns {
  position: relative;
}

.MarketTools-columns summary {
  color: var(--water-2);
  text-decoration: underline;
  cursor: pointer;
  list-style: none;
}

.MarketTools-columns > div {
  position: absolute;
  z-index: 15;
  right: 0;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 14px;
  width: 270px;
  padding: 8px 12px;
  border: 1px solid var(--ink);
  background: var(--paper);
}
</style>
