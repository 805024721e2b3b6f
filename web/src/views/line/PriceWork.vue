<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { valueWords } from '@tin-harbor/core/buying'
import type { OfferView } from '@tin-harbor/core/contract'
import { breakEven, explainBid, inEachWay, type BidStepShown } from '@tin-harbor/core/pricing'
import { MODEL_WORDS, isWatched } from '@tin-harbor/core/taxonomy'
import { dayOfHour } from '@tin-harbor/core/time'
import { api } from '@/api'
import { cpm, money } from '@/composables/formats'
import { useLineEdit } from '@/composables/line-edit'
import MoneyField from '@/parts/MoneyField.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'

/** What a price is worth, what it is in other ways of paying, and how a bid is built up step by step. */
const { draft, figures, campaign } = useLineEdit()
const market = useMarket()
const manifest = useManifest()

const offers = shallowRef<OfferView[]>([])
onMounted(async () => {
  offers.value = (await api.offers().catch(() => null))?.offers ?? []
})
const mine = computed(
  () => offers.value.find((offer) => offer.advertiser === manifest.advertiserOf(campaign.value?.advertiserId ?? -1)?.name) ?? null
)

const day = computed(() => figures.value?.day ?? null)
const rate = (part: number | undefined, whole: number | undefined) => (part && whole ? part / whole : 0)
const measuredClicks = computed(() => rate(day.value?.visits.value, day.value?.wins.value))
const viewRate = computed(() => rate(day.value?.views.value, day.value?.wins.value))
const measuredConversions = computed(() => rate(day.value?.conversions.value, day.value?.visits.value))
/** Assumptions in per cent as typed; null takes what the forecast expects. */
const clickShare = ref<number | null>(null)
const conversionShare = ref<number | null>(null)
const payout = ref<number | null>(null)
const clickRate = computed(() => (clickShare.value ?? measuredClicks.value * 100) / 100)
const conversionRate = computed(() => (conversionShare.value ?? measuredConversions.value * 100) / 100)
const payoutMicros = computed(() => payout.value ?? mine.value?.payoutMicros ?? null)
const worth = computed(() =>
  payoutMicros.value === null
    ? null
    : breakEven({
        clickRate: clickRate.value,
        viewRate: viewRate.value,
        conversionRate: conversionRate.value,
        payoutMicros: payoutMicros.value
      })
)
const bid = computed(() => (draft.value.price.aim ? draft.value.price.maxMicros : draft.value.price.bidMicros))
const ways = computed(() =>
  bid.value === null ? null : inEachWay(draft.value.price.model, bid.value, { clickRate: clickRate.value, viewRate: viewRate.value })
)
const typedShare = (event: Event) => {
  const text = (event.target as HTMLInputElement).value.trim().replace(',', '.')
  return text === '' || !(Number(text) >= 0 && Number(text) <= 100) ? null : Number(text)
}
const isVideo = computed(() => isWatched(draft.value.format))

/** Which adjustments apply, in which hour, to how many earlier showings: for the order of application. */
const applies = ref<Record<number, boolean>>({})
const hour = ref<number | null>(null)
const seen = ref(1)
const busiest = computed(() => {
  const perMille = draft.value.hours?.perMille
  return perMille ? Math.max(...perMille) : 1000
})
const shownHour = computed(() => hour.value ?? busiest.value)
const hours = computed(() =>
  [...new Set([1000, ...(draft.value.hours?.perMille.filter((perMille) => perMille > 0) ?? [])])].sort((a, b) => a - b)
)
const steps = computed(() => {
  const { bidMicros } = draft.value.price
  if (bidMicros === null) return []
  return explainBid(
    { ...draft.value.price, bidMicros },
    (draft.value.price.adjustments ?? []).map((_, n) => applies.value[n] ?? true),
    shownHour.value,
    seen.value,
    { day: dayOfHour(market.run.hour), daysLive: 0, impressions: 0 }
  )
})
/** The base bid at each showing to the same person. */
const repeats = computed(() =>
  [0, 1, 2, 3, 4, 5].map(
    (before) =>
      explainBid({ ...draft.value.price, bidMicros: draft.value.price.bidMicros ?? 0, adjustments: [] }, [], 1000, before, {
        day: dayOfHour(market.run.hour),
        daysLive: 0,
        impressions: 0
      }).at(-1)?.micros ?? 0
  )
)
function stepWords({ what }: BidStepShown): string {
  if (what.kind === 'base') return 'base bid'
  if (what.kind === 'hour') return `hour, ${what.perMille / 10} %`
  if (what.kind === 'repeat') return `${what.nth + 1}${what.nth === 1 ? 'nd' : what.nth === 2 ? 'rd' : 'th'} showing`
  if (what.kind === 'maximum') return 'never above'
  const { dimension, value, perMille } = (draft.value.price.adjustments ?? [])[what.adjustment]
  return `${valueWords(dimension, value)}${what.kind === 'own' ? ', own price' : `, ${(perMille ?? 0) / 10} %`}`
}
const unit = computed(() => MODEL_WORDS[draft.value.price.model])
</script>

<template>
  <div class="PriceWork">
    <section aria-label="Order of application">
      <h3>
        How a bid is built up <small class="quiet">{{ unit }}; data cost is added to cost, not to the bid</small>
      </h3>
      <p v-if="steps.length === 0" class="quiet">Type a bid first.</p>
      <template v-else>
        <p
          v-if="(draft.price.adjustments?.length ?? 0) > 0 || hours.length > 1 || (draft.price.repeatDiscount ?? 0) > 0"
          class="PriceWork-picks">
          <label v-for="(one, n) in draft.price.adjustments ?? []" :key="n"
            ><input type="checkbox" :checked="applies[n] ?? true" @change="applies = { ...applies, [n]: !(applies[n] ?? true) }" />
            {{ valueWords(one.dimension, one.value) }}</label
          >
          <label v-if="hours.length > 1"
            >hour
            <select :value="shownHour" @change="hour = Number(($event.target as HTMLSelectElement).value)">
              <option v-for="perMille in hours" :key="perMille" :value="perMille">{{ perMille / 10 }} %</option>
            </select></label
          >
          <label v-if="(draft.price.repeatDiscount ?? 0) > 0"
            >earlier showings
            <select :value="seen" @change="seen = Number(($event.target as HTMLSelectElement).value)">
              <option v-for="n in [0, 1, 2, 3, 5, 8]" :key="n" :value="n">{{ n }}</option>
            </select></label
          >
        </p>
        <p v-if="(draft.price.repeatDiscount ?? 0) > 0" class="quiet small">
          showings 1 to 6 of a person: {{ repeats.map(cpm).join(', ') }}
        </p>
        <ol data-test="bid-steps">
          <li v-for="(step, n) in steps" :key="n">
            <span>{{ stepWords(step) }}</span><b>{{ cpm(step.micros) }}</b>
          </li>
        </ol>
      </template>
    </section>
    <section aria-label="What it is worth" data-test="worth">
      <h3>What it is worth</h3>
      <p class="PriceWork-picks">
        <label
          >click rate
          <input
            class="PriceWork-share"
            inputmode="decimal"
            :placeholder="(measuredClicks * 100).toFixed(2)"
            @input="clickShare = typedShare($event)" />
          %</label
        >
        <label
          >of clicks convert
          <input
            class="PriceWork-share"
            inputmode="decimal"
            :placeholder="(measuredConversions * 100).toFixed(2)"
            @input="conversionShare = typedShare($event)" />
          %</label
        >
        <label>payout <MoneyField id="line-payout" :model-value="payoutMicros" @update:model-value="payout = $event" /></label>
      </p>
      <p v-if="worth" class="PriceWork-said">
        Pays for itself up to <b>{{ cpm(worth.cpmMicros) }} CPM</b>, <b>{{ money(worth.clickMicros) }}</b> a click<template
          v-if="isVideo && worth.viewMicros !== null"
          >, <b>{{ cpm(worth.viewMicros) }}</b> a view</template
        ><template v-if="mine && payout === null">, for {{ mine.event }} of {{ mine.name }}</template
        >.
      </p>
      <p v-else class="quiet">Say what a conversion pays.</p>
      <p v-if="ways" class="quiet small">
        The bid is {{ cpm(ways.cpmMicros) }} CPM<template v-if="ways.clickMicros !== null">, {{ money(ways.clickMicros) }} a click</template
        ><template v-if="isVideo && ways.viewMicros !== null">, {{ cpm(ways.viewMicros) }} a view</template> at a click rate of
        {{ (clickRate * 100).toFixed(2) }} %<template v-if="isVideo"> and {{ (viewRate * 100).toFixed(0) }} % viewed</template
        >{{ clickShare === null ? ', as forecast' : '' }}.
      </p>
    </section>
  </div>
</template>

<style>
.PriceWork {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 26px;
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--rule-2);
}

.PriceWork h3 {
  margin-bottom: 4px;
  font: 600 12.5px var(--sans);
}

.PriceWork h3 small {
  font-weight: 400;
  font-size: 11px;
}

.PriceWork-picks {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 14px;
  margin-bottom: 4px;
  font-size: 12px;
}

.PriceWork ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

.PriceWork li {
  display: flex;
  justify-content: space-between;
  padding: 2px 0;
  border-bottom: 1px solid var(--rule-2);
}

.PriceWork-share {
  width: 52px;
  border: 1px solid var(--rule);
}

.PriceWork .MoneyField .el-input {
  width: 84px;
}

.PriceWork-said {
  font: 13.5px/1.45 var(--serif);
}
</style>
