<script setup lang="ts">
import { useRoute } from 'vue-router'
import ManifestList from './ManifestList.vue'

const here = useRoute()
</script>

<template>
  <div class="CampaignsView" :class="{ 'is-start': here.name === 'campaigns' }">
    <ManifestList />
    <div class="CampaignsView-page">
      <RouterView v-slot="{ Component, route }"
        ><component
          :is="Component"
          :key="String(route.params.lineId ?? route.params.campaignId ?? route.params.advertiserId ?? route.name) + String(route.name)"
      /></RouterView>
    </div>
  </div>
</template>

<style>
.CampaignsView {
  display: grid;
  grid-template-columns: 226px 1fr;
  height: 100%;
}

.CampaignsView-page {
  min-width: 0;
  overflow: auto;
  position: relative;
  background: var(--paper);
}
</style>
