<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ElButton } from 'element-plus'
import { InputError, lineSchema, parseInput, type LineDraft } from '@tin-harbor/core/buying'
import type { CampaignView } from '@tin-harbor/core/contract'
import { dateOfDay, dayOfHour } from '@tin-harbor/core/time'
import { paragraphWords, readQuick, schemeName } from '@tin-harbor/core/wording'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { newDraft } from '@/composables/new-draft'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { fieldName } from '@/views/line/field-names'

/** A line begins from nothing, one typed sentence, a copy, a template, or rows of the Market. */
export interface StartFromProps {
  campaign: CampaignView
}
const props = defineProps<StartFromProps>()
const manifest = useManifest()
const market = useMarket()
const router = useRouter()

const typed = ref('')
const field = useTemplateRef('field')
const route = useRoute()
onMounted(() => route.hash === '#new-line' && field.value?.focus())
const { isBusy, error, attempt: tryTo } = useAttempt()
const zone = computed(() => manifest.advertiserOf(props.campaign.advertiserId)?.zone ?? null)
const mine = computed(() =>
  manifest.lines.filter((line) => manifest.campaignOf(line.campaignId)?.advertiserId === props.campaign.advertiserId)
)
const templates = computed(() => mine.value.filter((line) => line.template))
/** A day without a year is of the market's. */
const reading = computed(() => readQuick(typed.value, Number(dateOfDay(dayOfHour(market.run.hour)).slice(0, 4))))

const draft = computed<LineDraft | null>(() => {
  // Before the clock is known a line would begin in the past.
  if (zone.value === null || market.run.hour === 0) return null
  const empty = newDraft(
    props.campaign,
    zone.value,
    dateOfDay(dayOfHour(market.run.hour)),
    `Line ${manifest.lines.filter((line) => line.campaignId === props.campaign.id).length + 1}`
  )
  if (typed.value.trim() === '') return empty
  const said = reading.value.apply(empty)
  return { ...said, name: schemeName(said) }
})
/** What of the typed sentence cannot be as it is. */
const wrong = computed(() => {
  try {
    if (draft.value) parseInput(lineSchema, draft.value)
    return []
  } catch (failure) {
    if (!(failure instanceof InputError)) throw failure
    return failure.issues.map(({ field, message }) => `${fieldName(field)}: ${message}`)
  }
})

const attempt = (make: () => Promise<{ id: number }>) =>
  tryTo(async () => {
    const { id: lineId } = await make()
    await manifest.load()
    await router.push({ name: 'line', params: { lineId } })
  })
const onStart = () => draft.value && void attempt(() => api.createLine(props.campaign.id, draft.value as LineDraft))
function onCopy(event: Event) {
  const id = Number((event.target as HTMLSelectElement).value)
  const from = mine.value.find((line) => line.id === id)
  if (from) void attempt(() => api.copyLine(id, from.template ? from.name : `${from.name}, copy`, props.campaign.id))
}
</script>

<template>
  <form class="StartFrom" @submit.prevent="onStart">
    <p>
      <input
        id="new-line"
        ref="field"
        v-model="typed"
        class="StartFrom-typed"
        aria-label="A line in one sentence"
        placeholder="a line in one sentence: native phones ES PT 1.90 cpm 12 a day 3 per day"
        data-test="quick" />
      <ElButton
        type="primary"
        native-type="submit"
        size="small"
        :loading="isBusy"
        :disabled="!draft || wrong.length > 0"
        data-test="new-line"
        >New line</ElButton
      >
    </p>
    <p v-if="typed.trim() !== '' && draft" class="StartFrom-said" data-test="quick-said">{{ paragraphWords(draft) }}</p>
    <p v-if="reading.understood.length > 0" class="quiet small" data-test="understood">
      <span v-for="(one, n) in reading.understood" :key="n"
        ><template v-if="n > 0">, </template><q>{{ one.text }}</q> as {{ one.says }}</span
      >.
    </p>
    <p v-if="reading.unknown.length > 0" class="trouble small" role="alert">
      Not understood, and left out: {{ reading.unknown.join(', ') }}. Say it otherwise, or choose it in the line.
    </p>
    <p v-for="words in wrong" :key="words" class="trouble small" role="alert">{{ words }}</p>
    <p class="StartFrom-others">
      <label v-if="mine.length > 0"
        >or a copy of
        <select data-test="copy-of" @change="onCopy">
          <option value="" selected>choose a line</option>
          <option v-for="line in mine.filter((one) => !one.template)" :key="line.id" :value="line.id">
            {{ line.name }}, {{ line.code }}
          </option>
        </select></label
      >
      <label v-if="templates.length > 0"
        >or the template
        <select data-test="template" @change="onCopy">
          <option value="" selected>choose a template</option>
          <option v-for="line in templates" :key="line.id" :value="line.id">{{ manifest.lineName(line.id) }}</option>
        </select></label
      >
      <RouterLink :to="{ name: 'market' }">or rows of the Market</RouterLink>
    </p>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
  </form>
</template>

<style>
.StartFrom p {
  margin-bottom: 4px;
}

.StartFrom-typed {
  width: min(560px, 70%);
  margin-right: 10px;
  padding: 5px 8px;
  border: 1px solid var(--rule);
  background: var(--field);
}

.StartFrom-said {
  font: 15px/1.5 var(--serif);
}

.StartFrom-others {
  display: flex;
  gap: 18px;
  font-size: 12px;
}
</style>
