<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import type { SurveyView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import { api } from '@/api'
import { about, cpm, perCent } from '@/composables/formats'
import DataTable from '@/parts/DataTable.vue'
import type { TableColumn } from '@/parts/table-columns'
import StateNote from '@/parts/StateNote.vue'
import BidCurve from './BidCurve.vue'
import WeekMap from './WeekMap.vue'
import { MARKET_COLUMNS, isOfOffer, type MarketRow } from './columns'
import { MOST_DRAWN } from './use-market-address'
import { endsOf, pointsOf } from './bid-curve-points'
import { restrictedTo } from './restrict'

/** Rows that are compared: all in a table where they are many, some of them drawn side by side. */
export interface CompareRowsProps {
  rows: readonly MarketRow[]
  /** Keys of those that are drawn. */
  drawn: readonly number[]
  by: SurveyBy
  sentence: Sentence
  bidMicros: number
}
const props = defineProps<CompareRowsProps>()
const emit = defineEmits<{ close: []; draw: [keys: readonly number[]] }>()
const shown = computed(() => props.rows.filter((row) => props.drawn.includes(row.key)))
function onDraw(key: number) {
  const keys = shown.value.map((row) => row.key)
  emit('draw', keys.includes(key) ? keys.filter((one) => one !== key) : [...keys, key])
}
const found = shallowRef<(SurveyView | null)[]>([])
const error = shallowRef<string | null>(null)
const COLUMNS: readonly TableColumn<MarketRow>[] = [
  { id: 'tick', label: 'drawn', width: 26, side: 'left', isBare: true, cellClass: () => 'MarketTable-tick' },
  { id: 'name', label: 'name', least: 180, side: 'left', value: (row) => row.label, isHead: true },
  ...MARKET_COLUMNS.filter((column) => !column.hidden && !isOfOffer(column) && !column.id.startsWith('own'))
]
const people = shallowRef<number[][]>([])
let asked = 0

watch(() => [shown.value.map((row) => row.key).join(), props.sentence, props.bidMicros], load, { immediate: true })
async function load() {
  const mine = ++asked
  const rows = shown.value
  found.value = []
  people.value = []
  error.value = null
  if (rows.length === 0) return
  try {
    const answers = await Promise.all(
      rows.map((row, n) =>
        api.survey(`compare-${n}`, {
          sentence: restrictedTo(props.sentence, props.by, [row], 'include'),
          by: ['device', 'age'],
          without: null,
          bidMicros: props.bidMicros
        })
      )
    )
    const { overlap } = await api.survey('compare-people', {
      sentence: restrictedTo(props.sentence, props.by, rows, 'include'),
      by: [props.by],
      without: null,
      bidMicros: 0,
      compare: rows.map((row) => row.key)
    })
    if (mine !== asked) return
    found.value = answers
    people.value = overlap
  } catch (failure) {
    if (mine === asked) error.value = (failure as Error).message
  }
}

/** All curves by one scale. */
const ends = computed(() => endsOf(found.value.flatMap((one) => (one ? [pointsOf(one.curve, one.total.opportunitiesADay)] : []))))

/** The shares of a row's groups, the same order in all columns. */
const groups = computed(() =>
  [0, 1].map((g) => {
    const names = [...new Map(found.value.flatMap((one) => one?.groups[g].rows ?? []).map((row) => [row.key, row.label]))].sort(
      (a, b) => a[0] - b[0]
    )
    return {
      by: g === 0 ? 'devices' : 'ages',
      rows: names.map(([key, label]) => ({
        label,
        shares: found.value.map(
          (one) =>
            (one?.groups[g].rows.find((row) => row.key === key)?.opportunitiesADay ?? 0) / Math.max(1, one?.total.opportunitiesADay ?? 1)
        )
      }))
    }
  })
)
</script>

<template>
  <section class="CompareRows" aria-label="Side by side" data-test="compared">
    <p class="CompareRows-top">
      <span v-if="rows.length > MOST_DRAWN"
        ><b>{{ rows.length }}</b> compared; drawn, at most {{ MOST_DRAWN }}: {{ shown.map((row) => row.label).join(', ') || 'none' }}</span
      >
      <button class="plain" type="button" @click="$emit('close')">back to the rows</button>
    </p>
    <DataTable
      v-if="rows.length > MOST_DRAWN"
      class="CompareRows-table"
      :rows="rows"
      :columns="COLUMNS"
      :row-key="(row) => row.key"
      :row-class="(row) => (drawn.includes(row.key) ? 'is-chosen' : '')"
      :sort="{ id: 'day', down: true }"
      label="Compared">
      <template #cell-tick="{ row }"
        ><input
          type="checkbox"
          :checked="drawn.includes(row.key)"
          :disabled="!drawn.includes(row.key) && shown.length >= MOST_DRAWN"
          :aria-label="`Draw ${row.label}`"
          @change="onDraw(row.key)"
      /></template>
    </DataTable>
    <StateNote v-if="error" :error="error" @retry="load" />
    <div class="CompareRows-columns" :style="{ gridTemplateColumns: `repeat(${Math.max(1, shown.length)}, minmax(0, 1fr))` }">
      <article v-for="(row, n) in shown" :key="row.key">
        <h2>{{ row.label }}</h2>
        <p class="quiet small">{{ row.about }}</p>
        <p class="CompareRows-said">
          <b>{{ about(row.opportunitiesADay) }}</b> a day to <b>{{ about(row.people) }}</b> people; half at
          <b>{{ cpm(row.halfMicros) }}</b>, nine in ten at {{ cpm(row.nineInTenMicros) }}; {{ perCent(row.viewability) }} viewable,
          {{ perCent(row.bots, 1) }} robots, grade {{ row.grade }}.
        </p>
        <p v-if="people[n] && shown.length > 1" class="CompareRows-said">
          Of its people
          <template v-for="(other, m) in shown" :key="other.key"
            ><template v-if="m !== n"
              ><b>{{ perCent(people[n][n] > 0 ? people[n][m] / people[n][n] : 0) }}</b> are at {{ other.label }} too{{
                m === shown.length - 1 || (n === shown.length - 1 && m === n - 1) ? '.' : ', '
              }}</template
            ></template
          >
        </p>
        <template v-if="found[n]">
          <BidCurve :curve="found[n].curve" :a-day="found[n].total.opportunitiesADay" :bid-micros="bidMicros" :ends="ends" />
          <WeekMap :week="found[n].week" />
          <div v-for="group in groups" :key="group.by" class="CompareRows-group">
            <h3>{{ group.by }}</h3>
            <p v-for="one in group.rows" :key="one.label">
              <span>{{ one.label }}</span><i><u :style="{ width: `${100 * one.shares[n]}%` }" /></i><b>{{ perCent(one.shares[n]) }}</b>
            </p>
          </div>
        </template>
        <StateNote v-else-if="!error" reads="Counting" is-counted />
      </article>
    </div>
  </section>
</template>

<style>
.CompareRows {
  position: relative;
  min-height: 0;
  overflow: auto;
}

.CompareRows-columns {
  display: grid;
  gap: 18px;
}

.CompareRows h2 {
  padding-bottom: 3px;
  border-bottom: 1px solid var(--ink);
  font: 600 14px var(--serif);
}

.CompareRows h3 {
  margin: 8px 0 2px;
  color: var(--ink-2);
  font: 400 12px var(--sans);
}

.CompareRows-said {
  margin: 4px 0 8px;
  font: 13px/1.5 var(--serif);
}

.CompareRows-group p {
  display: grid;
  grid-template-columns: 84px 1fr 40px;
  gap: 6px;
  align-items: center;
  font-size: 12px;
}

.CompareRows-group i {
  height: 8px;
  background: var(--tin-2);
}

.CompareRows-group u {
  display: block;
  height: 8px;
  background: var(--water);
}

.CompareRows-group b {
  font-weight: 400;
  text-align: right;
}

.CompareRows-top {
  display: flex;
  gap: 16px;
  align-items: baseline;
  padding: 4px 0;
}

.CompareRows-table {
  max-height: 196px;
  margin-bottom: 12px;
}
</style>
