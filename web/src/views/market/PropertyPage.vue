<script setup lang="ts">
import { computed, onMounted, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { sentenceWords } from '@tin-harbor/core/buying'
import type { PropertyView } from '@tin-harbor/core/contract'
import { SOURCES } from '@tin-harbor/core/market'
import { withValues } from '@tin-harbor/core/targeting'
import { api } from '@/api'
import { about, cpm, perCent } from '@/composables/formats'
import BidCurve from './BidCurve.vue'
import WeekMap from './WeekMap.vue'
import { readBid, readSentence } from './read-sentence'
import PlacementsOf from './PlacementsOf.vue'
import PropertyActs from './PropertyActs.vue'
import SellersOf from './SellersOf.vue'
import { restrictedTo } from './restrict'
import { useWhyPrice } from './use-why-price'
import { useSurvey } from '@/composables/use-survey'
import StateNote from '@/parts/StateNote.vue'

const route = useRoute()
const router = useRouter()
const code = String(route.params.property)
const property = shallowRef<PropertyView | null>(null)
const error = shallowRef<string | null>(null)
const { survey, error: surveyError, ask } = useSurvey('property')

/** The sentence that the trader came with: the property is counted inside it. */
const sentence = computed(() => readSentence(String(route.query.said ?? '')).sentence)
/** The bid that the trader looked at the Market with. */
const bidMicros = readBid(String(route.query.bid ?? ''))
async function load() {
  try {
    property.value = await api.property(code)
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
onMounted(() => {
  void load()
  void ask({
    sentence: { ...sentence.value, targeting: withValues(sentence.value.targeting, 'property', 'include', [code]) },
    by: ['placement', 'source', 'country', 'device'],
    without: null,
    bidMicros
  })
})
const rowsOf = (by: string) => survey.value?.groups.find((group) => group.by === by)?.rows ?? []
const trafficOf = (placement: string) => rowsOf('placement').find((row) => row.code === placement)
const whyPrice = useWhyPrice(property, sentence, (placement) => trafficOf(placement)?.opportunitiesADay ?? 0)

/** What it is, as far as anybody is told. */
const kindWords = computed(() => {
  if (!property.value) return ''
  const { class: kind, category, home, publisher } = property.value
  const one = `${/^[aeiou]/.test(kind) ? 'An' : 'A'} ${kind}`
  return publisher === null
    ? `${one} made in ${home}, sold under a number: nobody is told whose it is, and what it is about.`
    : `${one} about ${category ?? 'many things'}, made in ${home} by ${publisher}.`
})

/** Back to the Market, without what is not authorised. */
function leaveOut(what: 'property' | 'source') {
  const rows =
    what === 'property'
      ? [{ key: 0, label: '', code }]
      : (property.value?.sellers ?? [])
          .filter((seller) => !seller.authorised)
          .map(({ source }) => ({ key: SOURCES.findIndex(({ name }) => name === source), label: source }))
  void router.push({ name: 'market', query: { ...route.query, said: JSON.stringify(restrictedTo(sentence.value, what, rows, 'exclude')) } })
}
</script>

<template>
  <section class="PropertyPage">
    <StateNote v-if="error || !property" :error="error" reads="Reading what is known of it" @retry="load" />
    <template v-else>
      <header>
        <p class="quiet">
          <RouterLink :to="{ name: 'market', query: route.query }">Market</RouterLink> <span aria-hidden="true">/</span> property
        </p>
        <h1>
          {{ property.name }} <small class="quiet">{{ property.domain }}</small>
        </h1>
        <p class="PropertyPage-said">
          {{ kindWords }}
          <template v-if="survey && survey.total.opportunitiesADay > 0">
            “{{ sentenceWords(sentence) }}” finds <b>{{ about(survey.total.opportunitiesADay) }}</b> opportunities a day here, to
            <b>{{ about(survey.total.people) }}</b> people in 14 days; <b>{{ cpm(survey.total.halfMicros) }}</b> wins half of them,
            {{ cpm(survey.total.nineInTenMicros) }} nine in ten. {{ perCent(survey.total.viewability) }} viewable,
            {{ perCent(survey.total.bots, 1) }} robots, grade {{ survey.total.grade }}.</template
          >
          <template v-else-if="survey"> “{{ sentenceWords(sentence) }}” finds nothing here.</template>
          <span v-if="whyPrice" data-test="why-price">{{ ' ' }}{{ whyPrice }}</span>
        </p>
        <PropertyActs :property="property" :sentence="sentence" @leave="leaveOut('property')" />
      </header>
      <p v-if="surveyError" class="trouble" role="alert">{{ surveyError }}</p>
      <div class="PropertyPage-columns">
        <div>
          <SellersOf :property="property" @leave="leaveOut" />
          <h2 class="ruled">Placements</h2>
          <PlacementsOf :placements="property.placements" :traffic-of="trafficOf" />
        </div>
        <aside v-if="survey && survey.total.opportunitiesADay > 0">
          <h2 class="ruled">Won a day, by bid</h2>
          <BidCurve :curve="survey.curve" :a-day="survey.total.opportunitiesADay" :bid-micros="bidMicros" />
          <WeekMap :week="survey.week" />
          <template v-for="by in ['source', 'country', 'device']" :key="by">
            <h2 class="ruled">By {{ by }}</h2>
            <table class="panel-table">
              <tbody>
                <tr v-for="row in [...rowsOf(by)].sort((a, b) => b.opportunitiesADay - a.opportunitiesADay).slice(0, 8)" :key="row.key">
                  <th scope="row">
                    {{ row.label }}<i :style="{ width: `${(100 * row.opportunitiesADay) / (survey?.total.opportunitiesADay ?? 1)}%` }" />
                  </th>
                  <td>{{ about(row.opportunitiesADay) }}</td>
                  <td>{{ cpm(row.halfMicros) }}</td>
                </tr>
              </tbody>
            </table>
          </template>
        </aside>
      </div>
    </template>
  </section>
</template>

<style>
.PropertyPage {
  position: relative;
  height: 100%;
  padding: 10px 24px 40px;
  overflow: auto;
  background: var(--paper);
}

.PropertyPage > header {
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
}

.PropertyPage h1 {
  font: 600 20px var(--serif);
}

.PropertyPage h1 small {
  font: 13px var(--sans);
}

.PropertyPage-said {
  max-width: 900px;
  margin-top: 4px;
  font: 14px/1.55 var(--serif);
}

.PropertyPage-columns {
  display: grid;
  grid-template-columns: 1fr 290px;
  gap: 28px;
}
</style>
