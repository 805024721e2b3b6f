<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ElButton } from 'element-plus'
import { InputError, VIDEO_KINDS, askSchema, parseInput, type VideoKind } from '@tin-harbor/core/buying'
import type { DealsView } from '@tin-harbor/core/contract'
import { BRANCHES, type Format, isFilm } from '@tin-harbor/core/taxonomy'
import { ApiError, api } from '@/api'
import { about, count, cpm, marketTime, money } from '@/composables/formats'
import { useMarketTick } from '@/composables/use-market-tick'
import MoneyField from '@/parts/MoneyField.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import MarketTabs from './MarketTabs.vue'
import { useSurvey } from '@/composables/use-survey'

const session = useSession()
const market = useMarket()
const all = shallowRef<DealsView | null>(null)
const error = ref<string | null>(null)
const problems = ref<Record<string, string>>({})
const isBusy = ref(false)
const { survey, error: surveyError, ask: askTraffic } = useSurvey('deals')

async function load() {
  try {
    all.value = await api.deals()
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
onMounted(() => {
  void load()
  void askTraffic({
    sentence: { formats: [], targeting: { restrictions: [] }, hours: null },
    by: ['deal', 'publisher'],
    without: null,
    bidMicros: 1_000_000
  })
})
useMarketTick(load)

const asked = ref({
  publisher: null as number | null,
  format: null as Format | null,
  kind: 'fixed' as 'fixed' | 'floor',
  priceMicros: null as number | null,
  volume: 20_000 as number | null,
  about: '',
  videoKind: null as VideoKind | null,
  note: ''
})
const publisher = computed(() => all.value?.publishers.find((one) => one.publisher === asked.value.publisher) ?? null)
watch(publisher, (id) => {
  if (id && !id.formats.includes(asked.value.format ?? '')) asked.value.format = id.formats.length === 1 ? (id.formats[0] as Format) : null
})
const trafficOf = (deal: number) => survey.value?.groups[0].rows.find((row) => row.key === deal)
const publisherRow = computed(() => survey.value?.groups[1].rows.find((row) => row.key === asked.value.publisher))

async function onAsk() {
  isBusy.value = true
  problems.value = {}
  try {
    const { publisher: publisherId, format, priceMicros, volume, about: branch, videoKind } = asked.value
    await api.askDeal(
      parseInput(askSchema, {
        ...asked.value,
        publisher: publisherId ?? undefined,
        format: format ?? undefined,
        priceMicros: priceMicros ?? undefined,
        volume: volume || undefined,
        about: branch || undefined,
        videoKind: isFilm(format) ? videoKind : null
      })
    )
    asked.value.note = ''
    await load()
  } catch (failure) {
    problems.value =
      (failure instanceof ApiError || failure instanceof InputError) && failure.issues.length > 0
        ? Object.fromEntries(failure.issues.map((issue) => [issue.field, issue.message]))
        : { '': (failure as Error).message }
  }
  isBusy.value = false
}
async function onTake(id: number) {
  try {
    await api.takeDeal(id)
    await load()
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
const STATES = { asked: 'waits for an answer', granted: 'granted', countered: 'offers another', refused: 'refused' } as const
</script>

<template>
  <section class="DealsView">
    <header>
      <h1>Deals</h1>
      <MarketTabs />
    </header>
    <p v-if="error" class="trouble" role="alert">{{ error }} <button class="plain" type="button" @click="load">Try again</button></p>
    <p v-if="surveyError" class="trouble" role="alert">The traffic of deals is not known: {{ surveyError }}</p>
    <p v-if="!all && !error" class="quiet">Reading the deals …</p>
    <template v-if="all">
      <table class="DealsView-table" data-test="deals">
        <thead>
          <tr>
            <th scope="col">deal</th>
            <th scope="col">kind</th>
            <th scope="col" class="number">price</th>
            <th scope="col" class="number">placements</th>
            <th scope="col" class="number">a day there</th>
            <th scope="col" class="number">open market, half</th>
            <th scope="col" class="number">most a day</th>
            <th scope="col" class="number">least spend</th>
            <th scope="col">until</th>
            <th scope="col">bought by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="deal in all.deals" :key="deal.id" :class="{ 'is-expired': deal.isExpired }">
            <th scope="row">{{ deal.id }} {{ deal.name }}</th>
            <td>{{ deal.kind === 'fixed' ? 'fixed price' : 'floor' }}</td>
            <td class="number">{{ cpm(deal.priceMicros) }}</td>
            <td class="number">{{ count(deal.placements) }}</td>
            <td class="number">{{ trafficOf(deal.id) ? about(trafficOf(deal.id)?.opportunitiesADay ?? 0) : '' }}</td>
            <td class="number">{{ trafficOf(deal.id) ? cpm(trafficOf(deal.id)?.halfMicros ?? 0) : '' }}</td>
            <td class="number">{{ deal.volume === null ? 'any' : count(deal.volume) }}</td>
            <td class="number">{{ deal.leastSpendMicros === null ? '' : money(deal.leastSpendMicros) }}</td>
            <td>
              {{ deal.untilHour === null ? 'stands' : deal.isExpired ? `ended ${marketTime(deal.untilHour)}` : marketTime(deal.untilHour) }}
            </td>
            <td>
              <template v-for="(use, n) in deal.usedBy" :key="use.line"
                ><template v-if="n > 0">, </template
                ><RouterLink :to="{ name: 'line', params: { lineId: use.line } }">{{ use.name }}</RouterLink></template
              >
            </td>
          </tr>
        </tbody>
      </table>
      <div class="DealsView-columns">
        <form v-if="session.may('draft')" @submit.prevent="onAsk">
          <h2 class="ruled">Ask for a deal</h2>
          <p>
            <label
              >Publisher
              <select v-model="asked.publisher" data-test="ask-publisher">
                <option :value="null" disabled>choose</option>
                <option v-for="one in all.publishers" :key="one.publisher" :value="one.publisher">{{ one.name }}</option>
              </select></label
            >{{ ' '
            }}<span v-if="publisherRow" class="quiet small"
              >{{ about(publisherRow.opportunitiesADay) }} opportunities a day; half are won at {{ cpm(publisherRow.halfMicros) }}</span
            >
          </p>
          <p v-if="publisher">
            <label
              >Format
              <select v-model="asked.format" data-test="ask-format">
                <option :value="null" disabled>choose</option>
                <option v-for="one in publisher.formats" :key="one" :value="one">{{ one }}</option>
              </select></label
            >
          </p>
          <p v-if="isFilm(asked.format)">
            <label
              >For ads that are
              <select v-model="asked.videoKind">
                <option :value="null" disabled>choose</option>
                <option v-for="kind in VIDEO_KINDS" :key="kind" :value="kind">{{ kind }}</option>
              </select></label
            >
          </p>
          <p>
            <label
              >At a
              <select v-model="asked.kind">
                <option value="fixed">fixed price</option>
                <option value="floor">floor of our own</option>
              </select></label
            >{{ ' ' }}<MoneyField id="ask-price" v-model="asked.priceMicros" unit="CPM" label="Price" />
          </p>
          <p>
            <label>For up to <input v-model.number="asked.volume" type="number" min="100" step="100" data-test="ask-volume" /> a day</label>
          </p>
          <p>
            <label
              >Advertised is
              <select v-model="asked.about" data-test="ask-about">
                <option value="" disabled>choose</option>
                <option v-for="branch in BRANCHES" :key="branch.name" :value="branch.name">{{ branch.name }}</option>
              </select></label
            >
          </p>
          <p>
            <label>Note <textarea v-model="asked.note" rows="2" maxlength="600" /></label>
          </p>
          <p v-for="(message, field) in problems" :key="field" class="FieldRow-problem" role="alert">{{ message }}</p>
          <ElButton native-type="submit" type="primary" :loading="isBusy" data-test="ask">Ask the publisher</ElButton>
          <p class="quiet small">
            Offices answer after some hours of working time: Monday to Friday, 8 to 17 UTC by the market clock,
            {{ marketTime(market.run.hour) }} now.
          </p>
        </form>
        <div>
          <h2 class="ruled">Asked for</h2>
          <p v-if="all.asks.length === 0" class="quiet">Nothing yet.</p>
          <ul class="DealsView-asks" data-test="asks">
            <li v-for="ask in all.asks" :key="ask.id" :class="`is-${ask.state}`">
              <b>{{ ask.publisher }}</b>, {{ ask.format }}, {{ ask.kind === 'fixed' ? 'fixed' : 'floor' }} {{ cpm(ask.priceMicros) }} for
              {{ count(ask.volume) }} a day, {{ ask.about }}; asked {{ marketTime(ask.askedHour) }}.
              <em>{{ STATES[ask.state] }}</em><template v-if="ask.answer">, by the rule on {{ ask.rule }}: “{{ ask.answer }}”</template>
              <template v-if="ask.state === 'countered' && ask.offered && session.may('draft')">
                <button class="plain" type="button" data-test="take" @click="onTake(ask.id)">
                  take {{ cpm(ask.offered.priceMicros) }} for {{ count(ask.offered.volume) }} a day
                </button></template
              >
              <template v-if="ask.dealId"> It is deal {{ ask.dealId }}.</template>
            </li>
          </ul>
        </div>
      </div>
    </template>
  </section>
</template>

<style>
.DealsView-table {
  width: 100%;
  border-collapse: collapse;
  font-size: 12.5px;
}

.DealsView-table th,
.DealsView-table td {
  padding: 4px 10px 4px 0;
  border-bottom: 1px solid var(--rule-2);
  font-weight: 400;
  text-align: left;
}

.DealsView-table thead th {
  color: var(--ink-2);
  font-size: 11.5px;
}

.DealsView-table tbody th {
  font-weight: 600;
}

.DealsView-table .number {
  text-align: right;
}

.DealsView-table .is-expired {
  color: var(--ink-2);
}

.DealsView-columns {
  display: grid;
  grid-template-columns: 430px 1fr;
  gap: 34px;
}

.DealsView form p {
  margin: 6px 0;
}

.DealsView input[type='number'] {
  width: 100px;
}

.DealsView-asks {
  margin: 0;
  padding: 0;
  font: 13.5px/1.55 var(--serif);
  list-style: none;
}

.DealsView-asks li {
  padding: 6px 0;
  border-bottom: 1px solid var(--rule-2);
}

.DealsView-asks button {
  margin-left: 6px;
}

.DealsView-asks em {
  font-style: normal;
  font-weight: 600;
}

.DealsView-asks .is-granted em {
  color: var(--lamp);
}

.DealsView-asks .is-refused em {
  color: var(--hull);
}

.DealsView-asks .is-countered em {
  color: var(--brass-text);
}
</style>
