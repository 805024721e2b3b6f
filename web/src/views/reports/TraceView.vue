<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { LineView, TraceView } from '@tin-harbor/core/contract'
import { dateOfDay, dayOfDate, localDayOf, startOfLocalDay, zoneIndex } from '@tin-harbor/core/time'
import { ApiError, api, isAbort } from '@/api'
import { ORGANISATION_ZONE, about, count, money } from '@/composables/formats'
import { useAddress } from '@/composables/use-address'
import { useMarketTick } from '@/composables/use-market-tick'
import DayField from '@/parts/DayField.vue'
import StateNote from '@/parts/StateNote.vue'
import OneOpportunity from './OneOpportunity.vue'
import StairTable from './StairTable.vue'
import { wide } from './wide'

const route = useRoute()
const address = useAddress()
const id = Number(route.params.lineId)
const zone = zoneIndex(ORGANISATION_ZONE)
const line = shallowRef<LineView | null>(null)
const trace = shallowRef<TraceView | null>(null)
const error = shallowRef<ApiError | null>(null)
let asking: AbortController | null = null

const part = { from: address.part('from'), to: address.part('to') }
const dayOf = (hour: number) => dateOfDay(localDayOf(zone, hour))
const from = computed({
  get: () => part.from.value || (trace.value ? dayOf(trace.value.from) : null),
  set: (date: string | null) => (part.from.value = date ?? '')
})
const to = computed({
  get: () => part.to.value || (trace.value ? dayOf(trace.value.to - 1) : null),
  set: (date: string | null) => (part.to.value = date ?? '')
})

async function load() {
  asking?.abort()
  const own = (asking = new AbortController())
  try {
    trace.value = await api.trace(
      id,
      part.from.value ? startOfLocalDay(zone, dayOfDate(part.from.value)) : null,
      part.to.value ? startOfLocalDay(zone, dayOfDate(part.to.value) + 1) : null,
      { signal: own.signal }
    )
    error.value = null
  } catch (failure) {
    if (!isAbort(failure)) error.value = failure as ApiError
  }
}
onMounted(async () => {
  line.value = await api.line(id).catch(() => null)
  await load()
})
watch([part.from, part.to], load)
useMarketTick(load)

const SHORT = ['by up to 10 %', 'by 10 to 25 %', 'by 25 to 50 %', 'by half to the whole bid', 'by one to two bids', 'by more']
const largest = computed(() => trace.value?.losses[0] ?? null)
const signed = (value: number, words: (value: number) => string) => `${words(Math.abs(value))} ${value < 0 ? 'less' : 'more'}`
const LOSSES = {
  bid: 'its bid',
  budget: 'its limits and their pace',
  caps: 'its caps',
  ads: 'slots it has no ad for',
  balance: 'the balance',
  'own lines': 'lines of your own'
} as const
</script>

<template>
  <section class="TraceView">
    <header>
      <p class="quiet">
        <RouterLink :to="{ name: 'reports' }">Reports</RouterLink> <span aria-hidden="true">/</span>{{ ' '
        }}<RouterLink :to="{ name: 'line', params: { lineId: id } }">{{ line?.draft.name ?? `L-${id}` }}</RouterLink
        >{{ ' ' }}<span aria-hidden="true">/</span> trace
      </p>
      <h1>Where its opportunities went</h1>
      <p class="TraceView-period">from <DayField id="trace-from" v-model="from" /> to <DayField id="trace-to" v-model="to" /></p>
    </header>
    <StateNote v-if="error || !trace" :error="error?.message" reads="Reading what became of each opportunity" is-counted @retry="load" />
    <template v-else>
      <p v-if="largest" class="TraceView-remark" data-test="remark">
        Most opportunities that it matched were lost to <b>{{ LOSSES[largest.loss] }}</b>: {{ count(largest.lost) }}. {{ trace.binds }}
        <template v-if="trace.advice.length > 0">
          What would help now:
          <template v-for="(advice, n) in trace.advice.slice(0, 3)" :key="advice.words"
            ><template v-if="n > 0">; </template>{{ advice.words }}, {{ signed(advice.wins, about) }} wins a day for
            {{ signed(advice.spendMicros, money) }}</template
          >.
        </template>
      </p>
      <p v-else class="TraceView-remark">It won all it could of what it matched.</p>
      <StairTable :trace="trace" />
      <p class="small quiet TraceView-note">
        Won {{ count(trace.counts.won) }}; forecast {{ about(trace.forecast.wins) }} ({{ about(trace.forecast.low) }} to
        {{ about(trace.forecast.high) }}). The upper bars are drawn against all opportunities, the lower ones against what it matched.
      </p>
      <h2 class="ruled">By how much bids were lost</h2>
      <ul class="TraceView-short">
        <li v-for="(n, bin) in trace.short" :key="bin">
          <span>{{ SHORT[bin] }}</span><b class="number">{{ count(n) }}</b
          ><i :style="{ width: wide(n, Math.max(1, ...trace.short)) }" />
        </li>
      </ul>
    </template>

    <OneOpportunity :line-id="id" />
  </section>
</template>

<style>
.TraceView {
  height: 100%;
  padding: 10px 24px 60px;
  overflow: auto;
  position: relative;
  background: var(--paper);
}

.TraceView header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: baseline;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
}

.TraceView header > p:first-child {
  width: 100%;
}

.TraceView h1 {
  font: 600 20px var(--serif);
}

.TraceView-period {
  margin-left: auto;
}

.TraceView-period .el-date-editor.el-input {
  width: 132px;
}

.TraceView-remark {
  margin: 10px 0 12px;
  font: 14px/1.55 var(--serif);
}

.TraceView-note {
  margin-top: 6px;
}

.TraceView-short {
  margin: 0;
  padding: 0;
  list-style: none;
}

.TraceView-short li {
  display: grid;
  grid-template-columns: 190px 80px 1fr;
  gap: 10px;
  align-items: center;
  padding: 2px 0;
}

.TraceView-short i {
  height: 10px;
  background: var(--water);
}
</style>
