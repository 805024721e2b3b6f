<script setup lang="ts">
import { ref } from 'vue'
import { ElButton } from 'element-plus'
import type { PaymentView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { newConfirmation } from '@/composables/confirmation'
import { marketTime, money } from '@/composables/formats'
import { useFormProblems } from '@/composables/use-form-problems'
import MoneyField from '@/parts/MoneyField.vue'

/** The last payments, each with what became of it; what was paid in can go back to its payer. */
export interface PaymentsListProps {
  payments: readonly PaymentView[]
}
defineProps<PaymentsListProps>()
const emit = defineEmits<{ moved: [] }>()
const open = ref<number | null>(null)
const amount = ref<number | null>(null)
const said = ref('')
const { problem, isBusy, submit, onProblem } = useFormProblems()
let token = ''

const KIND: Readonly<Record<PaymentView['kind'], string>> = {
  card: 'by card',
  transfer: 'by transfer',
  charge: 'charge of a day',
  refund: 'back to the payer'
}
const wordsOf = ({ kind, last4 }: PaymentView) => `${KIND[kind]}${last4 === null ? '' : ` ${last4}`}`
const STATE: Readonly<Record<PaymentView['state'], string>> = {
  asked: 'under way',
  accepted: 'done',
  refused: 'refused',
  'given up': 'not paid'
}

function onOpen({ id, canGoBackMicros }: PaymentView) {
  open.value = open.value === id ? null : id
  amount.value = canGoBackMicros
  said.value = ''
  token = newConfirmation('refund')
}
const onRefund = (payment: PaymentView) =>
  submit(async () => {
    const back = await api.refund(payment.id, { token, amountMicros: amount.value ?? 0 })
    token = newConfirmation('refund')
    said.value =
      back.state === 'refused'
        ? `It came back: ${back.says}`
        : `${money(back.amountMicros)} goes back ${wordsOf(payment).replace('by', 'to')}.`
    open.value = null
    emit('moved')
  })
</script>

<template>
  <section class="PaymentsList" aria-labelledby="payments-head">
    <h2 id="payments-head">Payments</h2>
    <p v-if="payments.length === 0" class="quiet">None was asked for.</p>
    <ul v-else>
      <li v-for="payment in payments" :key="payment.id" data-test="payment">
        <span class="PaymentsList-amount">{{ payment.kind === 'refund' ? '−' : '' }}{{ money(payment.amountMicros) }}</span>
        {{ wordsOf(payment) }}, {{ marketTime(payment.askedHour) }}:
        <b :class="{ 'PaymentsList-bad': payment.state === 'refused' || payment.state === 'given up' }">{{
          STATE[payment.state]
        }}</b><template v-if="payment.says && payment.state !== 'accepted'">. {{ payment.says }}</template>
        {{ ' ' }}
        <button
          v-if="payment.canGoBackMicros > 0"
          class="plain"
          type="button"
          :aria-expanded="open === payment.id"
          :aria-label="`Give ${money(payment.amountMicros)} ${wordsOf(payment)} back`"
          data-test="refund"
          @click="onOpen(payment)">
          give back
        </button>
        <form v-if="open === payment.id" class="PaymentsList-back" novalidate @submit.prevent="onRefund(payment)">
          <MoneyField
            id="refund-amount"
            v-model="amount"
            label="How much goes back"
            @problem="(message) => onProblem('amountMicros', message)" />
          <ElButton size="small" native-type="submit" :loading="isBusy" data-test="refund-now">Give it back</ElButton>
          <p v-if="problem('amountMicros') ?? problem('')" class="trouble" role="alert">{{ problem('amountMicros') ?? problem('') }}</p>
        </form>
      </li>
    </ul>
    <p v-if="said" role="status">{{ said }}</p>
  </section>
</template>

<style>
.PaymentsList ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.PaymentsList li {
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

.PaymentsList-amount {
  display: inline-block;
  min-width: 84px;
  font: 550 13.5px var(--serif);
  font-variant-numeric: tabular-nums;
}

.PaymentsList-bad {
  color: var(--trouble, #8c2f1b);
}

.PaymentsList-back {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding-top: 5px;
}
</style>
