<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { pixelsOf } from '@tin-harbor/core/creative'
import type { LinePreview } from '@tin-harbor/core/contract'
import AdSight from './AdSight.vue'
import SurroundingsOf from './SurroundingsOf.vue'
import { adsFor, placesOf } from './sights'

/** The ads of a line one after the other, in each place where its slots are met; arrow keys go through all of them. */
export interface InPlaceStageProps {
  preview: LinePreview
  addressOf: (sha256: string, playable: boolean) => string
  /** Where an ad is had as VAST, for other players. */
  vastOf: (ad: number) => string
}
const props = defineProps<InPlaceStageProps>()

const places = computed(() => placesOf(props.preview))
const current = ref(0)
const nth = ref(0)
const place = computed(() => places.value[Math.min(current.value, places.value.length - 1)])
const ads = computed(() => (place.value ? adsFor(props.preview.ads, place.value.shape) : []))
const ad = computed(() => ads.value[Math.min(nth.value, ads.value.length - 1)])
watch(ads, (now, was) => {
  // The ad that was seen stays, where it fits the next slot too.
  const seen = was[Math.min(nth.value, was.length - 1)]
  nth.value = Math.max(
    0,
    now.findIndex(({ id }) => id === seen?.id)
  )
})
const pixels = computed(() => (place.value ? pixelsOf(place.value.shape) : null))
const turn = (value: number, by: number, length: number) => (value + by + length) % Math.max(1, length)
function onKey(event: KeyboardEvent) {
  const steps: Readonly<Record<string, () => void>> = {
    ArrowLeft: () => (current.value = turn(current.value, -1, places.value.length)),
    ArrowRight: () => (current.value = turn(current.value, 1, places.value.length)),
    ArrowUp: () => (nth.value = turn(nth.value, -1, ads.value.length)),
    ArrowDown: () => (nth.value = turn(nth.value, 1, ads.value.length))
  }
  const step = steps[event.key]
  if (!step || (event.target as HTMLElement).matches('input, select, textarea')) return
  event.preventDefault()
  step()
}
</script>

<template>
  <section class="InPlaceStage" tabindex="0" aria-label="Ads in their places; arrow keys go through them" @keydown="onKey">
    <p v-if="!place || !ad" class="quiet InPlaceStage-none">There is no ad to see yet.</p>
    <template v-else>
      <nav aria-label="Places">
        <button
          v-for="(one, n) in places"
          :key="one.shape + one.surrounding"
          class="plain"
          type="button"
          :aria-pressed="n === current"
          @click="current = n">
          {{ one.shape }}<small> in {{ /^[aeiou]/.test(one.surrounding) ? 'an' : 'a' }} {{ one.surrounding }}</small>
        </button>
      </nav>
      <p class="InPlaceStage-said" role="status" data-test="in-place">
        <span
          ><b>{{ ad.name }}</b
          >{{ ad.isOff ? ', off' : '' }}; {{ place.shape
          }}<template v-if="pixels"> at {{ pixels.width }} by {{ pixels.height }} pixels</template>, {{ ads.indexOf(ad) + 1 }} of
          {{ ads.length }}.</span
        >
        <span class="quiet">← → places, ↑ ↓ ads.</span>
        <button class="plain" type="button" @click="nth = turn(nth, -1, ads.length)">One before</button>
        <button class="plain" type="button" @click="nth = turn(nth, 1, ads.length)">Next</button>
        <a
          v-if="ad.landing !== '' || ad.kind === 'pop page' || ad.kind === 'redirect'"
          :href="ad.click"
          target="_blank"
          rel="noopener"
          data-test="follow-click"
          >follow a click</a
        >
        <a v-if="ad.kind === 'video' || ad.kind === 'audio'" :href="vastOf(ad.id)" data-test="as-vast">as VAST</a>
      </p>
      <div class="InPlaceStage-scene" tabindex="0" role="group" :aria-label="`${ad.name} in place`">
        <SurroundingsOf :of="place.surrounding" :shape="place.shape">
          <AdSight :key="`${ad.id} ${place.shape}`" :ad="ad" :shape="place.shape" :address-of="addressOf" />
        </SurroundingsOf>
      </div>
    </template>
  </section>
</template>

<style>
.InPlaceStage {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
  padding-top: 6px;
}

.InPlaceStage nav {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 16px;
}

.InPlaceStage nav [aria-pressed='true'] {
  color: var(--brass-text);
  text-decoration-color: var(--brass);
}

.InPlaceStage-said {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
  padding: 6px 0;
}

.InPlaceStage-scene {
  flex: 1;
  min-height: 0;
  padding: 14px;
  overflow: auto;
  background: var(--tin);
}

.InPlaceStage-none {
  padding: 20px 0;
}
</style>
