<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ElButton, ElOption, ElOptionGroup, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-option-group.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-select.css'
import { DIMENSION_SETS, dimensionTitle } from '@tin-harbor/core/dimensions'
import type { ReportView } from '@tin-harbor/core/contract'
import { dateOfDay, localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { ApiError, api, isAbort } from '@/api'
import { ORGANISATION_ZONE, count, cpm, decimal, money, perCent } from '@/composables/formats'
import { useAddress } from '@/composables/use-address'
import { useMarketTick } from '@/composables/use-market-tick'
import DayField from '@/parts/DayField.vue'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import ReportTable from './ReportTable.vue'
import ShopVisits from './ShopVisits.vue'
import { saveReport } from './report-columns'

const address = useAddress()
const manifest = useManifest()
const market = useMarket()
const report = shallowRef<ReportView | null>(null)
const error = shallowRef<ApiError | null>(null)
const isLoading = ref(false)
let asking: AbortController | null = null

const WINDOWS = [
  { hours: 24, label: 'a day' },
  { hours: 7 * 24, label: '7 days' },
  { hours: 30 * 24, label: '30 days' }
]
const part = {
  by: address.part('by'),
  of: address.part('of'),
  from: address.part('from'),
  to: address.part('to'),
  within: address.part('within')
}
const today = computed(() => localDayOf(zoneIndex(ORGANISATION_ZONE), Math.max(0, market.run.hour - 1)))
const by = computed({ get: () => part.by.value || 'placement', set: (value: string) => (part.by.value = value) })
/** `c12` for a campaign, `l1001` for a line; `all` for what the user sees. */
const whose = computed({ get: () => part.of.value || 'all', set: (value: string) => (part.of.value = value === 'all' ? '' : value) })
const from = computed({
  get: () => part.from.value || dateOfDay(today.value - 13),
  set: (value: string | null) => (part.from.value = value ?? '')
})
const to = computed({ get: () => part.to.value || dateOfDay(today.value), set: (value: string | null) => (part.to.value = value ?? '') })
const within = computed({ get: () => Number(part.within.value) || 30 * 24, set: (value: number) => (part.within.value = String(value)) })
const number = (letter: string) => (whose.value.startsWith(letter) ? Number(whose.value.slice(1)) : null)

/** Shops are an advertiser's: they are told of for a campaign or one of its lines. */
const shopsOf = computed(() => number('c') ?? manifest.lines.find((line) => line.id === number('l'))?.campaignId ?? null)

async function load() {
  if (market.run.hour === 0) return
  asking?.abort()
  const own = (asking = new AbortController())
  isLoading.value = true
  try {
    report.value = await api.report(
      { by: by.value, from: from.value, to: to.value, windowHours: within.value, campaign: number('c'), line: number('l') },
      { signal: own.signal }
    )
    error.value = null
  } catch (failure) {
    if (isAbort(failure)) return
    error.value = failure as ApiError
  }
  isLoading.value = false
}
onMounted(() => manifest.load())
watch([by, whose, from, to, within, () => market.run.hour > 0], load, { immediate: true })
useMarketTick(load)

/** What the client is charged, where that is not what we paid. */
const chargedWords = computed(() => {
  const { spendMicros, chargedMicros } = report.value?.total ?? { spendMicros: 0, chargedMicros: 0 }
  return chargedMicros === spendMicros ? '' : `, for which clients are charged ${money(chargedMicros)}`
})
const onCsv = () => report.value && saveReport(report.value, from.value, to.value)
</script>

<template>
  <section class="ReportsView">
    <h1 class="visually-hidden">Reports</h1>
    <p class="ReportsView-sentence">
      Results of
      <ElSelect v-model="whose" aria-label="Of what" filterable class="ReportsView-of" data-test="report-of">
        <ElOption value="all" label="everything" />
        <ElOptionGroup v-for="campaign in manifest.campaigns" :key="campaign.id" :label="campaign.name">
          <ElOption :value="`c${campaign.id}`" :label="campaign.name" />
          <ElOption
            v-for="line in manifest.lines.filter((one) => one.campaignId === campaign.id)"
            :key="line.id"
            :value="`l${line.id}`"
            :label="manifest.lineName(line.id)" />
        </ElOptionGroup>
      </ElSelect>
      by
      <ElSelect v-model="by" aria-label="By what" filterable class="ReportsView-by" data-test="report-by">
        <ElOptionGroup v-for="set in DIMENSION_SETS" :key="set.name" :label="set.name"
          ><ElOption v-for="name in set.dimensions" :key="name" :value="name" :label="dimensionTitle(name)"
        /></ElOptionGroup>
      </ElSelect>
      from <DayField id="report-from" v-model="from" /> to
      <span class="ReportsView-end"><DayField id="report-to" v-model="to" />,</span> conversions within
      <ElSelect v-model="within" aria-label="Conversion window" class="ReportsView-within"
        ><ElOption v-for="window in WINDOWS" :key="window.hours" :value="window.hours" :label="window.label"
      /></ElSelect>
    </p>
    <StateNote v-if="error" :error="error.message" @retry="load" />
    <template v-else-if="report">
      <p class="ReportsView-total" aria-live="polite">
        <b>{{ count(report.total.wins) }}</b> shown to <b>{{ count(report.total.people) }}</b> people,
        {{ decimal(report.total.frequency) }} times each, for <b>{{ money(report.total.spendMicros) }}</b> that we paid (CPM
        {{ cpm(report.total.cpmMicros) }}){{ chargedWords }}: {{ perCent(report.total.viewableShare) }} viewable,<template
          v-if="report.total.reached[0] > 0"
          >{{ ' ' }} {{ perCent(report.total.reached[3] / report.total.reached[0]) }} of those who began watched or heard it to the
          end,</template
        >
        {{ count(report.total.clicks) }} clicks, {{ count(report.total.stays) }} stays,
        {{ count(report.total.conversions) }} conversions<template v-if="report.total.conversions > 0">
          worth {{ money(report.total.valueMicros) }}, {{ count(report.total.viewConversions) }} of them after a view alone</template
        >.
        <template v-if="report.by === 'audience'"> One showing counts for every audience its person is in.</template>
        <ElButton size="small" :disabled="report.rows.length === 0" @click="onCsv">CSV</ElButton>
        <RouterLink class="ReportsView-forecasts" :to="{ name: 'forecasts', query: whose === 'all' ? {} : { of: whose } }"
          >What was forecast</RouterLink
        >
      </p>
      <ShopVisits v-if="shopsOf" :campaign="shopsOf" :line="number('l')" :from="from" :to="to" :hour="market.run.hour" />
      <ReportTable :report="report" :is-waiting="isLoading" />
    </template>
    <StateNote v-else reads="Reading what was bought, day by day" />
  </section>
</template>

<style>
.ReportsView {
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 10px 24px 0;
  background: var(--paper);
}

.ReportsView-sentence {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 9px;
  align-items: center;
  padding-bottom: 9px;
  border-bottom: 1px solid var(--ink);
  font: 18.5px/1.4 var(--serif);
}

.ReportsView-sentence .el-select__wrapper,
.ReportsView-sentence .el-input__wrapper {
  border-bottom: 1px solid var(--brass);
  border-radius: 0;
  background: none;
  box-shadow: none !important;
  font: 600 17px var(--serif);
}

.ReportsView-sentence .el-input__inner {
  color: var(--ink);
  font: 600 16px var(--serif);
}

.ReportsView-sentence .el-date-editor.el-input {
  width: 142px;
}

.ReportsView-of {
  width: 232px;
}

.ReportsView-by {
  width: 166px;
}

.ReportsView-within {
  width: 112px;
}

.ReportsView-end {
  white-space: nowrap;
}

.ReportsView-total {
  margin: 9px 0 4px;
  font: 13.5px/1.6 var(--serif);
}

.ReportsView-total .el-button,
.ReportsView-forecasts {
  white-space: nowrap;
  margin-left: 8px;
}
</style>
