<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { ElButton } from 'element-plus'
import { EVERYTHING } from '@tin-harbor/core/buying'
import type { ListView, OfferView, ReportRowView, SurveyRowView } from '@tin-harbor/core/contract'
import type { Sentence, SurveyBy } from '@tin-harbor/core/forecast'
import { valuesOf, withValues } from '@tin-harbor/core/targeting'
import { dateOfDay, localDayOf, zoneIndex } from '@tin-harbor/core/time'
import { api } from '@/api'
import { ORGANISATION_ZONE, about, count, cpm, decimal, perCent, shortDate } from '@/composables/formats'
import { useAddress } from '@/composables/use-address'
import MoneyField from '@/parts/MoneyField.vue'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import BidCurve from './BidCurve.vue'
import CompareRows from './CompareRows.vue'
import { MARKET_COLUMNS, isOfOffer, type MarketRow } from './columns'
import MarketTabs from './MarketTabs.vue'
import MarketTable from './MarketTable.vue'
import SentenceBar from './SentenceBar.vue'
import StartLine from './StartLine.vue'
import WeekMap from './WeekMap.vue'
import { downloadRows } from './download'
import { readBid, readSentence } from './read-sentence'
import { restrictedTo } from './restrict'
import { useSurvey } from '@/composables/use-survey'

const MarketMap = defineAsyncComponent(() => import('./MarketMap.vue'))

/** Rows that a trader can choose, and how they are called. */
const ROWS: readonly { by: SurveyBy; words: string }[] = [
  { by: 'property', words: 'properties' },
  { by: 'placement', words: 'placements' },
  { by: 'country', words: 'countries' },
  { by: 'region', words: 'regions' },
  { by: 'format', words: 'formats' },
  { by: 'device', words: 'devices' },
  { by: 'system', words: 'systems' },
  { by: 'carrier', words: 'carriers' },
  { by: 'language', words: 'languages' },
  { by: 'branch of content', words: 'branches of content' },
  { by: 'category', words: 'categories' },
  { by: 'source', words: 'sources' },
  { by: 'deal', words: 'deals' },
  { by: 'size', words: 'sizes' },
  { by: 'publisher', words: 'publishers' }
]

const address = useAddress()
const router = useRouter()
const market = useMarket()
const session = useSession()
const part = {
  said: address.part('said'),
  rows: address.part('rows'),
  sort: address.part('sort'),
  bid: address.part('bid'),
  named: address.part('named'),
  columns: address.part('columns'),
  offer: address.part('offer'),
  compare: address.part('compare')
}

const read = computed(() => readSentence(part.said.value))
const sentence = computed(() => read.value.sentence)
const spoilt = computed(() => read.value.spoilt)
const setSentence = (next: Sentence) => (part.said.value = JSON.stringify(next) === JSON.stringify(EVERYTHING) ? '' : JSON.stringify(next))
const by = computed<SurveyBy>(() => ROWS.find((row) => row.by === part.rows.value)?.by ?? 'property')
const bidMicros = computed(() => readBid(part.bid.value))
const sort = computed(() => {
  const [id, way] = (part.sort.value || 'day.down').split('.')
  return { id, down: way !== 'up' }
})
const offers = shallowRef<OfferView[]>([])
onMounted(async () => (offers.value = (await api.offers().catch(() => null))?.offers ?? []))
const offer = computed(() => offers.value.find((one) => one.id === Number(part.offer.value)) ?? null)
const columns = computed(() => {
  const ids = part.columns.value
    ? part.columns.value.split(',')
    : MARKET_COLUMNS.filter((column) => !column.hidden).map((column) => column.id)
  return MARKET_COLUMNS.filter((column) => (isOfOffer(column) ? offer.value !== null : ids.includes(column.id)))
})

const { survey, error, isAsking, ask } = useSurvey('rows')
const chosen = ref(new Set<number>())
const unfolded = ref(new Set<number>())
const own = shallowRef(new Map<number, ReportRowView>())
/** What a line is started on: all that the sentence is of, or the chosen rows of it. */
const starting = ref<'sentence' | 'rows' | null>(null)

/** A chooser that is open counts first: the rows follow when its values stand. */
const FOLLOWS_MS = 180
let waiting: ReturnType<typeof setTimeout> | undefined
const groupOf = (name: SurveyBy) => survey.value?.groups.find((group) => group.by === name)?.rows ?? []
const load = () =>
  ask({
    sentence: sentence.value,
    by: [...new Set<SurveyBy>([by.value, 'country', 'region'])],
    without: null,
    bidMicros: bidMicros.value,
    offer: offer.value?.id ?? null
  })
watch([by, bidMicros, offer, () => market.tapeReady], load, { immediate: true })
watch(part.said, () => {
  clearTimeout(waiting)
  waiting = setTimeout(load, FOLLOWS_MS)
})
onScopeDispose(() => clearTimeout(waiting))
watch([part.said, by], () => {
  chosen.value = new Set()
  unfolded.value = new Set()
})

/** What our lines had of the same rows in the last four weeks. */
async function loadOwn() {
  own.value = new Map()
  const rowsBy = by.value
  if (rowsBy === 'deal' || market.run.hour === 0) return
  const today = localDayOf(zoneIndex(ORGANISATION_ZONE), market.run.hour - 1)
  const report = await api
    .report({ by: rowsBy, from: dateOfDay(today - 27), to: dateOfDay(today), windowHours: 720, campaign: null, line: null })
    .catch(() => null)
  if (rowsBy === by.value) own.value = new Map(report?.rows.map((row) => [row.key, row]) ?? [])
}
watch([by, () => market.run.hour > 0], loadOwn, { immediate: true })

const { survey: folded, error: foldError, ask: askFolded } = useSurvey('fold')
const placements = computed(() => folded.value?.groups[0].rows ?? [])
watch([unfolded, bidMicros, offer], () => {
  const properties = [...unfolded.value].map(String)
  if (properties.length > 0)
    void askFolded({
      sentence: { ...sentence.value, targeting: withValues(sentence.value.targeting, 'property', 'include', properties) },
      by: ['placement'],
      without: null,
      bidMicros: bidMicros.value,
      offer: offer.value?.id ?? null
    })
})

const ownOf = (row: SurveyRowView) => own.value.get(row.key) ?? null
const rows = computed<MarketRow[]>(() => {
  const wanted = part.named.value.trim().toLowerCase()
  const all = groupOf(by.value)
    .map((row): MarketRow => ({ ...row, own: ownOf(row), payoutMicros: offer.value?.payoutMicros ?? null }))
    .filter((row) => !wanted || `${row.label} ${row.about ?? ''} ${row.publisher ?? ''}`.toLowerCase().includes(wanted))
  const column = MARKET_COLUMNS.find((one) => one.id === sort.value.id)
  const value = (row: MarketRow) => (column ? column.value(row) : row.label)
  const order = (a: MarketRow, b: MarketRow) => {
    const [x, y] = [value(a), value(b)]
    const way =
      typeof x === 'number' && typeof y === 'number'
        ? x - y
        : x === null || y === null
          ? (x === null ? -1 : 1) * (x === y ? 0 : 1)
          : String(x).localeCompare(String(y))
    return (sort.value.down ? -way : way) || a.key - b.key
  }
  return all.sort(order).flatMap((row) => [
    row,
    ...(by.value === 'property' && unfolded.value.has(row.key)
      ? placements.value
          .filter((one) => one.property === row.key)
          .map((one): MarketRow => ({ ...one, own: null, payoutMicros: offer.value?.payoutMicros ?? null, isPlacement: true }))
          .sort(order)
      : [])
  ])
})
const chosenRows = computed(() => rows.value.filter((row) => !row.isPlacement && chosen.value.has(row.key)))

/** What is better when it is less comes with the least first. */
const LEAST_FIRST = new Set(['name', 'floor', 'mean', 'highest', 'half', 'nine', 'bots', 'blocked', 'rivals', 'grade'])
function onSort(id: string) {
  const isDown = sort.value.id === id ? !sort.value.down : !LEAST_FIRST.has(id)
  part.sort.value = `${id}.${isDown ? 'down' : 'up'}`
}
const flip = (set: Set<number>, key: number) => new Set(set.has(key) ? [...set].filter((one) => one !== key) : [...set, key])
function onColumn(id: string) {
  const ids = columns.value.map((column) => column.id)
  part.columns.value = (ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]).join(',')
}
const only = (mode: 'include' | 'exclude') => {
  setSentence(restrictedTo(sentence.value, by.value, chosenRows.value, mode))
}
const country = computed(() => {
  const places = valuesOf(sentence.value.targeting, 'where')
  return places.length === 1 && places[0].length === 2 ? places[0] : null
})
const total = computed(() => survey.value?.total ?? null)
const tapeDays = computed(() => {
  const last = Math.floor(market.run.hour / 24) - 1
  return last > 0 ? `${shortDate(dateOfDay(last - 13))} to ${shortDate(dateOfDay(last))}` : ''
})
const figures = computed(() => {
  const all = total.value
  return all === null
    ? []
    : [
        { now: about(all.opportunitiesADay), unit: 'a day' },
        { now: about(all.people), unit: 'people, 14 days' },
        { now: decimal(all.rivals), unit: 'rivals, of two' },
        { now: cpm(all.entersMicros), unit: 'CPM enters' },
        { now: cpm(all.halfMicros), unit: 'wins half' },
        { now: cpm(all.nineInTenMicros), unit: 'nine in ten' },
        { now: cpm(all.floorMicros), unit: 'lowest floor' },
        { now: cpm(all.mostFloorsMicros ?? 0), unit: 'over 95 % of floors' },
        { now: perCent(all.winRate), unit: `won at ${cpm(bidMicros.value)}` }
      ]
})
const comparing = computed(() => (part.compare.value ? part.compare.value.split(',').map(Number).slice(0, 4) : []))
const compared = computed(() =>
  comparing.value.map((key) => rows.value.find((row) => !row.isPlacement && row.key === key)).filter((row) => row !== undefined)
)
/** Lists that take rows of this kind. */
const lists = shallowRef<ListView[]>([])
const listed = ref<string | null>(null)
const listable = computed(() => (by.value === 'property' ? lists.value.filter((one) => one.kind === 'properties') : []))
watch(
  () => chosen.value.size > 0,
  async (some) => {
    listed.value = null
    if (some) lists.value = (await api.lists().catch(() => null))?.lists ?? []
  }
)
async function onList(id: string) {
  const list = lists.value.find((one) => one.id === Number(id))
  if (!list) return
  try {
    const saved = await api.saveList({
      id: list.id,
      version: list.version,
      rename: null,
      add: chosenRows.value.map((row) => String(row.key)),
      remove: []
    })
    listed.value = `“${saved.name}” holds ${saved.values.length} now.`
    lists.value = (await api.lists()).lists
  } catch (failure) {
    listed.value = (failure as Error).message
  }
}
const lift = () => {
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
      Nothing on the tape is like that: “{{ survey.emptiedBy }}” leaves nothing of what was left before.
      <button class="plain" type="button" data-test="lift" @click="lift">Lift it</button>
    </p>
    <div class="MarketView-body">
      <div class="MarketView-main">
        <div class="MarketView-tools">
          <label
            >Rows
            <select :value="by" class="inline" data-test="rows" @change="part.rows.value = ($event.target as HTMLSelectElement).value">
              <option v-for="row in ROWS" :key="row.by" :value="row.by">{{ row.words }}</option>
            </select></label
          >
          <label
            >named <input v-model="part.named.value" type="search" class="MarketView-named" data-test="named" aria-label="Named"
          /></label>
          <label class="MarketView-bid"
            >won at
            <MoneyField
              id="market-bid"
              :model-value="bidMicros"
              unit="CPM"
              label="Bid whose win rate is shown"
              @update:model-value="(micros) => (part.bid.value = micros && micros > 0 ? String(micros) : '')"
          /></label>
          <label v-if="offers.length > 0"
            >for the offer
            <select v-model="part.offer.value" class="inline" data-test="offer">
              <option value="">none</option>
              <option v-for="one in offers" :key="one.id" :value="String(one.id)">{{ one.advertiser }}: {{ one.name }}</option>
            </select></label
          >
          <details class="MarketView-columns">
            <summary>columns</summary>
            <div>
              <label v-for="column in MARKET_COLUMNS.filter((one) => !isOfOffer(one))" :key="column.id"
                ><input type="checkbox" :checked="columns.includes(column)" @change="onColumn(column.id)" /> {{ column.label }}</label
              >
            </div>
          </details>
          <button class="plain" type="button" :disabled="rows.length === 0" @click="downloadRows('csv', by, columns, rows)">CSV</button>
          <button class="plain" type="button" :disabled="rows.length === 0" @click="downloadRows('xlsx', by, columns, rows)">XLSX</button>
        </div>
        <p class="MarketView-said" aria-live="polite">
          <template v-if="error ?? foldError"
            ><span class="trouble" role="alert">{{ error ?? foldError }}</span
            >{{ ' ' }}<button class="plain" type="button" @click="load">Try again</button></template
          >
          <template v-else-if="!survey">Counting the market …</template>
          <template v-else-if="chosenRows.length > 0">
            <b>{{ chosenRows.length }}</b> chosen:
            <button
              v-if="session.may('draft') && by !== 'deal'"
              class="plain"
              type="button"
              data-test="start-line"
              @click="starting = 'rows'">
              start a line on them
            </button>
            <button v-if="by !== 'deal'" class="plain" type="button" @click="only('include')">only these</button>
            <button v-if="by !== 'deal' && by !== 'format'" class="plain" type="button" @click="only('exclude')">leave them out</button>
            <button
              v-if="chosenRows.length > 1 && chosenRows.length < 5 && by !== 'deal'"
              class="plain"
              type="button"
              data-test="compare"
              @click="part.compare.value = chosenRows.map((row) => row.key).join(',')">
              compare
            </button>
            <label v-if="session.may('draft') && listable.length > 0"
              >put them on
              <select
                class="inline"
                data-test="put-on"
                aria-label="List to put them on"
                @change="onList(($event.target as HTMLSelectElement).value)">
                <option value="">a list</option>
                <option v-for="one in listable" :key="one.id" :value="one.id">{{ one.name }}</option>
              </select></label
            >
            <button class="plain" type="button" @click="chosen = new Set()">none</button>
            <span v-if="listed" role="status">{{ listed }}</span>
          </template>
          <template v-else>
            <b>{{ count(rows.filter((row) => !row.isPlacement).length) }}</b> {{ ROWS.find((row) => row.by === by)?.words }}, counted on the
            tape of {{ tapeDays }}{{ survey.every > 1 ? `, one person in ${survey.every} of it` : '' }}.
          </template>
        </p>
        <CompareRows
          v-if="compared.length > 1"
          :rows="compared"
          :by="by"
          :sentence="sentence"
          :bid-micros="bidMicros"
          @close="part.compare.value = ''" />
        <MarketTable
          v-else
          :rows="rows"
          :columns="columns"
          :by="by"
          :sort="sort"
          :chosen="chosen"
          :is-waiting="isAsking"
          :unfolds="by === 'property'"
          :unfolded="unfolded"
          @sort="onSort"
          @choose="(key) => (chosen = flip(chosen, key))"
          @unfold="(key) => (unfolded = flip(unfolded, key))"
          @open="
            (key) =>
              router.push({
                name: 'property',
                params: { propertyId: key },
                query: { said: part.said.value || undefined, bid: part.bid.value || undefined }
              })
          " />
      </div>
      <aside v-if="total && survey" class="MarketView-side" aria-label="What the sentence is of">
        <dl data-test="figures">
          <div v-for="{ now, unit } in figures" :key="unit">
            <dt>{{ unit }}</dt>
            <dd>{{ now }}</dd>
          </div>
        </dl>
        <h2>Won a day, by bid</h2>
        <BidCurve :curve="survey.curve" :a-day="total.opportunitiesADay" :bid-micros="bidMicros" />
        <WeekMap :week="survey.week" />
        <MarketMap
          :countries="groupOf('country')"
          :regions="groupOf('region')"
          :country="country"
          @choose="(code) => setSentence({ ...sentence, targeting: withValues(sentence.targeting, 'where', 'include', [code]) })" />
      </aside>
    </div>
    <StartLine
      v-if="starting"
      :sentence="starting === 'rows' ? restrictedTo(sentence, by, chosenRows, 'include') : sentence"
      @close="starting = null" />
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

.MarketView-tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  padding-top: 8px;
  font-size: 12.5px;
}

.MarketView-tools select {
  max-width: 150px;
}

.MarketView-named {
  width: 110px;
  border: 0;
  border-bottom: 1px solid var(--water-2);
  background: none;
  font: 12.5px var(--sans);
}

.MarketView-bid .el-input {
  width: 78px;
  height: 24px;
}

.MarketView-columns {
  position: relative;
}

.MarketView-columns summary {
  color: var(--water-2);
  text-decoration: underline;
  cursor: pointer;
  list-style: none;
}

.MarketView-columns > div {
  position: absolute;
  z-index: 15;
  right: 0;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 14px;
  width: 270px;
  padding: 8px 12px;
  border: 1px solid var(--ink);
  background: var(--paper);
}

.MarketView-said {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
  padding: 5px 0;
  font: 13px/1.45 var(--serif);
}

.MarketView-side {
  position: relative;
  display: grid;
  gap: 12px;
  align-content: start;
  padding: 10px 0 16px;
  overflow: auto;
}

.MarketView-side h2 {
  margin-bottom: -8px;
  color: var(--ink-2);
  font: 400 12px var(--sans);
}

.MarketView-side dl {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 7px 8px;
  margin: 0;
}

.MarketView-side dl div {
  display: grid;
}

.MarketView-side dt {
  grid-row: 2;
  color: var(--ink-2);
  font-size: 11px;
}

.MarketView-side dd {
  margin: 0;
  font: 600 17px/1.15 var(--sans);
  font-stretch: 88%;
}

.MarketView-grade-A,
.MarketView-grade-B {
  color: var(--lamp);
  font-weight: 600;
}

.MarketView-grade-E {
  color: var(--hull);
  font-weight: 600;
}
</style>
