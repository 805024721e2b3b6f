<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { LinePreview } from '@tin-harbor/core/contract'
import { api } from '@/api'
import InPlaceStage from './InPlaceStage.vue'

/** The ads of a line as somebody sees them who was given a link: nobody is signed in here. */
const route = useRoute()
const link = computed(() => String(route.params.link))
const preview = shallowRef<LinePreview | null>(null)
const error = ref<string | null>(null)
watch(
  link,
  async (one) => {
    try {
      preview.value = await api.shown(one)
      error.value = null
    } catch (failure) {
      error.value = (failure as Error).message
    }
  },
  { immediate: true }
)
const addressOf = (sha256: string, playable: boolean) => api.shownContentUrl(link.value, sha256, playable)
</script>

<template>
  <main class="ShownView">
    <h1>{{ preview ? `Ads of ${preview.advertiser}` : 'Ads' }}</h1>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    <p v-else-if="!preview" class="quiet" role="status">Reading the ads …</p>
    <InPlaceStage v-else :preview="preview" :address-of="addressOf" :vast-of="(ad) => api.shownVastUrl(link, ad)" />
  </main>
</template>

<style>
.ShownView {
  display: flex;
  flex-direction: column;
  height: 100vh;
  padding: 14px 20px;
  background: var(--paper);
}

.ShownView h1 {
  font: 600 21px/1.2 var(--serif);
}
</style>
