<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { LineView, Results, TodayView } from '@tin-harbor/core/contract'
import { ONE_OF } from '@tin-harbor/core/results'
import { ApiError, api } from '@/api'
import { count, money, perCent, smallMoney } from '@/composables/formats'
import DayField from '@/parts/DayField.vue'
import ForecastRecord from '@/parts/ForecastRecord.vue'
import MoneyField from '@/parts/MoneyField.vue'
import TodayChart from '@/parts/TodayChart.vue'
import { useMarketTick } from '@/composables/use-market-tick'
import { useAddress } from '@/composables/use-address'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import PlacementResults from './PlacementResults.vue'
import ResultsActs from './ResultsActs.vue'
import { STANDS, useResultsRows } from './use-results-rows'

const route = useRoute()
const address = useAddress()
const manifest = useManifest()
const session = useSession()
const id = Number(route.params.lineId)
const line = shallowRef<LineView | null>(null)
const results = shallowRef<Results | null>(null)
const today = shallowRef<TodayView | null>(null)
const error = shallowRef<ApiError | null>(null)
let asked = 0

const day = (name: 'from' | 'to') => {
  const part = address.part(name)
  return computed({ get: () => part.value || null, set: (date: string | null) => (part.value = date ?? '') })
}
const from = day('from')
const to = day('to')
const { named, stand, over, rows, isNarrowed, chosen, chosenRows, choose, chooseAll, chooseNone } = useResultsRows(results)

async function load(): Promise<void> {
  const mine = ++asked
  try {
    const [answer, view, hours] = await Promise.all([api.results(id, from.value, to.value), api.line(id), api.lineToday(id)])
    if (mine !== asked) return
    today.value = hours.today
    results.value = answer
    line.value = view
    error.value = null
  } catch (failure) {
    if (mine === asked) error.value = failure as ApiError
  }
}

onMounted(load)
watch([from, to], load)
useMarketTick(load)

const main = computed(() => results.value?.events[0] ?? 'clicks')
const toLeaveOut = computed(() => chosenRows.value.filter((row) => !row.leftOut))
const freed = computed(() => toLeaveOut.value.reduce((sum, row) => sum + row.spendMicros, 0))
/** Days that it ran: a calendar day on which it began at night is not a whole one. */
const days = computed(() => Math.max(1, results.value?.hours ?? 0) / 24)
const plural = (n: number) => `${count(n)} placement${n === 1 ? '' : 's'}`
/** What was brought in all, each with what one cost and how sure that is. */
const brought = computed(() =>
  (results.value?.events ?? []).map((event, n) => {
    const { count: many, costMicros, costRange } = (results.value as Results).total.brought[n]
    const range = costRange ? ` (${smallMoney(costRange.low)} to ${costRange.high === null ? 'no end' : smallMoney(costRange.high)})` : ''
    return { many, words: many === 1 ? ONE_OF[event] : event, each: costMicros === null ? '' : ` at ${smallMoney(costMicros)}${range}` }
  })
)
async function onDone() {
  chooseNone()
  await load()
}
</script>

<template>
  <div class="LineResults">
    <h1 class="visually-hidden">Results by placement</h1>
    <header>
      <p class="quiet">
        {{ line && manifest.advertiserOf(line.advertiserId)?.name }} <span aria-hidden="true">/</span>
        {{ line && manifest.campaignOf(line.campaignId)?.name }} <span aria-hidden="true">/</span>{{ ' '
        }}<RouterLink :to="{ name: 'line', params: { lineId: id } }">{{ line?.draft.name ?? 'the line' }}</RouterLink>
      </p>
      <span class="quiet small">from</span><DayField id="results-from" v-model="from" placeholder="its start" />
      <span class="quiet small">to</span><DayField id="results-to" v-model="to" placeholder="now" />
    </header>
    <p v-if="error" class="trouble" role="alert">{{ error.message }}</p>
    <TodayChart v-if="today" :today="today" />
    <template v-if="results">
      <div class="LineResults-sentence">
        <p v-if="results.total.impressions > 0">
          <b>{{ count(results.total.impressions) }}</b> impressions on {{ plural(results.rows.length) }},
          <b>{{ perCent(results.total.viewable / results.total.impressions) }}</b> of them viewable, for
          <b>{{ money(results.total.spendMicros) }}</b>:
          <template v-for="({ many, words, each }, n) in brought" :key="words"
            >{{ n === 0 ? '' : n === brought.length - 1 ? ' and ' : ', ' }}<b>{{ count(many) }} {{ words }}</b
            >{{ each }}</template
          >.
          <template v-if="toLeaveOut.length > 0">
            The {{ plural(toLeaveOut.length) }} chosen took <mark>{{ money(freed / days) }} a day</mark>.</template
          >
        </p>
        <p v-else>Nothing was bought {{ from || to ? 'in this period' : 'yet' }}. Put the line live and run the market.</p>
      </div>
      <template v-if="results.rows.length > 0">
        <p class="LineResults-tools">
          <label>named <input v-model="named" type="search" data-test="named" /></label>
          <label
            >a {{ ONE_OF[main] }} is
            <select v-model="stand" data-test="stand">
              <option value="">at any price</option>
              <option v-for="one in STANDS" :key="one" :value="one">
                {{ one === 'not told' ? 'not told apart from the line’s yet' : `surely ${one} than the line’s` }}
              </option>
            </select></label
          >
          <span>over <MoneyField id="results-over" v-model="over" :label="`A ${ONE_OF[main]} costs over`" /> each</span>
          <button v-if="session.may('live')" class="plain" type="button" data-test="choose-all" @click="chooseAll">
            choose {{ isNarrowed ? `all ${rows.length} that match` : `all ${rows.length}` }}
          </button>
          <span v-if="isNarrowed" class="quiet">{{ rows.length }} of {{ results.rows.length }}</span>
        </p>
        <ResultsActs
          v-if="chosenRows.length > 0 && session.may('live') && line"
          :line="id"
          :model="line.draft.price.model"
          :rows="chosenRows"
          @done="onDone"
          @none="chooseNone" />
        <PlacementResults :results="results" :rows="rows" :chosen="chosen" :disabled="!session.may('live')" @choose="choose" />
      </template>
    </template>
    <ForecastRecord :campaign="null" :line="id" />
  </div>
</template>

<style>
.LineResults {
  padding: 12px 24px 40px;
}

.LineResults > header {
  display: flex;
  gap: 8px;
  align-items: center;
}

.LineResults > header p {
  margin-right: auto;
}

.LineResults-sentence {
  display: flex;
  gap: 16px;
  align-items: flex-start;
  margin: 8px 0 6px;
  padding-bottom: 10px;
  border-bottom: 1px solid var(--ink);
  font: 17px/1.5 var(--serif);
}

.LineResults-sentence p {
  flex: 1;
}

.LineResults-sentence b {
  font-weight: 550;
}

.LineResults-sentence mark {
  border-bottom: 1px dashed var(--brass-text);
  background: var(--brass-wash);
  color: inherit;
}

.LineResults-tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: baseline;
  margin: 2px 0 6px;
}

.LineResults-tools .MoneyField .el-input {
  width: 84px;
}
</style>
