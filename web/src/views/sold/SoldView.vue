<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { OfferPage, TrackerView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import OfferEntry from './OfferEntry.vue'
import OfferForm from './OfferForm.vue'
import TrackerEntry from './TrackerEntry.vue'
import TrackerForm from './TrackerForm.vue'

/** What an advertiser sells: its offers, and the trackers that count what comes of them. */
const route = useRoute()
const manifest = useManifest()
const session = useSession()
const id = computed(() => Number(route.params.advertiserId))
const advertiser = computed(() => manifest.advertiserOf(id.value))
const mayEdit = computed(() => session.may('live'))

const offers = shallowRef<OfferPage[] | null>(null)
const trackers = shallowRef<TrackerView[] | null>(null)
const error = ref<string | null>(null)
const making = ref<'offer' | 'tracker' | null>(null)
async function load() {
  error.value = null
  const asked = id.value
  try {
    const found = await Promise.all([api.offersOf(asked), api.trackersOf(asked)])
    if (asked === id.value) [offers.value, trackers.value] = found
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
watch(
  id,
  () => {
    offers.value = trackers.value = null
    making.value = null
    void load()
  },
  { immediate: true }
)
function onOffers(saved: OfferPage[]) {
  offers.value = saved
  making.value = null
}
function onTrackers(saved: TrackerView[]) {
  trackers.value = saved
  making.value = null
}
</script>

<template>
  <div class="SoldView">
    <h1>What {{ advertiser?.name ?? 'the advertiser' }} sells</h1>
    <StateNote v-if="error || !offers || !trackers" :error="error" reads="Reading the offers" @retry="load" />
    <template v-else>
      <section aria-labelledby="offers-head">
        <h2 id="offers-head" class="ruled">Offers</h2>
        <p v-if="offers.length === 0" class="quiet">
          None yet. An offer says where people land, what each event pays, and what is paid for.
        </p>
        <OfferEntry v-for="offer in offers" :key="offer.id" :offer="offer" :may-edit="mayEdit" @saved="onOffers" />
        <OfferForm v-if="making === 'offer'" :advertiser="id" @saved="onOffers" @leave="making = null" />
        <button v-else-if="mayEdit" class="plain" type="button" data-test="new-offer" @click="making = 'offer'">Another offer</button>
      </section>
      <section aria-labelledby="trackers-head">
        <h2 id="trackers-head" class="ruled">Trackers</h2>
        <p v-if="trackers.length === 0" class="quiet">
          None yet. A tracker counts an event, such as a purchase, that pages or a server tell.
        </p>
        <TrackerEntry v-for="tracker in trackers" :key="tracker.id" :tracker="tracker" :may-edit="mayEdit" @saved="onTrackers" />
        <TrackerForm v-if="making === 'tracker'" :advertiser="id" @saved="onTrackers" @leave="making = null" />
        <button v-else-if="mayEdit" class="plain" type="button" data-test="new-tracker" @click="making = 'tracker'">Another tracker</button>
      </section>
    </template>
  </div>
</template>

<style>
.SoldView {
  max-width: 900px;
  padding: 16px 24px 40px;
}

.SoldView h1 {
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
  font: 550 20px var(--serif);
}

.SoldView-entry {
  padding: 8px 0 10px;
  border-bottom: 1px solid var(--rule);
}

.SoldView-entry h3 {
  font: 600 14px var(--serif);
}

.SoldView-prose {
  max-width: 78ch;
  font: 14px/1.5 var(--serif);
}

.SoldView-acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-top: 4px;
}

.SoldView-form {
  margin: 8px 0;
  padding: 8px 12px;
  border-left: 3px solid var(--brass);
  background: var(--field);
}
</style>
