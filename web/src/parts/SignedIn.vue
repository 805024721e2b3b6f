<script setup lang="ts">
import { defineAsyncComponent, onMounted, ref } from 'vue'
import FindBox from './FindBox.vue'
import TopBand from './TopBand.vue'
import { offerCommands } from '@/composables/commands'
import { useEvents } from '@/composables/use-events'
import { useMarketTick } from '@/composables/use-market-tick'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'

/** Loaded when it is wanted: most pages never open it. */
const SlipDrawer = defineAsyncComponent(() => import('./SlipDrawer.vue'))
const isSlipOpen = ref(false)
const market = useMarket()
const manifest = useManifest()
const session = useSession()
useEvents((event) => {
  market.onEvent(event)
  if (event.kind === 'possible') void manifest.onPossible(event.since)
})

offerCommands(() => (session.may('draft') ? [{ name: 'Open the change slip', does: () => (isSlipOpen.value = true) }] : []))
onMounted(() => {
  void market.load()
  void manifest.load()
})
// Strips fill as lines deliver; at first they are read beside the clock.
useMarketTick((wasKnown) => (wasKnown ? manifest.load() : undefined))
</script>

<template>
  <div class="SignedIn">
    <TopBand @slip="isSlipOpen = true" />
    <p v-if="market.databaseAway" class="SignedIn-away" role="alert" data-test="database-away">
      The database is away. Nothing can be read or saved until it is back, which is told here; the market stands at its last whole hour and
      goes on by itself. What you type stays on the page.
    </p>
    <main class="SignedIn-main"><RouterView /></main>
    <SlipDrawer v-if="isSlipOpen" @close="isSlipOpen = false" />
    <FindBox />
  </div>
</template>

<style>
.SignedIn {
  display: grid;
  grid-template-rows: auto auto 1fr;
  height: 100vh;
}

.SignedIn-away {
  margin: 0;
  padding: 7px 16px;
  background: var(--brass-wash);
  color: var(--ink);
}

.SignedIn-main {
  grid-row: 3;
  min-height: 0;
  overflow: auto;
  position: relative;
}

/* All of a page, and not what of it is in sight. */
@media print {
  .SignedIn {
    display: block;
    height: auto;
  }

  .SignedIn-main {
    overflow: visible;
  }

  .TopBand {
    display: none;
  }
}
</style>
