<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { useAddress } from '@/composables/use-address'
import { EVERYTHING } from '@tin-harbor/core/buying'
import type { DealView, DealsView, OfferedDealView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useMarketTick } from '@/composables/use-market-tick'
import { useSurvey } from '@/composables/use-survey'
import StateNote from '@/parts/StateNote.vue'
import { useSession } from '@/stores/session'
import AskDeal from './AskDeal.vue'
import DealAsks from './DealAsks.vue'
import DealTable from './DealTable.vue'
import MarketTabs from './MarketTabs.vue'
import OfferedDeals from './OfferedDeals.vue'
import StartLine from './StartLine.vue'

const session = useSession()
const all = shallowRef<DealsView | null>(null)
const offers = shallowRef<OfferedDealView[]>([])
const starting = shallowRef<DealView | null>(null)
const said = ref<string | null>(null)
const error = ref<string | null>(null)
const first = useAddress().part('ask')
const { survey, error: surveyError, ask: askTraffic } = useSurvey('deals')
const trafficBy = (by: 'deal' | 'publisher') => survey.value?.groups.find((group) => group.by === by)?.rows ?? []

async function load() {
  try {
    ;[all.value, { offers: offers.value }] = await Promise.all([api.deals(), api.offeredDeals()])
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
onMounted(() => {
  void load()
  void askTraffic({ sentence: EVERYTHING, by: ['deal', 'publisher'], without: null, bidMicros: 1_000_000 })
})
useMarketTick(load)

async function onTakeOffer({ code, name }: OfferedDealView) {
  try {
    const { id } = await api.takeOffer(code)
    await load()
    said.value = `“${name}” is deal ${id} now.`
  } catch (failure) {
    error.value = (failure as Error).message
  }
}

async function onTake(ask: number) {
  try {
    await api.takeDeal(ask)
    await load()
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
</script>

<template>
  <section class="DealsView">
    <header>
      <h1>Deals</h1>
      <MarketTabs />
    </header>
    <StateNote v-if="error || !all" :error="error" reads="Reading the deals" @retry="load" />
    <p v-if="surveyError" class="trouble" role="alert">The traffic of deals is not known: {{ surveyError }}</p>
    <template v-if="all">
      <DealTable :deals="all.deals" :traffic="trafficBy('deal')" :may-start="session.may('draft')" @start="(deal) => (starting = deal)" />
      <p v-if="said" class="DealsView-said" role="status">{{ said }}</p>
      <OfferedDeals :offers="offers" :traffic="trafficBy('deal')" :may-take="session.may('draft')" @take="onTakeOffer" />
      <div class="DealsView-columns">
        <AskDeal v-if="session.may('draft')" :publishers="all.publishers" :traffic="trafficBy('publisher')" :first="first" @asked="load" />
        <DealAsks :asks="all.asks" :may-take="session.may('draft')" @take="onTake" />
      </div>
    </template>
    <StartLine
      v-if="starting"
      :sentence="{ ...EVERYTHING, formats: [starting.format] }"
      :deals="[starting.id]"
      :price-micros="starting.priceMicros"
      @close="starting = null" />
  </section>
</template>

<style>
.DealsView-said {
  margin: 6px 0;
  font: 13.5px/1.5 var(--serif);
}

.DealsView-columns {
  display: grid;
  grid-template-columns: 430px 1fr;
  gap: 34px;
}
</style>
