<script setup lang="ts">
import { computed, ref } from 'vue'
import { withModel } from '@tin-harbor/core/buying'
import { MODELS_OF, MODEL_WORDS, type PriceModel } from '@tin-harbor/core/taxonomy'
import { useFieldProblems, useLineEdit } from '@/composables/line-edit'
import FieldRow from '@/parts/FieldRow.vue'
import MoneyField from '@/parts/MoneyField.vue'
import AimField from './AimField.vue'
import ChoiceField from './ChoiceField.vue'

/** What is paid for, how it bids, and the bid or the aim. */
const { draft, disabled, figures, change, onProblem } = useLineEdit()
const { problem, problemUnder } = useFieldProblems()

const models = computed(() =>
  MODELS_OF[draft.value.format].map((model) => ({
    value: model,
    label: model === 'CPM' ? 'the thousand' : MODEL_WORDS[model].slice(2)
  }))
)
/** Amounts become those of the new unit, at what the forecast expects; what was assumed is said. */
const assumed = ref<string | null>(null)
function onModel(model: PriceModel) {
  const day = figures.value?.day
  const wins = day?.wins.value ?? 0
  const rates = day && wins > 0 ? { clickRate: day.visits.value / wins, viewRate: day.views.value / wins } : null
  const { price, ads, assumed: words } = withModel(draft.value, model, rates)
  change((d) => Object.assign(d, { price, ads }))
  assumed.value = words ?? 'Nothing is forecast to convert its amounts by: type them anew.'
}

type Bidding = 'fixed' | 'follow' | 'aim'
const bidding = computed((): Bidding => (draft.value.price.aim ? 'aim' : draft.value.price.follow ? 'follow' : 'fixed'))
const biddings = computed((): { value: Bidding; label: string }[] => [
  { value: 'fixed', label: 'a fixed bid' },
  ...(draft.value.price.model === 'CPM' ? [{ value: 'follow' as const, label: 'follow the market' }] : []),
  { value: 'aim', label: 'towards an aim' }
])
/** An aim begins at what a click costs here at the bid; the bid stays as it was, for the way back. */
const onBidding = (way: Bidding) =>
  change((d) => {
    d.price.follow = way === 'follow'
    d.price.aim = way === 'aim' ? { event: 'click', micros: 500_000 } : null
    if (way === 'aim') d.price.maxMicros ??= d.price.bidMicros
  })
</script>

<template>
  <ChoiceField
    v-if="models.length > 1"
    label="Paid by"
    :value="draft.price.model"
    :choices="models"
    :disabled="disabled"
    :problem="problem('price.model')"
    @choose="onModel">
    <span v-if="assumed" class="quiet small BidFields-assumed" role="status" data-test="assumed">{{ assumed }}</span>
  </ChoiceField>
  <ChoiceField
    label="Bids"
    named="How it bids"
    :value="bidding"
    :choices="biddings"
    :disabled="disabled"
    :problem="problemUnder('price.aim') ?? problem('price.follow')"
    @choose="onBidding">
    <span v-if="bidding === 'follow'" class="quiet small"
      >The least that wins what the plan needs, placement by placement, never above the bid.</span
    >
  </ChoiceField>
  <AimField v-if="draft.price.aim" :aim="draft.price.aim" />
  <FieldRow v-else label="Base bid" for="line-bid" :problem="problem('price.bidMicros')">
    <MoneyField
      id="line-bid"
      :model-value="draft.price.bidMicros"
      :unit="MODEL_WORDS[draft.price.model]"
      :disabled="disabled"
      @problem="onProblem('price.bidMicros', $event)"
      @update:model-value="(micros) => change((d) => (d.price.bidMicros = micros))" />
  </FieldRow>
</template>

<style>
.BidFields-assumed {
  display: block;
}
</style>
