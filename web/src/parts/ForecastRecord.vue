<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import type { ForecastRecordRow, ForecastRecordView } from '@tin-harbor/core/contract'
import type { Judged } from '@tin-harbor/core/forecast'
import { ApiError, api } from '@/api'
import { about, decimal, marketTime, money, perCent } from '@/composables/formats'
import { useMarketTick } from '@/composables/use-market-tick'

export interface ForecastRecordProps {
  campaign: number | null
  line: number | null
}
const props = defineProps<ForecastRecordProps>()

const record = shallowRef<ForecastRecordView | null>(null)
const error = shallowRef<ApiError | null>(null)
let asked = 0

async function load(): Promise<void> {
  const mine = ++asked
  try {
    const answer = await api.forecastRecord(props.campaign, props.line)
    if (mine === asked) record.value = answer
  } catch (failure) {
    if (mine === asked) error.value = failure as ApiError
  }
}
onMounted(load)
watch(() => [props.campaign, props.line], load)
useMarketTick(load)

const FIGURES = ['wins', 'spend', 'views', 'visits', 'conversions'] as const
const words = (what: Judged['what'], value: number) => (what === 'spend' ? money(value) : value < 10 ? decimal(value) : about(value))
const figureOf = (row: ForecastRecordRow, what: Judged['what']) => row.figures.find((figure) => figure.what === what)
const rows = computed(() =>
  (record.value?.rows ?? []).map((row) => ({
    row,
    when: `from ${marketTime(row.from)}`,
    why:
      row.by === null
        ? `changed or running: ${Math.round((row.to - row.from) / 24)} days so far`
        : row.by === 'day'
          ? 'seven days'
          : 'its flight',
    cells: FIGURES.map((what) => {
      const judged = figureOf(row, what)
      if (!judged) return null
      const { said, came, held } = judged
      return {
        came: words(what, came),
        said: `${words(what, said.low)} – ${words(what, said.high)}`,
        held,
        title: `said ${words(what, said.value)}, ${words(what, said.low)} to ${words(what, said.high)}; ${words(what, came)} came`
      }
    })
  }))
)
const summary = computed(() => {
  const { ranges = 0, held = 0 } = record.value ?? {}
  if (ranges === 0) return 'No forecast has run its seven days unchanged yet: then what it said is told beside what came.'
  return `Of ${ranges} range${ranges === 1 ? '' : 's'} ${perCent(held / ranges)} held what came; eight in ten should.`
})
</script>

<template>
  <section class="ForecastRecord" aria-label="What was forecast, and what came" data-test="forecast-record">
    <h2>What was forecast, and what came</h2>
    <p v-if="error" class="trouble" role="alert">{{ error.message }}</p>
    <p v-else-if="record" class="ForecastRecord-summary">{{ summary }}</p>
    <table v-if="rows.length > 0" class="panel-table">
      <thead>
        <tr>
          <th scope="col">line</th>
          <th scope="col">judged by</th>
          <th v-for="what in FIGURES" :key="what" scope="col" class="is-number">{{ what }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ row, when, why, cells } in rows" :key="row.revision">
          <th scope="row">
            <RouterLink :to="{ name: 'line', params: { lineId: row.line } }">{{ row.name }}</RouterLink>
            <span class="quiet">{{ when }}</span>
          </th>
          <td class="quiet">{{ why }}</td>
          <td v-for="(cell, n) in cells" :key="FIGURES[n]" class="is-number" :title="cell?.title">
            <template v-if="cell">
              <b :class="{ 'is-off': !cell.held }">{{ cell.came }}</b>
              <span class="quiet">{{ cell.said }}</span>
              <span v-if="!cell.held" class="quiet">not held</span>
            </template>
            <span v-else class="quiet">–</span>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style>
.ForecastRecord {
  margin: 18px 0 24px;
}

.ForecastRecord h2 {
  margin-bottom: 4px;
}

.ForecastRecord-summary {
  margin-bottom: 8px;
  font: 13.5px/1.6 var(--serif);
}

.ForecastRecord .panel-table {
  max-width: 980px;
}

.ForecastRecord .panel-table td,
.ForecastRecord .panel-table thead th:not(:first-child) {
  width: auto;
  padding-left: 14px;
  vertical-align: top;
  white-space: nowrap;
}

.ForecastRecord td.quiet,
.ForecastRecord .panel-table thead th:nth-child(2) {
  text-align: left;
}

.ForecastRecord th[scope='row'] {
  font-weight: 500;
  text-align: left;
}

.ForecastRecord th[scope='row'] .quiet,
.ForecastRecord td.is-number .quiet {
  display: block;
  font-size: 11px;
  font-weight: 400;
}

.ForecastRecord .is-number {
  text-align: right;
}

.ForecastRecord b.is-off {
  color: var(--hull);
}
</style>
