<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-tag.css'
import { offerSchema, parseInput, type Offer } from '@tin-harbor/core/buying'
import type { OfferPage } from '@tin-harbor/core/contract'
import { COUNTRIES } from '@tin-harbor/core/places'
import type { HourPlan } from '@tin-harbor/core/pricing'
import { CONNECTIONS, DEVICE_TYPES, SYSTEMS } from '@tin-harbor/core/taxonomy'
import { api } from '@/api'
import { useFormProblems } from '@/composables/use-form-problems'
import FieldRow from '@/parts/FieldRow.vue'
import HourGrid from '@/parts/HourGrid.vue'
import LandingsField from '@/parts/LandingsField.vue'
import MoneyField from '@/parts/MoneyField.vue'

/** An offer, new or changed. */
export interface OfferFormProps {
  advertiser: number
  offer?: OfferPage
}
const props = defineProps<OfferFormProps>()
const emit = defineEmits<{ saved: [offers: OfferPage[]]; leave: [] }>()

const EMPTY: Offer = {
  name: '',
  landings: [{ countries: [], devices: [], link: '' }],
  payouts: [{ event: '', micros: null }],
  stock: null,
  terms: { countries: [], devices: [], systems: [], connections: [], hours: null }
}
const pick = ({ name, landings, payouts, stock, terms }: Offer): Offer => ({ name, landings, payouts, stock, terms })
const typed = ref<Offer>(structuredClone(JSON.parse(JSON.stringify(props.offer ? pick(props.offer) : EMPTY)) as Offer))
const { problem, isBusy, submit, onProblem } = useFormProblems()
const plan = computed((): HourPlan | null => {
  const { hours } = typed.value.terms
  return hours && { clock: 'line', perMille: hours.map((one) => one * 1000) }
})
const onHours = (hours: HourPlan | null) => (typed.value.terms.hours = hours && hours.perMille.map((one) => (one > 0 ? 1 : 0)))
const onStock = (text: string) => (typed.value.stock = text.trim() === '' ? null : Number(text))

const onSubmit = () =>
  submit(async () => {
    const draft = parseInput(offerSchema, JSON.parse(JSON.stringify(typed.value)))
    emit(
      'saved',
      props.offer ? await api.saveOffer(props.offer.id, props.offer.version, draft) : await api.newOffer(props.advertiser, draft)
    )
  }, 'offer')
</script>

<template>
  <form class="SoldView-form OfferForm" novalidate @submit.prevent="onSubmit">
    <FieldRow label="Name" for="offer-name" :problem="problem('name')"
      ><ElInput id="offer-name" v-model="typed.name" maxlength="120"
    /></FieldRow>
    <FieldRow label="People land on" :problem="problem('landings')">
      <LandingsField
        id="offer-landings"
        :landings="typed.landings"
        :disabled="false"
        :problem="(path) => problem(`landings${path}`)"
        @change="(landings) => (typed.landings = landings)" />
    </FieldRow>
    <FieldRow label="It pays" :problem="problem('payouts')" hint="By the name of the tracker that counts the event.">
      <p v-for="(one, n) in typed.payouts" :key="n" class="OfferForm-payout">
        <MoneyField
          :id="`offer-pays-${n}`"
          :model-value="one.micros ?? null"
          unit="for a"
          @problem="onProblem(`payouts[${n}].micros`, $event)"
          @update:model-value="one.micros = $event" />
        <input v-model="one.event" :aria-label="`Event of payout ${n + 1}`" placeholder="purchase" :data-test="`offer-event-${n}`" />
        <button class="plain small" type="button" :aria-label="`Take payout ${n + 1} out`" @click="typed.payouts.splice(n, 1)">
          take out
        </button>
        <span v-if="problem(`payouts[${n}].event`) ?? problem(`payouts[${n}].micros`)" class="trouble small">{{
          problem(`payouts[${n}].event`) ?? problem(`payouts[${n}].micros`)
        }}</span>
      </p>
      <button class="plain small" type="button" @click="typed.payouts.push({ event: '', micros: null })">another event</button>
    </FieldRow>
    <FieldRow label="Stock" for="offer-stock" :problem="problem('stock')" hint="Left empty, there is no end of it.">
      <input
        id="offer-stock"
        type="number"
        min="0"
        :value="typed.stock ?? ''"
        class="OfferForm-stock"
        @input="onStock(($event.target as HTMLInputElement).value)" />
    </FieldRow>
    <FieldRow label="Paid for" hint="Nothing chosen is no restriction. What comes from elsewhere is counted apart, as unpaid.">
      <div class="OfferForm-terms">
        <ElSelect
          v-model="typed.terms.countries"
          multiple
          filterable
          collapse-tags
          :max-collapse-tags="3"
          placeholder="any country"
          aria-label="Paid for in"
          ><ElOption v-for="{ code, name } in COUNTRIES" :key="code" :value="code" :label="name"
        /></ElSelect>
        <ElSelect v-model="typed.terms.devices" multiple collapse-tags placeholder="any device" aria-label="Paid for on"
          ><ElOption v-for="one in DEVICE_TYPES" :key="one" :value="one" :label="one"
        /></ElSelect>
        <ElSelect v-model="typed.terms.systems" multiple collapse-tags placeholder="any system" aria-label="Paid for with the system"
          ><ElOption v-for="one in SYSTEMS" :key="one" :value="one" :label="one"
        /></ElSelect>
        <ElSelect v-model="typed.terms.connections" multiple collapse-tags placeholder="any connection" aria-label="Paid for over"
          ><ElOption v-for="one in CONNECTIONS" :key="one" :value="one" :label="one"
        /></ElSelect>
      </div>
      <details :open="plan !== null">
        <summary class="small">hours of the advertiser's week</summary>
        <HourGrid :hours="plan" :disabled="false" @update:hours="onHours" />
      </details>
    </FieldRow>
    <p v-if="problem('')" class="trouble" role="alert">{{ problem('') }}</p>
    <p class="SoldView-acts">
      <ElButton type="primary" native-type="submit" :loading="isBusy" data-test="save-offer">{{
        offer ? 'Save' : 'Make the offer'
      }}</ElButton>
      <button class="plain" type="button" @click="$emit('leave')">leave it</button>
    </p>
  </form>
</template>

<style>
.OfferForm-payout {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  margin-bottom: 4px;
}

.OfferForm-stock {
  width: 110px;
}

.OfferForm-terms {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 8px;
  margin-bottom: 6px;
}
</style>
