<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import type { SurveyRowView, SurveyView } from '@tin-harbor/core/contract'
import type { Sentence } from '@tin-harbor/core/forecast'
import { valuesOf } from '@tin-harbor/core/targeting'
import { about, cpm, decimal, perCent } from '@/composables/formats'
import type { GlossaryTerm } from '@tin-harbor/core/wording'
import TermNote from '@/parts/TermNote.vue'
import BidCurve from './BidCurve.vue'
import WeekMap from './WeekMap.vue'

const MarketMap = defineAsyncComponent(() => import('./MarketMap.vue'))

/** What the sentence is of as a whole: its figures, what a bid wins, when it is there, and where. */
export interface MarketSideProps {
  survey: SurveyView
  sentence: Sentence
  bidMicros: number
  countries: SurveyRowView[]
  regions: SurveyRowView[]
}
const props = defineProps<MarketSideProps>()
defineEmits<{ country: [code: string] }>()

const country = computed(() => {
  const places = valuesOf(props.sentence.targeting, 'where')
  return places.length === 1 && places[0].length === 2 ? places[0] : null
})
interface Figure {
  now: string
  unit: string
  term?: GlossaryTerm
}
const figures = computed((): Figure[] => {
  const all = props.survey.total
  // Where nothing is, nothing has a price.
  if (all.opportunitiesADay === 0) return [{ now: '0', unit: 'a day', term: 'opportunity' as const }]
  return [
    { now: about(all.opportunitiesADay), unit: 'a day', term: 'opportunity' },
    { now: about(all.people), unit: 'people, 14 days' },
    { now: decimal(all.rivals), unit: 'rivals, up to 2', term: 'rivals' },
    { now: cpm(all.entersMicros), unit: 'CPM wins 1 in 10', term: 'firstTenth' },
    { now: cpm(all.halfMicros), unit: 'wins half', term: 'half' },
    { now: cpm(all.nineInTenMicros), unit: 'wins 9 in 10', term: 'nineInTen' },
    { now: cpm(all.floorMicros), unit: 'lowest floor', term: 'floor' },
    { now: cpm(all.mostFloorsMicros ?? 0), unit: 'over 95 % of floors', term: 'floor' },
    { now: perCent(all.winRate), unit: `won by ${cpm(props.bidMicros)}`, term: 'bidWins' }
  ] satisfies Figure[]
})
</script>

<template>
  <aside class="MarketSide" aria-label="What the sentence is of">
    <dl data-test="figures">
      <div v-for="{ now, unit, term } in figures" :key="unit">
        <dt>
          <TermNote v-if="term" :of="term" :words="unit" /><template v-else>{{ unit }}</template>
        </dt>
        <dd>{{ now }}</dd>
      </div>
    </dl>
    <template v-if="survey.total.opportunitiesADay > 0">
      <h2>Won a day, by bid</h2>
      <BidCurve :curve="survey.curve" :a-day="survey.total.opportunitiesADay" :bid-micros="bidMicros" />
      <WeekMap :week="survey.week" />
    </template>
    <MarketMap :countries="countries" :regions="regions" :country="country" @choose="(code) => $emit('country', code)" />
  </aside>
</template>

<style>
.MarketSide {
  position: relative;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
  padding: 10px 0 16px;
  overflow: auto;
}

.MarketSide h2 {
  margin-bottom: -8px;
  color: var(--ink-2);
  font: 400 12px var(--sans);
}

.MarketSide dl {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 7px 8px;
  margin: 0;
}

.MarketSide dl div {
  display: grid;
}

.MarketSide dt {
  grid-row: 2;
  color: var(--ink-2);
  font-size: 11px;
}

.MarketSide dd {
  margin: 0;
  font: 600 17px/1.15 var(--sans);
  font-stretch: 88%;
}
</style>
