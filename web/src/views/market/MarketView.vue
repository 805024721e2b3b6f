<script setup lang="ts">
import { phraseTitle } from '@tin-harbor/core/buying'
import TermNote from '@/parts/TermNote.vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ElButton } from 'element-plus'
import { withValues } from '@tin-harbor/core/targeting'
import { dateOfDay } from '@tin-harbor/core/time'
import { count, shortDate } from '@/composables/formats'
import StateNote from '@/parts/StateNote.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import ChosenRows from './ChosenRows.vue'
import CompareRows from './CompareRows.vue'
import MarketSide from './MarketSide.vue'
import MarketTable from './MarketTable.vue'
import MarketTabs from './MarketTabs.vue'
import MarketTools from './MarketTools.vue'
import SentenceBar from './SentenceBar.vue'
import StartLine from './StartLine.vue'
import ToLine from './ToLine.vue'
import { phraseFor, restrictedTo, valuesOfRows } from './restrict'
import { ROWS, useMarketAddress } from './use-market-address'
import { useMarketRows } from './use-market-rows'

const router = useRouter()
const market = useMarket()
const session = useSession()
const address = useMarketAddress()
const { sentence, spoilt, setSentence, by, bidMicros, columns, sort, setSort, compare } = address
const {
  survey,
  error,
  isAsking,
  load,
  groupOf,
  rows,
  chosen,
  unfolded,
  chosenRows,
  chosenBy,
  choosable,
  choose,
  chooseAll,
  chooseNone,
  unfold
} = useMarketRows(address)

/** What a line is started on: all that the sentence is of, or the chosen rows of it. */
const starting = ref<'sentence' | 'rows' | null>(null)
/** Chosen rows are put into a line that is there: the dimension that they are values of. */
const isToLine = ref(false)
const chosenDimension = computed(() => {
  const phrase = phraseFor(chosenBy.value)
  return phrase === null || phrase === 'format' || phrase === 'hours' ? null : phrase
})
/** Deals are not in a sentence: a line buys by them. */
const startOn = computed(() => {
  if (starting.value === 'sentence') return { sentence: sentence.value }
  if (chosenBy.value === 'deal') return { sentence: sentence.value, deals: chosenRows.value.map((row) => row.key) }
  return { sentence: restrictedTo(sentence.value, chosenBy.value, chosenRows.value, 'include') }
})
const compared = computed(() =>
  address.comparing.value
    .map((key) => groupOf(by.value).find((row) => row.key === key))
    .flatMap((row) => (row ? [{ ...row, own: null }] : []))
)
/** Placements under properties are compared among rows of placements. */
function onCompare() {
  const keys = chosenRows.value.map((row) => row.key)
  if (chosenBy.value !== by.value) address.setBy(chosenBy.value)
  compare(keys)
}
const tapeDays = computed(() => {
  const last = Math.floor(market.run.hour / 24) - 1
  return last > 0 ? `${shortDate(dateOfDay(last - 13))} to ${shortDate(dateOfDay(last))}` : ''
})
const onOpen = (property: string) =>
  router.push({
    name: 'property',
    params: { property },
    query: { said: address.said.value || undefined, bid: address.bid.value || undefined }
  })
/** Takes the phrase away that leaves nothing. */
function lift() {
  const phrase = survey.value?.emptiedBy
  if (phrase === 'format') setSentence({ ...sentence.value, formats: [] })
  else if (phrase === 'hours') setSentence({ ...sentence.value, hours: null })
  else if (phrase)
    setSentence({
      ...sentence.value,
      targeting: { restrictions: sentence.value.targeting.restrictions.filter((one) => one.dimension !== phrase) }
    })
}
</script>

<template>
  <section class="MarketView">
    <h1 class="visually-hidden">Market</h1>
    <header class="MarketView-top">
      <SentenceBar :sentence="sentence" :emptied-by="survey?.emptiedBy ?? null" @change="setSentence" />
      <MarketTabs />
      <ElButton v-if="session.may('draft')" size="small" data-test="make-line" @click="starting = 'sentence'">Make a line of it</ElButton>
    </header>
    <p v-if="spoilt" class="trouble" role="alert">{{ spoilt }} Everything is shown instead.</p>
    <p v-if="survey?.emptiedBy" class="MarketView-said" role="status">
      Nothing in the recorded days is like that: “{{ phraseTitle(survey.emptiedBy) }}” leaves nothing of what was left before.
      <button class="plain" type="button" data-test="lift" @click="lift">Lift it</button>
    </p>
    <div class="MarketView-body">
      <div class="MarketView-main">
        <MarketTools :market="address" :rows="rows" />
        <div class="MarketView-said" aria-live="polite">
          <StateNote v-if="error || !survey" :error="error" reads="Counting the market" is-counted @retry="load" />
          <ChosenRows
            v-else-if="chosenRows.length > 0"
            :rows="chosenRows"
            :by="chosenBy"
            :all="choosable.length"
            @start="starting = 'rows'"
            @to-line="isToLine = true"
            @only="(mode) => setSentence(restrictedTo(sentence, chosenBy, chosenRows, mode))"
            @compare="onCompare"
            @all="chooseAll"
            @none="chooseNone" />
          <template v-else>
            <span
              ><b>{{ count(rows.filter((row) => !row.isPlacement).length) }}</b> {{ ROWS.find((row) => row.by === by)?.words }}, counted on
              <TermNote of="recording" :words="tapeDays" />{{
                survey.every > 1 ? `, one person in ${survey.every} of those recorded` : ''
              }}.</span
            >
            <button v-if="choosable.length > 0" class="plain" type="button" data-test="choose-all" @click="chooseAll">
              choose them all
            </button>
          </template>
        </div>
        <CompareRows
          v-if="compared.length > 1"
          :rows="compared"
          :by="by"
          :sentence="sentence"
          :bid-micros="bidMicros"
          :drawn="address.drawn.value"
          @draw="address.draw"
          @close="compare([])" />
        <MarketTable
          v-else
          :rows="rows"
          :columns="columns"
          :by="by"
          :sort="sort"
          :chosen="chosen"
          :is-waiting="isAsking || !survey"
          :unfolds="by === 'property'"
          :unfolded="unfolded"
          @sort="setSort"
          @choose="choose"
          @unfold="unfold"
          @open="onOpen" />
      </div>
      <MarketSide
        v-if="survey"
        :survey="survey"
        :sentence="sentence"
        :bid-micros="bidMicros"
        :countries="groupOf('country')"
        :regions="groupOf('region')"
        @country="(code) => setSentence({ ...sentence, targeting: withValues(sentence.targeting, 'where', 'include', [code]) })" />
    </div>
    <StartLine v-if="starting" v-bind="startOn" @close="starting = null" />
    <ToLine
      v-if="isToLine && chosenDimension"
      :dimension="chosenDimension"
      :values="valuesOfRows(chosenBy, chosenRows)"
      :words="chosenRows.length > 4 ? `${count(chosenRows.length)} chosen` : chosenRows.map((row) => row.label).join(', ')"
      @close="isToLine = false" />
  </section>
</template>

<style>
.MarketView {
  display: grid;
  grid-template-rows: auto auto 1fr;
  height: 100%;
  padding: 12px 24px 0;
  background: var(--paper);
}

.MarketView-top {
  display: flex;
  gap: 18px;
  align-items: baseline;
  justify-content: space-between;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
}

.MarketView-body {
  display: grid;
  grid-row: 3;
  grid-template-columns: 1fr 286px;
  gap: 20px;
  min-height: 0;
}

.MarketView-main {
  display: grid;
  grid-template-rows: auto auto 1fr;
  min-width: 0;
  min-height: 0;
}

.MarketView-said {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
  padding: 5px 0;
  font: 13px/1.45 var(--serif);
}
</style>
