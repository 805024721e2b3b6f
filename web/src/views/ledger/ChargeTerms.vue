<script setup lang="ts">
import { ref } from 'vue'
import { ElButton, ElInput } from 'element-plus'
import { parseInput } from '@tin-harbor/core/buying'
import type { LedgerView } from '@tin-harbor/core/contract'
import { chargeSchema, lowDaysSchema } from '@tin-harbor/core/money'
import { api } from '@/api'
import { money } from '@/composables/formats'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** What was agreed beforehand: the charge of each day's spend on the day after, and when little money is warned of. */
export interface ChargeTermsProps {
  ledger: LedgerView
}
const props = defineProps<ChargeTermsProps>()
const emit = defineEmits<{ saved: [ledger: LedgerView] }>()
const isOpen = ref(false)
const typed = ref({ number: '', mostMicros: null as number | null })
const days = ref(props.ledger.lowDays)
const charge = useFormProblems()
const low = useFormProblems()

const onAgree = () =>
  charge.submit(async () => {
    const { number, mostMicros } = typed.value
    emit('saved', await api.agreeCharge(parseInput(chargeSchema, { number, mostMicros: mostMicros ?? undefined })))
    isOpen.value = false
    typed.value = { number: '', mostMicros: null }
  })
const onEnd = () => charge.submit(async () => emit('saved', await api.endCharge()))
const onDays = () =>
  low.submit(async () => emit('saved', await api.saveLowDays(parseInput(lowDaysSchema, { lowDays: days.value }).lowDays)))
</script>

<template>
  <section aria-labelledby="charge-head">
    <h2 id="charge-head">Agreed beforehand</h2>
    <p v-if="ledger.charge" data-test="charge">
      Each day’s spend is charged on the day after to the card ending in {{ ledger.charge.last4 }}, at most
      {{ money(ledger.charge.mostMicros) }} a day.
      <button class="plain" type="button" data-test="end-charge" @click="onEnd">end it</button>
    </p>
    <p v-else data-test="charge">No card is charged by itself.</p>
    <button class="plain" type="button" :aria-expanded="isOpen" data-test="agree" @click="isOpen = !isOpen">
      {{ isOpen ? 'leave it' : ledger.charge ? 'another card or amount' : 'charge each day’s spend to a card' }}
    </button>
    <form v-if="isOpen" novalidate @submit.prevent="onAgree">
      <FieldRow label="Card number" for="charge-number" :problem="charge.problem('number')"
        ><ElInput id="charge-number" v-model="typed.number" inputmode="numeric" autocomplete="off" maxlength="30"
      /></FieldRow>
      <FieldRow label="At most" for="charge-most" :problem="charge.problem('mostMicros')"
        ><MoneyField
          id="charge-most"
          v-model="typed.mostMicros"
          unit="a day"
          @problem="(message) => charge.onProblem('mostMicros', message)"
      /></FieldRow>
      <ElButton size="small" native-type="submit" :loading="charge.isBusy.value" data-test="agree-now">Agree to it</ElButton>
    </form>
    <p v-if="charge.problem('')" class="trouble" role="alert">{{ charge.problem('') }}</p>
    <form class="ChargeTerms-low" novalidate @submit.prevent="onDays">
      <label>
        Warn when the money lasts for fewer than
        <input v-model.number="days" type="number" min="0" max="60" data-test="low-days" />
        days
      </label>
      <ElButton v-if="days !== ledger.lowDays" size="small" native-type="submit" :loading="low.isBusy.value" data-test="save-low-days"
        >Save</ElButton
      >
      <p v-if="low.problem('lowDays') ?? low.problem('')" class="trouble" role="alert">{{ low.problem('lowDays') ?? low.problem('') }}</p>
    </form>
  </section>
</template>

<style>
.ChargeTerms-low {
  padding-top: 8px;
}

.ChargeTerms-low input {
  width: 52px;
}
</style>
