<script setup lang="ts">
import { computed, ref } from 'vue'
import { MOST_FEED_ADS } from '@tin-harbor/core/creative'
import type { FeedMade } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'
import PutOnLine from '@/views/creatives/PutOnLine.vue'
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
const { isBusy, messages, attempt } = useAttempt()

/** Items of one request: each fetches and cuts a picture. */
const AT_ONCE = 20
const line = ref<number | null>(null)
const done = ref<Pick<FeedMade, 'made' | 'renewed' | 'put' | 'refused'> | null>(null)
/** How many of those that are made were asked for. */
const begun = ref(0)
const total = ref(0)

const onMake = () =>
  attempt(async () => {
    if (!view.value) return
    const asked = wanted.value.slice(0, MOST_FEED_ADS).map(({ id }) => id)
    total.value = asked.length
    done.value = { made: 0, renewed: 0, put: 0, refused: [] }
    for (begun.value = 0; begun.value < asked.length; begun.value += AT_ONCE) {
      const some = asked.slice(begun.value, begun.value + AT_ONCE)
      const { made, renewed, put, refused, view: next } = await api.makeFeedAds(view.value.id, some, line.value)
      done.value = {
        made: done.value.made + made,
        renewed: done.value.renewed + renewed,
        put: done.value.put + put,
        refused: [...done.value.refused, ...refused]
      }
      view.value = next
    }
    emit('made')
  })
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
  <PutOnLine
    v-model="line"
    of="feed"
    :advertiser="view?.advertiserId"
    format="native"
    :words="words"
    :is-busy="isBusy"
    :disabled="wanted.length === 0 || isChanged"
    :done="isBusy ? '' : doneWords"
    :messages="messages"
    @make="onMake">
    <span v-if="isBusy" class="quiet small" role="status">{{ begun }} of {{ total }} …</span>
    <span v-else-if="isChanged" class="quiet small">read the feed by what you changed first</span>
    <span v-else-if="wanted.length > MOST_FEED_ADS" class="small">the first {{ MOST_FEED_ADS }} of {{ wanted.length }} at once</span>
    <template #refused>
      <ul v-if="done && done.refused.length > 0" class="trouble small PutOnLine-refused">
        <li v-for="one in done.refused" :key="one.item">“{{ one.title }}”: {{ one.says }}</li>
      </ul>
    </template>
  </PutOnLine>
</template>
