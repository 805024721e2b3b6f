<script setup lang="ts">
import { ref } from 'vue'
import { ElButton } from 'element-plus'
import { parseInput } from '@tin-harbor/core/buying'
import type { AdvertiserMoney, LedgerView } from '@tin-harbor/core/contract'
import { CENT, moneyTermsSchema } from '@tin-harbor/core/money'
import { api } from '@/api'
import { money, monthYear, perCent } from '@/composables/formats'
import { saveTable } from '@/composables/save-file'
import { useFormProblems } from '@/composables/use-form-problems'
import MoneyField from '@/parts/MoneyField.vue'

/** What each advertiser cost us in the month, and what its client is charged for it; its limit and its margin. */
export interface AdvertisersMoneyProps {
  ledger: LedgerView
}
const props = defineProps<AdvertisersMoneyProps>()
const emit = defineEmits<{ saved: [ledger: LedgerView]; stale: [] }>()
const open = ref<number | null>(null)
const typed = ref({ limitMicros: null as number | null, margin: '0' })
const { problem, isBusy, submit, onProblem } = useFormProblems()

/** Share of a limit from which it is said how much is used. */
const NEARLY = 0.8
/** A per cent with two decimals at most. */
const marginWords = (ppm: number) => perCent(ppm / 1e6, ppm % 10_000 === 0 ? 0 : ppm % 1_000 === 0 ? 1 : 2)
const limitWords = ({ limitMicros, nowMicros }: AdvertiserMoney) => {
  if (limitMicros === null) return 'none'
  const used =
    nowMicros > limitMicros - CENT ? ', used up' : nowMicros >= limitMicros * NEARLY ? `, ${perCent(nowMicros / limitMicros)} used` : ''
  return `${money(limitMicros)} a month${used}`
}
function onOpen(one: AdvertiserMoney) {
  open.value = open.value === one.id ? null : one.id
  typed.value = { limitMicros: one.limitMicros, margin: String(one.marginPpm / 10_000) }
}
const onCsv = () =>
  saveTable('csv', {
    name: `advertisers ${props.ledger.month}`,
    head: ['advertiser', 'month', 'our cost', 'client is charged'],
    rows: props.ledger.advertisers.map(({ name, costMicros, chargedMicros }) => [
      name,
      props.ledger.month,
      costMicros / 1e6,
      chargedMicros / 1e6
    ])
  })
const onSave = ({ id, version }: AdvertiserMoney) =>
  submit(
    async () => {
      const share = Number(typed.value.margin.replace(',', '.').replace('%', '').trim() || NaN)
      const marginPpm = Number.isFinite(share) ? Math.round(share * 10_000 * 1e6) / 1e6 : undefined
      const asked = parseInput(moneyTermsSchema, { limitMicros: typed.value.limitMicros, marginPpm })
      emit('saved', await api.saveMoneyTerms(id, { version, ...asked }))
      open.value = null
    },
    '',
    () => emit('stale')
  )
</script>

<template>
  <section aria-labelledby="advertisers-head">
    <h2 id="advertisers-head">Advertisers in {{ monthYear(ledger.month) }}</h2>
    <table class="LedgerView-table">
      <thead>
        <tr>
          <th scope="col">advertiser</th>
          <th scope="col" class="is-number">our cost</th>
          <th scope="col" class="is-number">margin now</th>
          <th scope="col" class="is-number">its client is charged</th>
          <th scope="col">limit</th>
          <th scope="col"><span class="visually-hidden">Change</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="one in ledger.advertisers" :key="one.id">
          <tr data-test="advertiser-money">
            <td>{{ one.name }}</td>
            <td class="is-number">{{ money(one.costMicros) }}</td>
            <td class="is-number">{{ marginWords(one.marginPpm) }}</td>
            <td class="is-number">{{ money(one.chargedMicros) }}</td>
            <td :class="{ 'is-used': one.limitMicros !== null && one.nowMicros >= one.limitMicros * NEARLY }">{{ limitWords(one) }}</td>
            <td>
              <button
                class="plain"
                type="button"
                :aria-label="`Limit and margin of ${one.name}`"
                :aria-expanded="open === one.id"
                data-test="terms"
                @click="onOpen(one)">
                {{ open === one.id ? 'leave it' : 'change' }}
              </button>
            </td>
          </tr>
          <tr v-if="open === one.id">
            <td colspan="6">
              <form class="AdvertisersMoney-form" novalidate @submit.prevent="onSave(one)">
                <label
                  >Limit a month
                  <MoneyField
                    id="limit"
                    v-model="typed.limitMicros"
                    label="Limit a month"
                    @problem="(message) => onProblem('limitMicros', message)"
                /></label>
                <label>Margin <input v-model="typed.margin" inputmode="decimal" data-test="margin" /> % of our cost</label>
                <ElButton size="small" native-type="submit" :loading="isBusy" data-test="save-terms">Save, from the next hour</ElButton>
                <p v-if="problem('limitMicros') ?? problem('marginPpm') ?? problem('')" class="trouble" role="alert">
                  {{ problem('limitMicros') ?? problem('marginPpm') ?? problem('') }}
                </p>
              </form>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <p class="small AdvertisersMoney-csv">
      <button class="plain" type="button" data-test="advertisers-csv" @click="onCsv">costs and charges as CSV</button>
    </p>
  </section>
</template>

<style>
.AdvertisersMoney-form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  padding: 6px 0;
}

.AdvertisersMoney-form input[data-test='margin'] {
  width: 64px;
}

.LedgerView-table .is-used {
  color: var(--brass-text);
}

@media print {
  .AdvertisersMoney-csv {
    display: none;
  }
}
</style>
