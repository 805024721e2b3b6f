<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElButton } from 'element-plus'
import { MOST_FEED_ADS } from '@tin-harbor/core/creative'
import type { FeedMade } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useManifest } from '@/stores/manifest'
import type { FeedEditing } from './use-feed'

/** Makes ads of items, and puts them on a line. */
export interface FeedMakeProps {
  editing: FeedEditing
  /** Items that are chosen. */
  chosen: readonly number[]
}
const props = defineProps<FeedMakeProps>()
const emit = defineEmits<{ made: [] }>()
const { view, isChanged, items } = props.editing
const manifest = useManifest()

/** Items of one request: each fetches and cuts a picture. */
const AT_ONCE = 20
const line = ref<number | null>(null)
const lines = computed(() =>
  manifest.lines.filter(
    (one) => one.format === 'native' && !one.template && manifest.campaignOf(one.campaignId)?.advertiserId === view.value?.advertiserId
  )
)
const done = ref<Pick<FeedMade, 'made' | 'renewed' | 'put' | 'refused'> | null>(null)
const failure = ref<string[]>([])
const begun = ref<number | null>(null)

async function onMake() {
  if (!view.value) return
  const asked = wanted.value.slice(0, MOST_FEED_ADS).map(({ id }) => id)
  failure.value = []
  done.value = { made: 0, renewed: 0, put: 0, refused: [] }
  try {
    for (let n = 0; n < asked.length; n += AT_ONCE) {
      begun.value = n
      const { made, renewed, put, refused, view: next } = await api.makeFeedAds(view.value.id, asked.slice(n, n + AT_ONCE), line.value)
      done.value = {
        made: done.value.made + made,
        renewed: done.value.renewed + renewed,
        put: done.value.put + put,
        refused: [...done.value.refused, ...refused]
      }
      view.value = next
    }
    emit('made')
  } catch (refusal) {
    if (!(refusal instanceof ApiError)) throw refusal
    failure.value = refusal.messages
  } finally {
    begun.value = null
  }
}
const ads = (n: number) => `${n.toLocaleString('en')} ${n === 1 ? 'ad' : 'ads'}`
const doneWords = computed(() => {
  if (!done.value) return ''
  const { made, renewed, put } = done.value
  return [
    `${ads(made)} ${made === 1 ? 'is' : 'are'} made${renewed > 0 ? `, ${renewed} made anew` : ''}.`,
    ...(line.value === null ? [] : [`${put} put on ${manifest.lineName(line.value)}.`])
  ].join(' ')
})
/** Of those chosen, the ones for which there is something to do: without an ad, with one that says something else, or not on the line. */
const wanted = computed(() =>
  items.value.filter(
    ({ id, creative, changed, lines: on }) =>
      props.chosen.includes(id) && (creative === null || changed || (line.value !== null && !on.includes(line.value)))
  )
)
const words = computed(() => {
  const n = Math.min(wanted.value.length, MOST_FEED_ADS)
  const makes = wanted.value.some(({ creative, changed }) => creative === null || changed)
  if (n === 0) return props.chosen.length === 0 ? 'Make ads' : line.value === null ? 'They are made' : 'They are on the line'
  if (line.value === null) return `Make ${ads(n)}`
  return makes ? `Make ${ads(n)} and put ${n === 1 ? 'it' : 'them'} on the line` : `Put ${ads(n)} on the line`
})
</script>

<template>
  <footer class="FeedMake">
    <label
      >on
      <select v-model="line" data-test="feed-line">
        <option :value="null">no line yet: made for the library</option>
        <option v-for="one in lines" :key="one.id" :value="one.id">{{ manifest.lineName(one.id) }}, {{ one.state }}</option>
      </select></label
    >
    <ElButton
      type="primary"
      size="small"
      :loading="begun !== null"
      :disabled="wanted.length === 0 || isChanged"
      data-test="make-feed-ads"
      @click="onMake"
      >{{ words }}</ElButton
    >
    <span v-if="isChanged" class="quiet small">read the feed by what you changed first</span>
    <span v-else-if="wanted.length > MOST_FEED_ADS" class="small">the first {{ MOST_FEED_ADS }} of {{ wanted.length }} at once</span>
    <span v-if="begun !== null" class="quiet small" role="status">{{ begun }} of {{ Math.min(wanted.length, MOST_FEED_ADS) }} …</span>
    <span v-else-if="done" role="status" data-test="feed-made"
      >{{ doneWords }}
      <RouterLink v-if="line !== null" :to="{ name: 'line', params: { lineId: line }, query: { clause: 'F' } }"
        >See them on the line</RouterLink
      ></span
    >
    <span v-for="message in failure" :key="message" class="trouble small" role="alert">{{ message }}</span>
    <ul v-if="done && done.refused.length > 0" class="trouble small">
      <li v-for="one in done.refused" :key="one.item">“{{ one.title }}”: {{ one.says }}</li>
    </ul>
  </footer>
</template>

<style>
.FeedMake {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}

.FeedMake ul {
  flex-basis: 100%;
  max-height: 90px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
</style>
