<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { LedgerView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { lastsWords, money, monthYear, shortDate } from '@/composables/formats'
import { saveTable } from '@/composables/save-file'
import { useMarketTick } from '@/composables/use-market-tick'
import StateNote from '@/parts/StateNote.vue'
import { useMarket } from '@/stores/market'
import AdvertisersMoney from './AdvertisersMoney.vue'
import ChargeTerms from './ChargeTerms.vue'
import PayIn from './PayIn.vue'
import PaymentsList from './PaymentsList.vue'

/** A month of the ledger as its statement prints: date, what, in, out, and the balance running. */
type Row = LedgerView['rows'][number]
const route = useRoute()
const router = useRouter()
const view = shallowRef<LedgerView | null>(null)
const error = ref<string | null>(null)
const month = computed(() => (typeof route.query.month === 'string' ? route.query.month : undefined))
const wanted = computed(() => (typeof route.query.of === 'string' ? route.query.of : ''))
let asked = 0
async function load() {
  const mine = ++asked
  try {
    const told = await api.ledger(month.value)
    if (mine !== asked) return
    view.value = told
    error.value = null
  } catch (failure) {
    if (mine === asked) error.value = (failure as Error).message
  }
}
watch(month, load, { immediate: true })
useMarketTick(() => void load())
// Money that comes while the clock stands.
const market = useMarket()
watch(
  () => market.funds?.balanceMicros,
  (_, was) => was !== undefined && void load()
)
/** What was saved is answered with the last month; another that is read stays. */
const onSaved = (told: LedgerView) => (told.month === view.value?.month ? (view.value = told) : void load())

const set = (name: 'month' | 'of', event: Event) =>
  router.replace({ query: { ...route.query, [name]: (event.target as HTMLSelectElement).value || undefined } })
const KIND = { 'top-up': 'Top-up', charge: 'Charge', refund: 'Refund', spend: 'Spent' } as const
const whatOf = ({ kind, advertiser, note }: Row) => {
  if (kind === 'spend') return `Spent for ${advertiser ?? 'other advertisers'}`
  return note === '' ? KIND[kind] : `${KIND[kind]}: ${note}`
}
/** What is chosen stays so in a month that has none of it. */
const choices = computed(() =>
  [...new Set([...(view.value?.rows ?? []).map(whatOf), ...(wanted.value === '' ? [] : [wanted.value])])].sort()
)
const rows = computed(() => view.value?.rows.filter((row) => wanted.value === '' || whatOf(row) === wanted.value) ?? [])
const words = computed(() => {
  if (!view.value) return ''
  const { lastsUntil, lastDayMicros } = view.value
  if (view.value.balanceMicros <= 0) return 'nothing is left: no line buys until there is money again.'
  if (lastsUntil === null) return 'nothing was spent in the last day.'
  return `at the pace of the last day, ${money(lastDayMicros)}, it lasts ${lastsWords(lastsUntil, market.run.hour)}.`
})
/** The last charge, where it was refused. */
const refusedCharge = computed(() => {
  const last = view.value?.payments.find(({ kind }) => kind === 'charge')
  return last?.state === 'refused' ? last : null
})
/** In the order of the days, sums as the page has them. */
const onCsv = () =>
  view.value &&
  saveTable('csv', {
    name: `statement ${view.value.month}`,
    head: ['date', 'what', 'amount', 'balance'],
    rows: [
      ['', 'carried over', '', view.value.openingMicros / 1e6],
      ...view.value.rows.map((row) => [row.date, whatOf(row), row.amountMicros / 1e6, row.balanceMicros / 1e6]),
      ['', 'carried on', (view.value.inMicros + view.value.outMicros) / 1e6, view.value.closingMicros / 1e6]
    ]
  })
const onPrint = () => window.print()
</script>

<template>
  <div class="LedgerView page">
    <h1>Ledger{{ view ? `, ${monthYear(view.month)}` : '' }}</h1>
    <StateNote v-if="error || !view" :error="error" reads="Reading what was booked" @retry="load" />
    <template v-else>
      <p class="page-sentence" role="status" data-test="ledger-words">
        <b>{{ money(view.balanceMicros) }}</b>; {{ words }}
        <span v-if="view.isLow && view.balanceMicros > 0" class="LedgerView-low" data-test="low"
          >That is less than {{ view.lowDays }} {{ view.lowDays === 1 ? 'day' : 'days' }}.</span
        >
        <span v-if="refusedCharge" class="LedgerView-low" data-test="refused-charge"
          >The charge of {{ money(refusedCharge.amountMicros) }} was refused: {{ refusedCharge.says }}</span
        >
        <span v-if="view.serviceIsAway" class="LedgerView-low">The payment service is away; what was asked of it waits.</span>
      </p>
      <div class="LedgerView-moves">
        <PayIn :cards="view.knownCards" @paid="load" />
        <PaymentsList :payments="view.payments" @moved="load" />
        <ChargeTerms :ledger="view" @saved="onSaved" />
      </div>
      <AdvertisersMoney :ledger="view" @saved="onSaved" @stale="load" />
      <h2>Statement</h2>
      <p class="LedgerView-controls small">
        <label
          >Statement of
          <select :value="view.month" data-test="ledger-month" @change="set('month', $event)">
            <option v-for="one in view.months" :key="one" :value="one">{{ monthYear(one) }}</option>
          </select></label
        >
        <label
          >showing
          <select :value="wanted" data-test="ledger-of" @change="set('of', $event)">
            <option value="">all of it</option>
            <option v-for="choice in choices" :key="choice">{{ choice }}</option>
          </select></label
        >
        <button class="plain" type="button" data-test="ledger-csv" @click="onCsv">the whole month as CSV</button>
        <button class="plain" type="button" @click="onPrint">print it</button>
      </p>
      <table class="LedgerView-table">
        <caption class="visually-hidden">
          What was booked in
          {{
            monthYear(view.month)
          }}
        </caption>
        <thead>
          <tr>
            <th scope="col">date</th>
            <th scope="col">what</th>
            <th scope="col" class="is-number">in</th>
            <th scope="col" class="is-number">out</th>
            <th scope="col" class="is-number">balance</th>
          </tr>
        </thead>
        <tbody>
          <tr class="is-sum">
            <td></td>
            <td>Carried over</td>
            <td></td>
            <td></td>
            <td class="is-number">{{ money(view.openingMicros) }}</td>
          </tr>
          <tr v-for="(row, n) in rows" :key="n" data-test="ledger-row">
            <td>{{ shortDate(row.date) }}</td>
            <td>{{ whatOf(row) }}</td>
            <td class="is-number">{{ row.amountMicros > 0 ? money(row.amountMicros) : '' }}</td>
            <td class="is-number">{{ row.amountMicros < 0 ? money(-row.amountMicros) : '' }}</td>
            <td class="is-number">{{ money(row.balanceMicros) }}</td>
          </tr>
          <tr v-if="rows.length === 0 && view.rows.length > 0">
            <td></td>
            <td colspan="4" class="quiet">Nothing of it in this month.</td>
          </tr>
          <tr class="is-sum" data-test="ledger-sums">
            <td></td>
            <td>{{ view.rows.length === 0 ? 'Nothing was booked; carried on' : 'In all, and carried on' }}</td>
            <td class="is-number">{{ money(view.inMicros) }}</td>
            <td class="is-number">{{ money(Math.abs(view.outMicros)) }}</td>
            <td class="is-number">{{ money(view.closingMicros) }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style>
.LedgerView-low {
  padding: 0 4px;
  background: var(--brass-wash);
  color: var(--brass-text);
}

.LedgerView-moves {
  display: grid;
  grid-template-columns: 1fr 1.2fr 1fr;
  gap: 0 32px;
  padding-bottom: 8px;
}

.LedgerView-controls {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  padding-bottom: 8px;
}

.LedgerView-table {
  width: 100%;
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}

.LedgerView-table th {
  padding: 3px 8px;
  border-bottom: 1px solid var(--ink);
  color: var(--ink-2);
  font-weight: 400;
  font-size: 12px;
  text-align: left;
}

.LedgerView-table td {
  padding: 3px 8px;
  border-bottom: 1px solid var(--rule);
}

.LedgerView-table .is-number {
  border-left: 1px solid var(--rule);
  text-align: right;
}

.LedgerView-table .is-sum td {
  border-bottom-color: var(--ink);
  font: 550 13.5px var(--serif);
}

@media (max-width: 900px) {
  .LedgerView-moves {
    grid-template-columns: minmax(0, 1fr);
  }

  .LedgerView-table {
    display: block;
    overflow-x: auto;
  }
}

@media print {
  .LedgerView-controls,
  .LedgerView-moves {
    display: none;
  }
}
</style>
