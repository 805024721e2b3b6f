<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { ElButton } from 'element-plus'
import { InputError, VIDEO_KINDS, askSchema, parseInput, type VideoKind } from '@tin-harbor/core/buying'
import type { DealsView, SurveyRowView } from '@tin-harbor/core/contract'
import { BRANCHES, isFilm, type Format } from '@tin-harbor/core/taxonomy'
import { ApiError, api } from '@/api'
import { about, cpm, marketTime } from '@/composables/formats'
import MoneyField from '@/parts/MoneyField.vue'
import { useMarket } from '@/stores/market'

/** A publisher's office is asked for a deal: what is bought, at which price, how much, and for what. */
export interface AskDealProps {
  publishers: DealsView['publishers']
  /** By publisher. */
  traffic: readonly SurveyRowView[]
  /** Who is asked at first; nobody when empty. */
  first: string
}
const props = defineProps<AskDealProps>()
const emit = defineEmits<{ asked: [] }>()
const market = useMarket()

const problems = ref<Record<string, string>>({})
const isBusy = ref(false)
const asked = ref({
  publisher: props.publishers.some((one) => one.name === props.first) ? props.first : (null as string | null),
  format: null as Format | null,
  kind: 'fixed' as 'fixed' | 'floor',
  priceMicros: null as number | null,
  volume: 20_000 as number | null,
  about: '',
  videoKind: null as VideoKind | null,
  note: ''
})
const publisher = computed(() => props.publishers.find((one) => one.name === asked.value.publisher) ?? null)
const row = computed(() => props.traffic.find(({ code }) => code === asked.value.publisher))
watch(publisher, (id) => {
  if (id && !id.formats.includes(asked.value.format ?? '')) asked.value.format = id.formats.length === 1 ? (id.formats[0] as Format) : null
})

async function onAsk() {
  isBusy.value = true
  problems.value = {}
  const { publisher: name, format, priceMicros, volume, about: branch, videoKind } = asked.value
  try {
    await api.askDeal(
      parseInput(askSchema, {
        ...asked.value,
        publisher: name ?? undefined,
        format: format ?? undefined,
        priceMicros: priceMicros ?? undefined,
        volume: volume || undefined,
        about: branch || undefined,
        videoKind: isFilm(format) ? videoKind : null
      })
    )
    asked.value.note = ''
    emit('asked')
  } catch (failure) {
    problems.value =
      (failure instanceof ApiError || failure instanceof InputError) && failure.issues.length > 0
        ? Object.fromEntries(failure.issues.map((issue) => [issue.field, issue.message]))
        : { '': (failure as Error).message }
  }
  isBusy.value = false
}
</script>

<template>
  <form class="AskDeal" @submit.prevent="onAsk">
    <h2 class="ruled">Ask for a deal</h2>
    <p>
      <label
        >Publisher
        <select v-model="asked.publisher" data-test="ask-publisher">
          <option :value="null" disabled>choose</option>
          <option v-for="one in publishers" :key="one.name" :value="one.name">{{ one.name }}</option>
        </select></label
      >{{ ' '
      }}<span v-if="row" class="quiet small"
        >{{ about(row.opportunitiesADay) }} opportunities a day; half are won at {{ cpm(row.halfMicros) }}</span
      >
    </p>
    <p v-if="publisher">
      <label
        >Format
        <select v-model="asked.format" data-test="ask-format">
          <option :value="null" disabled>choose</option>
          <option v-for="one in publisher.formats" :key="one" :value="one">{{ one }}</option>
        </select></label
      >
    </p>
    <p v-if="isFilm(asked.format)">
      <label
        >For ads that are
        <select v-model="asked.videoKind">
          <option :value="null" disabled>choose</option>
          <option v-for="kind in VIDEO_KINDS" :key="kind" :value="kind">{{ kind }}</option>
        </select></label
      >
    </p>
    <p>
      <label
        >At a
        <select v-model="asked.kind">
          <option value="fixed">fixed price</option>
          <option value="floor">floor of our own</option>
        </select></label
      >{{ ' ' }}<MoneyField id="ask-price" v-model="asked.priceMicros" unit="CPM" label="Price" />
    </p>
    <p>
      <label>For up to <input v-model.number="asked.volume" type="number" min="100" step="100" data-test="ask-volume" /> a day</label>
    </p>
    <p>
      <label
        >Advertised is
        <select v-model="asked.about" data-test="ask-about">
          <option value="" disabled>choose</option>
          <option v-for="branch in BRANCHES" :key="branch.name" :value="branch.name">{{ branch.name }}</option>
        </select></label
      >
    </p>
    <p>
      <label>Note <textarea v-model="asked.note" rows="2" maxlength="600" /></label>
    </p>
    <p v-for="(message, field) in problems" :key="field" class="FieldRow-problem" role="alert">{{ message }}</p>
    <ElButton native-type="submit" type="primary" :loading="isBusy" data-test="ask">Ask the publisher</ElButton>
    <p class="quiet small">
      Offices answer after some hours of working time: Monday to Friday, 8 to 17 UTC by the market clock,
      {{ marketTime(market.run.hour) }} now.
    </p>
  </form>
</template>

<style>
.AskDeal p {
  margin: 6px 0;
}

.AskDeal input[type='number'] {
  width: 100px;
}
</style>
