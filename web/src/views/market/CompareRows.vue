<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import type { SurveyRowView, SurveyView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import { api } from '@/api'
import { about, cpm, perCent } from '@/composables/formats'
import BidCurve from './BidCurve.vue'
import WeekMap from './WeekMap.vue'
import { restrictedTo } from './restrict'

/** Two to four rows side by side. */
export interface CompareRowsProps {
  rows: readonly SurveyRowView[]
  by: SurveyBy
  sentence: Sentence
  bidMicros: number
}
const props = defineProps<CompareRowsProps>()
defineEmits<{ close: [] }>()
const found = shallowRef<(SurveyView | null)[]>([])
const error = shallowRef<string | null>(null)
const people = shallowRef<number[][]>([])
let asked = 0

watch(
  () => [props.rows.map((row) => row.key).join(), props.sentence, props.bidMicros],
  async () => {
    const mine = ++asked
    try {
      const answers = await Promise.all(
        props.rows.map((row, n) =>
          api.survey(`compare-${n}`, {
            sentence: restrictedTo(props.sentence, props.by, [row], 'include'),
            by: ['device', 'age'],
            without: null,
            bidMicros: props.bidMicros
          })
        )
      )
      const { overlap } = await api.survey('compare-people', {
        sentence: restrictedTo(props.sentence, props.by, props.rows, 'include'),
        by: [props.by],
        without: null,
        bidMicros: 0,
        compare: props.rows.map((row) => row.key)
      })
      if (mine !== asked) return
      found.value = answers
      people.value = overlap
    } catch (failure) {
      if (mine === asked) error.value = (failure as Error).message
    }
  },
  { immediate: true }
)

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
    <p><button class="plain" type="button" @click="$emit('close')">back to the rows</button></p>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    <div class="CompareRows-columns" :style="{ gridTemplateColumns: `repeat(${rows.length}, minmax(0, 1fr))` }">
      <article v-for="(row, n) in rows" :key="row.key">
        <h2>{{ row.label }}</h2>
        <p class="quiet small">{{ row.about }}</p>
        <p class="CompareRows-said">
          <b>{{ about(row.opportunitiesADay) }}</b> a day to <b>{{ about(row.people) }}</b> people; half at
          <b>{{ cpm(row.halfMicros) }}</b>, nine in ten at {{ cpm(row.nineInTenMicros) }}; {{ perCent(row.viewability) }} viewable,
          {{ perCent(row.bots, 1) }} robots, grade {{ row.grade }}.
        </p>
        <p v-if="people[n]" class="CompareRows-said">
          Of its people
          <template v-for="(other, m) in rows" :key="other.key"
            ><template v-if="m !== n"
              ><b>{{ perCent(people[n][n] > 0 ? people[n][m] / people[n][n] : 0) }}</b> are at {{ other.label }} too{{
                m === rows.length - 1 || (n === rows.length - 1 && m === n - 1) ? '.' : ', '
              }}</template
            ></template
          >
        </p>
        <template v-if="found[n]">
          <BidCurve :curve="found[n].curve" :a-day="found[n].total.opportunitiesADay" :bid-micros="bidMicros" />
          <WeekMap :week="found[n].week" />
          <div v-for="group in groups" :key="group.by" class="CompareRows-group">
            <h3>{{ group.by }}</h3>
            <p v-for="one in group.rows" :key="one.label">
              <span>{{ one.label }}</span><i><u :style="{ width: `${100 * one.shares[n]}%` }" /></i><b>{{ perCent(one.shares[n]) }}</b>
            </p>
          </div>
        </template>
        <p v-else class="quiet">Counting …</p>
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
</style>
