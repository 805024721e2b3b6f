<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { landingWords } from '@tin-harbor/core/buying'
import type { OfferCame, OfferPage } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { count, money } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import { useMarketTick } from '@/composables/use-market-tick'
import OfferForm from './OfferForm.vue'

/** An offer in words, with what came of it. */
export interface OfferEntryProps {
  offer: OfferPage
  mayEdit: boolean
}
const props = defineProps<OfferEntryProps>()
const emit = defineEmits<{ saved: [offers: OfferPage[]] }>()

const isOpen = ref(false)
const came = shallowRef<OfferCame | null>(null)
const { error, attempt, isBusy } = useAttempt()
const readCame = () => attempt(async () => (came.value = await api.offerCame(props.offer.id)))
watch(() => [props.offer.id, props.offer.version], readCame, { immediate: true })
// Ninety days are read for it: one after the other.
useMarketTick(() => isBusy.value || readCame())
const listed = (values: readonly string[]) =>
  values.length > 5 ? `${values.slice(0, 5).join(', ')} and ${values.length - 5} more` : values.join(', ')
const paysWords = computed(() => {
  const pays = props.offer.payouts.flatMap(({ event, micros }) => (micros === null ? [] : [`${money(micros)} for a ${event}`]))
  return pays.length === 0 ? 'It pays nothing yet' : `It pays ${pays.join(', ')}`
})
const termWords = computed(() => {
  const { countries, devices, systems, connections, hours } = props.offer.terms
  const said = [
    ...(countries.length > 0 ? [`in ${listed(countries)}`] : []),
    ...(devices.length > 0 ? [`on ${listed(devices)}`] : []),
    ...(systems.length > 0 ? [`running ${listed(systems)}`] : []),
    ...(connections.length > 0 ? [`over ${listed(connections)}`] : []),
    ...(hours?.some((one) => one === 0) ? [`in ${hours.filter((one) => one === 1).length} hours of the week`] : [])
  ]
  return said.length === 0 ? 'wherever it comes from' : `only ${said.join(', ')}`
})
const untracked = computed(() => props.offer.payouts.filter((_, n) => !props.offer.tracked[n]).map(({ event }) => event))
const cameWords = computed(() => {
  if (!came.value) return ''
  const { days, events, spendMicros } = came.value
  const said = events.map(
    ({ event, accepted, unpaid }) => `${count(accepted)} × ${event}${unpaid > 0 ? ` and ${count(unpaid)} that are not paid for` : ''}`
  )
  const pays = events.reduce((sum, { payMicros }) => sum + payMicros, 0)
  return `In ${days} days its campaigns brought ${said.join(', ') || 'nothing that it pays for'}: it pays ${money(pays)}, for ${money(spendMicros)} spent.`
})
const stockWords = computed(() =>
  props.offer.stock === null
    ? ''
    : `${count(props.offer.stock)} in stock${came.value?.left == null ? '' : `, ${count(came.value.left)} left`}.`
)
const onDelete = () => attempt(async () => emit('saved', await api.deleteOffer(props.offer.id)))
</script>

<template>
  <article class="SoldView-entry" :data-test="`offer-${offer.id}`">
    <OfferForm
      v-if="isOpen"
      :advertiser="offer.advertiserId"
      :offer="offer"
      @saved="
        (saved) => {
          isOpen = false
          $emit('saved', saved)
        }
      "
      @leave="isOpen = false" />
    <template v-else>
      <h3>{{ offer.name }}</h3>
      <p class="SoldView-prose">
        {{ paysWords }}, {{ termWords }}. {{ stockWords }} People land:
        <template v-for="(one, n) in offer.landings" :key="n"
          >{{ n > 0 ? '; ' : '' }}{{ landingWords(one) }} on <span class="OfferEntry-link">{{ one.link }}</span></template
        >. <span role="status">{{ cameWords }}</span>
      </p>
      <p v-if="untracked.length > 0" class="trouble small">No tracker counts {{ untracked.join(' or ') }}: nothing of it will be seen.</p>
      <p class="small quiet">
        <template v-if="offer.campaigns.length > 0"
          >Sold by
          <template v-for="(campaign, n) in offer.campaigns" :key="campaign.id"
            >{{ n > 0 ? ', ' : ''
            }}<RouterLink :to="{ name: 'campaign', params: { campaignId: campaign.id } }">{{ campaign.name }}</RouterLink></template
          >.</template
        ><template v-else>No campaign sells it; a campaign says what it sells where it is changed.</template>
      </p>
      <p v-if="error" class="trouble small" role="alert">{{ error }}</p>
      <p v-if="mayEdit" class="SoldView-acts small">
        <button class="plain" type="button" :data-test="`edit-offer-${offer.id}`" @click="isOpen = true">change it</button>
        <button v-if="offer.campaigns.length === 0" class="plain" type="button" :disabled="isBusy" @click="onDelete">throw it away</button>
      </p>
    </template>
  </article>
</template>

<style>
.OfferEntry-link {
  font-family: var(--sans);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
</style>
