<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { AdReviewView, ReviewsView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { marketTime } from '@/composables/formats'
import { useMarketTick } from '@/composables/use-market-tick'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'
import ReviewEntry from './ReviewEntry.vue'

/** Ads that are looked at, and what was said of them: a line an ad. */
const manifest = useManifest()
const view = shallowRef<ReviewsView | null>(null)
const error = ref<string | null>(null)
const show = ref<'open' | 'cleared' | 'all'>('open')
async function load() {
  try {
    view.value = await api.reviews()
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
onMounted(load)
useMarketTick(() => void load())

const all = computed(() => view.value?.reviews ?? [])
const isOpen = ({ state, isLast }: AdReviewView) => state === 'waits' || (state === 'refused' && isLast)
const shown = computed(() =>
  all.value.filter((one) => (show.value === 'all' ? true : show.value === 'open' ? isOpen(one) : one.state === 'cleared'))
)
const words = computed(() => {
  const waiting = all.value.filter(({ state }) => state === 'waits')
  const refused = all.value.filter((one) => one.state === 'refused' && one.isLast)
  const said = [
    waiting.length === 0
      ? 'Nobody has to look at anything now'
      : `${waiting.length} ${waiting.length === 1 ? 'waits' : 'wait'}, all answered by ${marketTime(Math.max(...waiting.map(({ byHour }) => byHour)))}`,
    ...(refused.length > 0 ? [`${refused.length} ${refused.length === 1 ? 'is' : 'are'} refused`] : [])
  ]
  return `${said.join('; ')}.`
})
async function onAnswered() {
  await Promise.all([load(), manifest.load()])
}
</script>

<template>
  <div class="ReviewView">
    <h1>Review</h1>
    <StateNote v-if="error || !view" :error="error" reads="Reading what was sent" @retry="load" />
    <template v-else>
      <p class="ReviewView-sentence" role="status" data-test="review-words">{{ words }}</p>
      <p v-if="view.isAway" class="trouble small" role="alert">
        The reviewer could not be reached the last time; nothing is lost, and it is asked again at each market hour.
      </p>
      <p class="small">
        <label
          >Shown are
          <select v-model="show" data-test="review-show">
            <option value="open">those that wait or are refused</option>
            <option value="cleared">those that were cleared</option>
            <option value="all">all that was answered lately</option>
          </select></label
        >
      </p>
      <p v-if="shown.length === 0" class="quiet">
        None. An ad is sent when its line is put live, and again when what it shows or where it leads changes.
      </p>
      <ReviewEntry v-for="one in shown" :key="one.id" :review="one" with-line @answered="onAnswered" />
      <details class="ReviewView-rules">
        <summary>What is looked at</summary>
        <ul>
          <li v-for="{ rule, says, reason } in view.rules" :key="rule">
            <i>{{ rule }}</i>: {{ says }} {{ reason }}
          </li>
        </ul>
        <p class="quiet small">
          The reviewer works from Monday to Friday, 8:00 to 18:00 UTC, and answers in one to four working hours; publishers of deals take up
          to five. Preflight looks by the same rules.
        </p>
      </details>
    </template>
  </div>
</template>

<style>
.ReviewView {
  max-width: 960px;
  padding: 16px 24px 40px;
}

.ReviewView h1 {
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
  font: 550 20px var(--serif);
}

.ReviewView-sentence {
  padding: 8px 0 4px;
  font: 15px/1.5 var(--serif);
}

.ReviewView-rules {
  margin-top: 18px;
}

.ReviewView-rules ul {
  max-width: 80ch;
  padding-left: 18px;
  font: 13.5px/1.5 var(--serif);
}
</style>
