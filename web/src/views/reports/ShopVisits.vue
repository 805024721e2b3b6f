<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import type { ShopVisitsView } from '@tin-harbor/core/contract'
import { api, isAbort } from '@/api'
import { count, decimal, perCent } from '@/composables/formats'

/** Visits to the advertiser's shops by those who saw the ads, against those who did not. */
export interface ShopVisitsProps {
  campaign: number
  line: number | null
  from: string
  to: string
  /** Market hour: what was counted by then is asked for again. */
  hour: number
}
const props = defineProps<ShopVisitsProps>()
const visits = shallowRef<ShopVisitsView | null>(null)
const error = shallowRef<string | null>(null)
let asking: AbortController | null = null

async function load() {
  asking?.abort()
  const own = (asking = new AbortController())
  try {
    visits.value = (await api.shopVisits(props.campaign, props.line, props.from, props.to, { signal: own.signal })).visits
    error.value = null
  } catch (failure) {
    if (isAbort(failure)) return
    visits.value = null
    error.value = (failure as Error).message
  }
}
watch(() => [props.campaign, props.line, props.from, props.to, props.hour], load, { immediate: true })

const more = (ratio: number) => `${perCent(Math.abs(ratio - 1))} ${ratio >= 1 ? 'more' : 'fewer'}`
</script>

<template>
  <p v-if="error" class="trouble" role="alert">
    Shop visits: {{ error }} <button class="plain" type="button" @click="load">Try again</button>
  </p>
  <p v-else-if="visits" class="ShopVisits" data-test="shop-visits">
    <b>{{ visits.shops.join(', ') }}</b>: of {{ count(visits.panel) }} people nearby who share where they are,
    {{ count(visits.exposed) }} saw an ad.
    <template v-if="visits.ratio">
      In the week after it they came <b>{{ count(visits.exposedVisits) }}</b> times; others of their age would have come
      {{ decimal(visits.expectedVisits) }} times: <b>{{ more(visits.ratio.value) }}</b>{{ ' '
      }}<span class="quiet"
        >(90 % range: {{ more(visits.ratio.low) }} to {{ more(visits.ratio.high)
        }}{{ visits.ratio.low < 1 && visits.ratio.high > 1 ? '; too few to say whether the ads bring them' : '' }})</span
      >
    </template>
    <template v-else>Nothing to compare yet: nobody of them saw an ad on a day that is over.</template>
  </p>
</template>

<style>
.ShopVisits {
  max-width: 980px;
  margin-bottom: 8px;
  font: 13.5px/1.55 var(--serif);
}
</style>
