<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import type { AdPreview, HitView, ToldView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { money } from '@/composables/formats'

/** What was told of the ads of a line in previews, by players and by clicks: a showing a row. */
export interface HitsToldProps {
  line: number
  ads: readonly AdPreview[]
}
const props = defineProps<HitsToldProps>()

const hits = shallowRef<HitView[] | null>(null)
const told = shallowRef<ToldView[]>([])
const error = ref<string | null>(null)
async function onRead() {
  try {
    ;[hits.value, told.value] = await Promise.all([api.lineHits(props.line), api.lineTold(props.line)])
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
const clock = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', second: '2-digit' })
const nameOf = (ad: number) => props.ads.find(({ id }) => id === ad)?.name ?? `ad ${ad}`
/** Hits by the showing that they are of, the newest first; what was told of it in its order. */
const showings = computed(() => {
  const by = new Map<string, HitView[]>()
  for (const hit of hits.value ?? []) by.set(hit.showing, [hit, ...(by.get(hit.showing) ?? [])])
  return [...by].map(([showing, own]) => ({ showing, ad: own[0].ad, since: own[0].toldAt, events: own.map(({ event }) => event) }))
})
</script>

<template>
  <section class="HitsTold small" aria-label="What was told of previews">
    <button class="plain" type="button" data-test="read-hits" @click="onRead">
      {{ hits === null ? 'What was told …' : 'Look again' }}
    </button>
    <span v-if="error" class="trouble" role="alert">{{ error }}</span>
    <span v-else-if="hits !== null && hits.length === 0" class="quiet" role="status"
      >Nothing yet: a click that is followed is told here, and what a player does that has one of these as VAST.</span
    >
    <ul v-else-if="hits !== null" data-test="hits">
      <li v-for="one in showings" :key="one.showing">
        <b>{{ nameOf(one.ad) }}</b>, {{ clock.format(one.since * 1000) }}: {{ one.events.join(', ') }}
      </li>
    </ul>
    <ul v-if="told.length > 0" data-test="conversions-told">
      <li v-for="one in told" :key="one.id">
        <b>{{ one.tracker }}</b>{{ one.transaction ? ` ${one.transaction}` : '' }}, {{ money(one.valueMicros) }},
        {{ clock.format(one.toldAt * 1000) }}: {{ one.says }}{{ one.by ? `; earned by a ${one.by}` : '' }}
      </li>
    </ul>
    <span v-if="hits !== null && hits.length > 0" class="quiet">Of previews nothing counts in results.</span>
  </section>
</template>

<style>
.HitsTold ul {
  max-height: 90px;
  margin: 2px 0;
  padding-left: 16px;
  overflow: auto;
}
</style>
