<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { EVERYTHING } from '@tin-harbor/core/buying'
import type { DealsView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useMarketTick } from '@/composables/use-market-tick'
import { useSurvey } from '@/composables/use-survey'
import { useSession } from '@/stores/session'
import AskDeal from './AskDeal.vue'
import DealAsks from './DealAsks.vue'
import DealTable from './DealTable.vue'
import MarketTabs from './MarketTabs.vue'

const session = useSession()
const all = shallowRef<DealsView | null>(null)
const error = ref<string | null>(null)
const { survey, error: surveyError, ask: askTraffic } = useSurvey('deals')
const trafficBy = (by: 'deal' | 'publisher') => survey.value?.groups.find((group) => group.by === by)?.rows ?? []

async function load() {
  try {
    all.value = await api.deals()
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
    <p v-if="error" class="trouble" role="alert">{{ error }} <button class="plain" type="button" @click="load">Try again</button></p>
    <p v-if="surveyError" class="trouble" role="alert">The traffic of deals is not known: {{ surveyError }}</p>
    <p v-if="!all && !error" class="quiet">Reading the deals …</p>
    <template v-if="all">
      <DealTable :deals="all.deals" :traffic="trafficBy('deal')" />
      <div class="DealsView-columns">
        <AskDeal v-if="session.may('draft')" :publishers="all.publishers" :traffic="trafficBy('publisher')" @asked="load" />
        <DealAsks :asks="all.asks" :may-take="session.may('draft')" @take="onTake" />
      </div>
    </template>
  </section>
</template>

<style>
.DealsView-columns {
  display: grid;
  grid-template-columns: 430px 1fr;
  gap: 34px;
}
</style>
