<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { ElButton } from 'element-plus'
import type { LineView, Results, TodayView } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { count, money, perCent } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import DayField from '@/parts/DayField.vue'
import ForecastRecord from '@/parts/ForecastRecord.vue'
import TodayChart from '@/parts/TodayChart.vue'
import { useMarketTick } from '@/composables/use-market-tick'
import { useAddress } from '@/composables/use-address'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import PlacementResults from './PlacementResults.vue'

const route = useRoute()
const address = useAddress()
const manifest = useManifest()
const session = useSession()
const id = Number(route.params.lineId)
const line = shallowRef<LineView | null>(null)
const results = shallowRef<Results | null>(null)
const today = shallowRef<TodayView | null>(null)
const error = shallowRef<ApiError | null>(null)
const { isBusy, error: actError, attempt } = useAttempt()
let asked = 0

const day = (name: 'from' | 'to') => {
  const part = address.part(name)
  return computed({ get: () => part.value || null, set: (date: string | null) => (part.value = date ?? '') })
}
const from = day('from')
const to = day('to')
/** Placements pointed at, kept in the address so that a link shows the same rows. */
const chosenPart = address.part('chosen')
const chosen = computed(() => new Set(chosenPart.value.split('~').filter((text) => text !== '')))

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

function onChoose(placement: string) {
  const next = new Set(chosen.value)
  if (!next.delete(placement)) next.add(placement)
  chosenPart.value = (results.value?.rows ?? []).flatMap((row) => (next.has(row.placement) ? [row.placement] : [])).join('~')
}

const rows = computed(() => results.value?.rows.filter((row) => chosen.value.has(row.placement)) ?? [])
const toLeaveOut = computed(() => rows.value.filter((row) => !row.leftOut))
const toTakeIn = computed(() => rows.value.filter((row) => row.leftOut))
const freed = computed(() => toLeaveOut.value.reduce((sum, row) => sum + row.spendMicros, 0))
/** Days that it ran: a calendar day on which it began at night is not a whole one. */
const days = computed(() => Math.max(1, results.value?.hours ?? 0) / 24)
const plural = (n: number) => `${n} placement${n === 1 ? '' : 's'}`

const onAct = (out: boolean) =>
  attempt(async () => {
    const placements = (out ? toLeaveOut : toTakeIn).value.map((row) => row.placement)
    await api.leaveOut(id, placements, out)
    chosenPart.value = ''
    await load()
  })
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
    <p v-if="error || actError" class="trouble" role="alert">{{ error?.message ?? actError }}</p>
    <TodayChart v-if="today" :today="today" />
    <template v-if="results">
      <div class="LineResults-sentence">
        <p v-if="results.total.impressions > 0">
          <b>{{ count(results.total.impressions) }}</b> impressions on {{ plural(results.rows.length) }},
          <b>{{ perCent(results.total.viewable / results.total.impressions) }}</b> of them viewable,
          <b>{{ count(results.total.clicks) }}</b> clicks, for <b>{{ money(results.total.spendMicros) }}</b>.
          <template v-if="toLeaveOut.length > 0">
            From the next hour, <mark>leave {{ plural(toLeaveOut.length) }} out</mark> of this line: they took {{ money(freed / days) }} a
            day.</template
          >
          <template v-if="toTakeIn.length > 0">
            <mark>Take {{ plural(toTakeIn.length) }} in again</mark>.</template
          >
        </p>
        <p v-else>Nothing was bought {{ from || to ? 'in this period' : 'yet' }}. Put the line live and run the market.</p>
        <span v-if="session.may('live')" class="LineResults-act">
          <ElButton v-if="toLeaveOut.length > 0" type="primary" :loading="isBusy" data-test="leave-out" @click="onAct(true)"
            >Leave {{ toLeaveOut.length }} out</ElButton
          >
          <ElButton v-if="toTakeIn.length > 0" :loading="isBusy" @click="onAct(false)">Take {{ toTakeIn.length }} in</ElButton>
        </span>
      </div>
      <PlacementResults
        v-if="results.rows.length > 0"
        :results="results"
        :chosen="chosen"
        :disabled="!session.may('live')"
        @choose="onChoose" />
    </template>
    <ForecastRecord :campaign="null" :line="id" />
  </div>
</template>

<style>
.LineResults {
  padding: 12px 24px 40px;
}

.LineResults header {
  display: flex;
  gap: 8px;
  align-items: center;
}

.LineResults header p {
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

.LineResults-act {
  white-space: nowrap;
}
</style>
