<script setup lang="ts">
import { onMounted } from 'vue'
import TopBand from './TopBand.vue'
import { useEvents } from '@/composables/use-events'
import { useMarketTick } from '@/composables/use-market-tick'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'

const market = useMarket()
const manifest = useManifest()
useEvents(market.onEvent)

onMounted(() => {
  void market.load()
  void manifest.load()
})
// Strips fill as lines deliver.
useMarketTick(manifest.load)
</script>

<template>
  <div class="SignedIn">
    <TopBand />
    <main class="SignedIn-main"><RouterView /></main>
  </div>
</template>

<style>
.SignedIn {
  display: grid;
  grid-template-rows: auto 1fr;
  height: 100vh;
}

.SignedIn-main {
  min-height: 0;
  overflow: auto;
  position: relative;
}
</style>
