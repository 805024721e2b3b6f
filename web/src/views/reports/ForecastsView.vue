<script setup lang="ts">
import { useAddress } from '@/composables/use-address'
import ForecastRecord from '@/parts/ForecastRecord.vue'

/** `c12` for a campaign, `l1001` for a line, as in the reports; else all that the user sees. */
const whose = useAddress().part('of')
const number = (letter: string) => (whose.value.startsWith(letter) ? Number(whose.value.slice(1)) : null)
</script>

<template>
  <section class="ForecastsView">
    <h1 class="visually-hidden">Forecasts</h1>
    <p class="quiet"><RouterLink :to="{ name: 'reports', query: whose ? { of: whose } : {} }">Reports</RouterLink></p>
    <ForecastRecord :campaign="number('c')" :line="number('l')" />
  </section>
</template>

<style>
.ForecastsView {
  height: 100%;
  padding: 10px 24px 0;
  overflow: auto;
  background: var(--paper);
}
</style>
