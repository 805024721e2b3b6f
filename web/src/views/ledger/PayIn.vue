<script setup lang="ts">
import { ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { parseInput } from '@tin-harbor/core/buying'
import type { LedgerView, PaymentView } from '@tin-harbor/core/contract'
import { topUpSchema } from '@tin-harbor/core/money'
import { api } from '@/api'
import { newConfirmation } from '@/composables/confirmation'
import { money } from '@/composables/formats'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** Pays money in, by card or by transfer. */
export interface PayInProps {
  cards: LedgerView['knownCards']
}
defineProps<PayInProps>()
const emit = defineEmits<{ paid: [] }>()
const typed = ref({ amountMicros: null as number | null, method: 'card', number: '' })
const last = ref<PaymentView | null>(null)
const { problem, isBusy, submit, onProblem } = useFormProblems()
/** The same until it is answered: a click too many pays once. */
let token = newConfirmation('top-up')

const onSubmit = () =>
  submit(async () => {
    last.value = null
    const { amountMicros, method, number } = typed.value
    const asked = parseInput(topUpSchema, { amountMicros: amountMicros ?? undefined, method, ...(method === 'card' ? { number } : {}) })
    last.value = await api.topUp({ ...asked, token })
    token = newConfirmation('top-up')
    if (last.value.state !== 'refused') typed.value = { amountMicros: null, method, number: '' }
    emit('paid')
  })

function saidOf({ state, kind, amountMicros, says }: PaymentView): string {
  if (state === 'accepted') return `${money(amountMicros)} is on the balance.`
  if (state === 'refused') return `Refused. ${says}`
  if (state === 'given up') return says
  return kind === 'transfer'
    ? `${money(amountMicros)} is expected by transfer; it arrives about two days from now.`
    : `${says || 'The payment service has not answered yet.'} It is booked as soon as it does.`
}
</script>

<template>
  <form class="PayIn" novalidate @submit.prevent="onSubmit">
    <h2>Pay in</h2>
    <FieldRow label="Amount" for="pay-amount" :problem="problem('amountMicros')">
      <MoneyField id="pay-amount" v-model="typed.amountMicros" @problem="(message) => onProblem('amountMicros', message)" />
    </FieldRow>
    <FieldRow label="By" for="pay-method" :problem="problem('method')">
      <select id="pay-method" v-model="typed.method" data-test="pay-method">
        <option value="card">card, at once</option>
        <option value="transfer">bank transfer, about two days</option>
      </select>
    </FieldRow>
    <FieldRow v-if="typed.method === 'card'" label="Card number" for="pay-number" :problem="problem('number')">
      <ElInput id="pay-number" v-model="typed.number" inputmode="numeric" autocomplete="off" maxlength="30" />
      <details class="small PayIn-cards">
        <summary>The payment service is a stand-in: cards that it knows</summary>
        <button v-for="card in cards" :key="card.number" class="plain" type="button" @click="typed.number = card.number">
          {{ card.number }}, {{ card.fares }}
        </button>
      </details>
    </FieldRow>
    <ElButton type="primary" native-type="submit" :loading="isBusy" data-test="pay">Pay in</ElButton>
    <p v-if="last" role="status" :class="last.state === 'accepted' || last.state === 'asked' ? 'PayIn-said' : 'trouble'" data-test="paid">
      {{ saidOf(last) }}
    </p>
    <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
  </form>
</template>

<style>
.PayIn-cards button {
  display: block;
  margin: 3px 0;
  font-variant-numeric: tabular-nums;
}

.PayIn-said {
  margin-top: 6px;
}
</style>
