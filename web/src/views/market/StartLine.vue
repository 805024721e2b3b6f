<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { ElButton, ElDialog } from 'element-plus'
import 'element-plus/theme-chalk/el-dialog.css'
import { sentenceWords, type LineDraft } from '@tin-harbor/core/buying'
import type { Sentence } from '@tin-harbor/core/forecast'
import { FORMATS, type Format, USUAL_MODEL } from '@tin-harbor/core/taxonomy'
import { dateOfDay, dayOfHour } from '@tin-harbor/core/time'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { newDraft } from '@/composables/new-draft'
import { useSurvey } from '@/composables/use-survey'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'

/** Makes a line of a sentence, in a campaign of the trader's choice. */
export interface StartLineProps {
  sentence: Sentence
  /** Deals that it buys by, alone, and the CPM at which it begins. */
  deals?: readonly number[]
  priceMicros?: number
}
const props = defineProps<StartLineProps>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const manifest = useManifest()
const market = useMarket()
const campaignId = ref<number | null>(null)
const format = ref<Format | null>(props.sentence.formats.length === 1 ? props.sentence.formats[0] : null)
const { isBusy, error, attempt } = useAttempt()
const said = computed(() => {
  const { deals } = props
  if (!deals) return sentenceWords(props.sentence)
  return `${sentenceWords(props.sentence)}, by ${deals.length === 1 ? 'deal' : 'deals'} ${deals.join(', ')}`
})
const today = computed(() => dateOfDay(dayOfHour(market.run.hour)))
const campaigns = computed(() => manifest.campaigns.filter((one) => one.flight.endDate === null || one.flight.endDate >= today.value))
// What was missing is there.
watch([campaignId, format], () => (error.value = null))
const { survey, ask } = useSurvey('start')
onMounted(async () => {
  // Where it can be one of several, what most of the traffic is.
  if (format.value === null && !props.deals)
    void ask({ sentence: props.sentence, by: ['format'], without: null, bidMicros: 0 }).then(() => {
      const [most] = [...(survey.value?.groups[0].rows ?? [])].sort((a, b) => b.opportunitiesADay - a.opportunitiesADay)
      format.value ??= FORMATS.find((one) => one === most?.label) ?? null
    })
  await manifest.load()
  if (campaigns.value.length === 1) campaignId.value = campaigns.value[0].id
})

async function onStart() {
  const campaign = campaigns.value.find((one) => one.id === campaignId.value)
  if (!campaign || !format.value) {
    error.value = campaign ? 'Choose the format it buys: a line has one.' : 'Choose the campaign it belongs to.'
    return
  }
  const empty = newDraft(campaign, manifest.advertiserOf(campaign.advertiserId)?.zone ?? 'UTC', today.value, said.value.slice(0, 110))
  const draft: LineDraft = {
    ...empty,
    format: format.value,
    targeting: props.sentence.targeting,
    hours: props.sentence.hours ?? undefined,
    price: { ...empty.price, model: props.deals ? 'CPM' : USUAL_MODEL[format.value], bidMicros: props.priceMicros ?? null },
    ...(props.deals ? { buys: { open: false, deals: [...props.deals] } } : {})
  }
  await attempt(async () => {
    const { id: lineId } = await api.createLine(campaign.id, JSON.parse(JSON.stringify(draft)) as LineDraft)
    await manifest.load()
    await router.push({ name: 'line', params: { lineId } })
  })
}
</script>

<template>
  <ElDialog :model-value="true" title="Start a line" width="520px" @close="emit('close')">
    <p class="StartLine-said">{{ said }}</p>
    <p>
      <label
        >In the campaign
        <select v-model="campaignId" data-test="campaign">
          <option :value="null" disabled>choose</option>
          <option v-for="one in campaigns" :key="one.id" :value="one.id">
            {{ manifest.advertiserOf(one.advertiserId)?.name }}: {{ one.name }}
          </option>
        </select></label
      >
    </p>
    <p v-if="sentence.formats.length !== 1">
      <label
        >It buys
        <select v-model="format" data-test="line-format">
          <option :value="null" disabled>choose</option>
          <option v-for="one in sentence.formats.length > 0 ? sentence.formats : FORMATS" :key="one" :value="one">{{ one }}</option>
        </select></label
      >
    </p>
    <p v-if="campaigns.length === 0" class="quiet">There is no campaign whose flight goes on; make one first.</p>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    <template #footer
      ><ElButton @click="emit('close')">Not now</ElButton
      ><ElButton type="primary" :loading="isBusy" data-test="start" @click="onStart">Start it</ElButton></template
    >
  </ElDialog>
</template>

<style>
.StartLine-said {
  margin-bottom: 12px;
  font: 16px/1.5 var(--serif);
}
</style>
