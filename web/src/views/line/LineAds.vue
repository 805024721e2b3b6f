<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { MOST_AD_WEIGHT, termsOfAd, withTerms, type AdTerms } from '@tin-harbor/core/buying'
import type { AdStandings, AdView, LineView } from '@tin-harbor/core/contract'
import { bareShapes } from '@tin-harbor/core/preflight'
import { adTermsWords } from '@tin-harbor/core/wording'
import { api } from '@/api'
import { count, perCent } from '@/composables/formats'
import { useLineEdit } from '@/composables/line-edit'
import DataTable from '@/parts/DataTable.vue'
import RateRange from '@/parts/RateRange.vue'
import type { TableColumn } from '@/parts/table-columns'
import { useTicks } from '@/parts/use-ticks'
import AdOwn from './AdOwn.vue'
import ReviewEntry from '@/views/review/ReviewEntry.vue'
import TagRun from '@/views/creatives/TagRun.vue'

/** The ads of a line: what each has of its own, what came of it, and how often it is drawn. */
export interface LineAdsProps {
  line: LineView
}
const props = defineProps<LineAdsProps>()
const emit = defineEmits<{ remove: [ads: readonly AdView[]]; changed: [line: LineView] }>()
const { draft, disabled, change } = useLineEdit()

interface Row {
  ad: AdView
  terms: Omit<AdTerms, 'ad'>
  standing: AdStandings['ads'][number] | undefined
}
const standings = shallowRef<AdStandings | null>(null)
watch(
  () => [props.line.id, props.line.version] as const,
  async ([id]) => (standings.value = await api.adStandings(id).catch(() => null)),
  { immediate: true }
)
const rows = computed((): Row[] =>
  props.line.ads.map((ad) => ({
    ad,
    terms: termsOfAd(draft.value, ad.id),
    standing: standings.value?.ads.find((one) => one.ad === ad.id)
  }))
)
const ran = computed(() => rows.value.some(({ standing }) => (standing?.impressions ?? 0) > 0))
const most = computed(() =>
  Math.max(1e-6, ...rows.value.map(({ standing }) => (standing && standing.impressions > 0 ? standing.range.high : 0)))
)
const mean = computed(() => {
  const sum = (what: 'events' | 'impressions') => rows.value.reduce((all, { standing }) => all + (standing?.[what] ?? 0), 0)
  return sum('events') / Math.max(1, sum('impressions'))
})
const columns = computed((): TableColumn<Row>[] => [
  { id: 'tick', label: 'chosen', width: 30, side: 'left', isBare: true },
  { id: 'ad', label: 'ad', least: 118, side: 'left', value: ({ ad }) => ad.name, isHead: true },
  { id: 'size', label: 'slots', width: 84, side: 'left', value: ({ ad }) => ad.size },
  ...(props.line.ads.some(({ review }) => review !== 'cleared')
    ? [{ id: 'review', label: 'review', width: 62, side: 'left' as const, value: ({ ad }: Row) => ad.review }]
    : []),
  ...(draft.value.rotation && draft.value.rotation !== 'weight'
    ? []
    : [{ id: 'weight', label: 'weight', width: 54, side: 'left' as const, value: ({ terms }: Row) => terms.weight ?? 1 }]),
  { id: 'own', label: 'of its own', least: 84, side: 'left' },
  ...(ran.value
    ? [
        {
          id: 'shown',
          label: 'shown',
          width: 52,
          value: ({ standing }: Row) => standing?.impressions ?? 0,
          words: ({ standing }: Row) => count(standing?.impressions ?? 0)
        },
        {
          id: 'range',
          label: standings.value?.counts ?? '',
          title: `${standings.value?.counts ?? ''} of what was shown, with the range that holds it in nine of ten; the line is marked`,
          width: 84,
          side: 'left' as const,
          value: ({ standing }: Row) => standing?.rate ?? 0
        },
        {
          id: 'best',
          label: 'best',
          title: 'Chance that it is the best of those that fit the same slot',
          width: 48,
          value: ({ standing }: Row) => standing?.best ?? 0,
          words: ({ standing }: Row) => perCent(standing?.best ?? 0)
        }
      ]
    : []),
  {
    id: 'share',
    label: 'draws',
    title: 'Of the next draws among those that fit the same slot, as it is in force or would be',
    width: 48,
    value: ({ standing }) => standing?.share ?? 0,
    words: ({ standing }) => (standing ? perCent(standing.share) : '')
  },
  { id: 'off', label: 'take off', width: 22, isBare: true }
])

/** What waits or was refused: the rest needs nobody. */
const toRead = computed(() => props.line.reviews.filter(({ state }) => state === 'waits' || state === 'refused'))

const { chosen, onTick } = useTicks()
const picked = computed(() => props.line.ads.filter(({ id }) => chosen.value.has(id)))
const setAll = (terms: Partial<AdTerms>) =>
  change((d) => {
    for (const { id } of picked.value) d.ads = withTerms(d.ads, id, terms)
  })
const setWeight = (ads: readonly number[], typed: string) => {
  const weight = Math.round(Number(typed))
  if (!(weight >= 1 && weight <= MOST_AD_WEIGHT)) return
  change((d) => {
    for (const id of ads) d.ads = withTerms(d.ads, id, { weight })
  })
}
function onRemove(ads: readonly AdView[]) {
  chosen.value = new Set()
  emit('remove', ads)
}

const opened = ref<number | null>(null)
const open = computed(() => props.line.ads.find(({ id }) => id === opened.value))
/** A tag that is seen as it runs. */
const seen = ref<number | null>(null)
const tag = computed(() => props.line.ads.find(({ id }) => id === seen.value))

const bare = computed(() => bareShapes(draft.value, props.line.ads))
const BARE_NAMED = 6
const bareWords = computed(() => {
  const [named, more] = [bare.value.slice(0, BARE_NAMED).join(', '), bare.value.length - BARE_NAMED]
  return more > 0 ? `${named} and ${more} more` : named
})
</script>

<template>
  <div class="LineAds">
    <p class="small" data-test="bare">
      <RouterLink :to="{ name: 'in-place', params: { lineId: line.id } }">See them in place</RouterLink>.
      <template v-if="bare.length === 0">Every slot that the line can buy has an ad.</template>
      <template v-else>Without an ad, so that nothing is bought there: {{ bareWords }}.</template>
    </p>
    <p v-if="picked.length > 0 && !disabled" class="LineAds-many" role="group" :aria-label="`With the ${picked.length} chosen ads`">
      <b>{{ picked.length }} chosen</b>
      <button class="plain" type="button" @click="setAll({ off: false })">turn on</button>
      <button class="plain" type="button" @click="setAll({ off: true })">turn off</button>
      <label
        >weight
        <input
          type="number"
          min="1"
          :max="MOST_AD_WEIGHT"
          @change="
            setWeight(
              picked.map(({ id }) => id),
              ($event.target as HTMLInputElement).value
            )
          "
      /></label>
      <button class="plain" type="button" @click="onRemove(picked)">take off the line</button>
      <button class="plain" type="button" @click="chosen = new Set()">choose none</button>
    </p>
    <DataTable
      class="LineAds-table"
      :rows="rows"
      :columns="columns"
      :row-key="(row) => row.ad.id"
      label="Ads of the line"
      :sort="{ id: '', down: false }"
      :row-class="({ terms, ad }) => `${terms.off || ad.stopped ? 'is-off' : ''} ${ad.id === opened ? 'is-open' : ''}`">
      <template #cell-tick="{ row, ordered }"
        ><input
          type="checkbox"
          :aria-label="`Choose ${row.ad.name}`"
          :checked="chosen.has(row.ad.id)"
          :disabled="disabled"
          @click="
            onTick(
              row.ad.id,
              ordered.map(({ ad }) => ad.id),
              $event
            )
          "
      /></template>
      <template #cell-ad="{ row }"
        ><img v-if="row.ad.creativeId !== null" :src="api.pictureUrl(row.ad.creativeId)" alt="" /><span :title="row.ad.name">{{
          row.ad.name
        }}</span
        ><em v-if="row.ad.stopped" class="LineAds-stopped small" :title="row.ad.stopped">stopped: {{ row.ad.stopped }}</em></template
      >
      <template #cell-weight="{ row }"
        ><input
          class="LineAds-weight"
          type="number"
          min="1"
          :max="MOST_AD_WEIGHT"
          :value="row.terms.weight ?? 1"
          :disabled="disabled"
          :aria-label="`Weight of ${row.ad.name}`"
          @change="setWeight([row.ad.id], ($event.target as HTMLInputElement).value)"
      /></template>
      <template #cell-own="{ row }"
        ><button
          class="phrase LineAds-own"
          type="button"
          :aria-expanded="opened === row.ad.id"
          :aria-label="`What ${row.ad.name} has of its own: ${adTermsWords({ ...row.terms, weight: 1 }) || 'nothing'}`"
          @click="opened = opened === row.ad.id ? null : row.ad.id">
          {{ adTermsWords({ ...row.terms, weight: 1 }) || 'as the line' }}
        </button></template
      >
      <template #cell-range="{ row }"
        ><RateRange
          v-if="row.standing && row.standing.impressions > 0"
          :rate="row.standing.rate"
          :range="row.standing.range"
          :mean="mean"
          :most="most" /><span v-else></span
      ></template>
      <template #cell-off="{ row }"
        ><button v-if="!disabled" class="plain" type="button" :aria-label="`Take ${row.ad.name} off the line`" @click="onRemove([row.ad])">
          ✕
        </button></template
      >
    </DataTable>
    <div v-if="toRead.length > 0" class="LineAds-reviews" aria-label="Review">
      <ReviewEntry v-for="one in toRead" :key="one.id" :review="one" @answered="(answered) => $emit('changed', answered)" />
    </div>
    <AdOwn v-if="open" :key="open.id" :ad="open" @close="opened = null">
      <button
        v-if="open.type === 'markup'"
        class="plain small"
        type="button"
        :aria-pressed="seen === open.id"
        @click="seen = seen === open.id ? null : open.id">
        see it run
      </button>
    </AdOwn>
    <TagRun v-if="tag?.madeCreativeId" :key="tag.id" :creative="tag.madeCreativeId" :size="tag.size" @ran="$emit('changed', line)" />
  </div>
</template>

<style>
.LineAds {
  margin-bottom: 10px;
}

.LineAds-table {
  max-height: 330px;
}

.LineAds-table th[scope='row'] {
  overflow: hidden;
  font-weight: 500;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.LineAds-stopped {
  margin-left: 6px;
  color: var(--hull);
}

.LineAds-table img {
  max-width: 34px;
  max-height: 20px;
  margin-right: 6px;
  border: 1px solid var(--rule);
  vertical-align: middle;
}

.LineAds-table .is-off {
  color: var(--ink-2);
}

.LineAds-table .is-off th span {
  text-decoration: line-through;
}

.LineAds-table .is-open {
  background: var(--hover);
}

.LineAds-weight,
.LineAds-many input {
  width: 40px;
  border: 1px solid var(--rule);
  background: var(--field);
  font: inherit;
}

.LineAds .LineAds-own {
  max-width: 100%;
  overflow: hidden;
  font: inherit;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.LineAds-many {
  display: flex;
  gap: 14px;
  align-items: baseline;
  font-size: 12.5px;
}
</style>
