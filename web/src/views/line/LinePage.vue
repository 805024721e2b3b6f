<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router'
import { ElButton } from 'element-plus'
import { ApiError, api } from '@/api'
import { withChange } from '@tin-harbor/core/buying'
import type { Change } from '@tin-harbor/core/forecast'
import { useForecast } from '@/composables/use-forecast'
import { useLineDraft } from '@/composables/use-line-draft'
import ForecastPanel from '@/parts/ForecastPanel.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import ConfirmLive from './ConfirmLive.vue'
import LineCreatives from './LineCreatives.vue'
import LineFields from './LineFields.vue'
import StaleEditNote from './StaleEditNote.vue'

const route = useRoute()
const router = useRouter()
const manifest = useManifest()
const market = useMarket()
const session = useSession()
const id = Number(route.params.lineId)
const edit = useLineDraft(() => void manifest.load())
const { line, draft, problems, unreadable, saving, loadError, stale, undoStack } = edit
const { figures, was, ladder, sieve, breakdowns, holdbacks, together, isAsking, error: forecastError, ask } = useForecast()
const isConfirming = ref(false)
const moveError = ref<string | null>(null)

const mayDraft = computed(() => session.may('draft') && line.value?.state !== 'ended')
const mayLive = computed(() => session.may('live'))
const campaign = computed(() => (line.value ? manifest.campaignOf(line.value.campaignId) : undefined))
const advertiser = computed(() => (line.value ? manifest.advertiserOf(line.value.advertiserId) : undefined))
const hasChanges = computed(() => (line.value?.inForce?.changes.length ?? 0) > 0)
const waitsFor = computed(() => {
  if (!session.may('draft')) return 'Forecasts are for those who draft; you read.'
  return edit.isValid.value ? null : 'These figures are from before: a field needs another look.'
})
const savingWords = computed(() => ({ saved: line.value?.inForce ? 'draft saved' : 'saved', waiting: 'saving …', saving: 'saving …', refused: 'not saved' })[saving.value])

function onEdited() {
  if (edit.edited()) askForecast()
}

function askForecast() {
  if (line.value && draft.value && session.may('draft')) ask(line.value.campaignId, id, draft.value)
}

/** A change that the panel offers: an edit as any other, so that undo takes it back. */
function onChange(change: Change) {
  if (!draft.value) return
  draft.value = withChange(draft.value, change)
  onEdited()
}

/** The mark on the ladder: figures follow it as it goes, the draft is saved when it rests. */
function onBid(bidMicros: number, settled: boolean) {
  if (!draft.value || !line.value) return
  const next = withChange(draft.value, { kind: 'bid', micros: bidMicros })
  if (!settled) return ask(line.value.campaignId, id, next)
  draft.value = next
  onEdited()
}

function onUndo() {
  edit.undo()
  askForecast()
}

onMounted(async () => {
  await edit.load(id)
  askForecast()
})
watch(() => market.tapeReady, (ready) => ready && askForecast())
watch(() => market.run.running, async (running) => {
  if (running || !line.value) return
  edit.refresh(await api.line(id))
  askForecast()
})

const LOSES = 'The last edit is not saved, since a field needs another look. Leave and lose it?'
onBeforeRouteLeave(async () => {
  await edit.save()
  return saving.value !== 'refused' || window.confirm(LOSES)
})

/** Closing the window must not lose what is not saved yet. */
function onUnload(event: BeforeUnloadEvent) {
  if (saving.value !== 'saved') event.preventDefault()
}
onMounted(() => window.addEventListener('beforeunload', onUnload))
onBeforeUnmount(() => window.removeEventListener('beforeunload', onUnload))

async function onConfirm() {
  await edit.save()
  isConfirming.value = saving.value === 'saved'
}

async function onLive() {
  isConfirming.value = false
  edit.take(await api.line(id))
  await manifest.load()
}

async function onMove(move: 'release' | 'pause' | 'resume' | 'end') {
  moveError.value = null
  try {
    edit.refresh(await api.moveLine(id, move))
    await manifest.load()
  } catch (error) {
    moveError.value = (error as ApiError).message
  }
}

async function onDelete() {
  const campaignId = line.value?.campaignId
  try {
    await api.deleteDraft(id)
    await manifest.load()
    await router.push({ name: 'campaign', params: { campaignId } })
  } catch (error) {
    moveError.value = (error as ApiError).message
  }
}

async function onSettle(mine: boolean) {
  await edit.settle(mine)
  askForecast()
}
</script>

<template>
  <p v-if="loadError" class="LinePage-error trouble" role="alert">{{ loadError.message }} <RouterLink :to="{ name: 'campaigns' }">Back to campaigns</RouterLink></p>
  <div v-if="line && draft" class="LinePage">
    <div class="LinePage-middle">
      <h1 class="visually-hidden">Line {{ line.draft.name }}</h1>
      <header>
        <p class="quiet">{{ advertiser?.name }} <span aria-hidden="true">/</span> <RouterLink v-if="campaign" :to="{ name: 'campaign', params: { campaignId: campaign.id } }">{{ campaign.name }}</RouterLink> <span aria-hidden="true">/</span> <b>{{ line.code }}</b></p>
        <span class="quiet small" :class="{ trouble: saving === 'refused' }" role="status" data-test="saving">{{ savingWords }}</span>
        <ElButton v-if="undoStack.length > 0" size="small" @click="onUndo">Undo</ElButton>
        <RouterLink v-if="line.inForce" :to="{ name: 'results', params: { lineId: id } }">Results</RouterLink>
        <RouterLink v-if="draft" :to="{ name: 'market', query: { said: JSON.stringify({ formats: [draft.format], targeting: draft.targeting, hours: draft.hours ?? null }) } }">In the Market</RouterLink>
        <RouterLink v-if="line.inForce" :to="{ name: 'trace', params: { lineId: id } }">Trace</RouterLink>
        <ElButton v-if="mayLive && (!line.inForce || hasChanges)" type="primary" data-test="put-live" @click="onConfirm">{{ line.inForce ? 'Put changes live …' : 'Put live …' }}</ElButton>
      </header>
      <p class="LinePage-state" data-test="state">
        <b>{{ line.state }}</b><template v-if="line.inForce">; {{ line.serving }}<template v-if="line.learning">; {{ line.learning }}</template></template><template v-if="hasChanges && line.inForce">; <span class="LinePage-staged">{{ line.inForce.changes.length }} {{ line.inForce.changes.length === 1 ? 'edit is' : 'edits are' }} not live yet</span></template>
        <span v-if="mayLive" class="LinePage-moves">
          <button v-if="line.waits" class="plain" type="button" @click="onMove('release')">Release</button>
          <button v-if="line.state === 'live'" class="plain" type="button" @click="onMove('pause')">Pause</button>
          <button v-if="line.state === 'paused'" class="plain" type="button" @click="onMove('resume')">Go on</button>
          <button v-if="['live', 'paused', 'cleared'].includes(line.state)" class="plain" type="button" @click="onMove('end')">End</button>
        </span>
        <button v-if="mayDraft && line.state === 'draft' && !line.inForce" class="plain LinePage-moves" type="button" @click="onDelete">Delete this draft</button>
      </p>
      <p v-if="moveError" class="trouble" role="alert">{{ moveError }}</p>
      <p v-if="problems['']" class="trouble" role="alert">{{ problems[''] }}</p>
      <StaleEditNote v-if="stale" :stale="stale" @settle="onSettle" />
      <LineFields v-model:draft="draft" v-model:unreadable="unreadable" :problems="problems" :campaign="campaign" :disabled="!mayDraft" @edited="onEdited" />
      <LineCreatives :line="line" :disabled="!mayDraft" @changed="edit.refresh($event)" />
    </div>
    <ForecastPanel
      :figures="figures" :was="was" :ladder="ladder" :sieve="sieve" :breakdowns="breakdowns" :holdbacks="holdbacks" :together="together" :draft="draft" :is-asking="isAsking" :error="forecastError" :waits-for="waitsFor"
      :disabled="!mayDraft" @retry="askForecast" @change="onChange" @bid="onBid" />
    <ConfirmLive v-if="isConfirming" :line="line" @close="isConfirming = false" @live="onLive" />
  </div>
</template>

<style>
.LinePage {
  display: grid;
  grid-template-columns: 1fr 372px;
  height: 100%;
}

.LinePage-error {
  padding: 24px;
}

.LinePage-middle {
  padding: 12px 20px 60px;
  overflow: auto;
  position: relative;
}

.LinePage header {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 32px;
}

.LinePage header p {
  margin-right: auto;
}

.LinePage header b {
  color: var(--ink);
}

.LinePage-state {
  margin: 4px 0 8px;
  padding-bottom: 9px;
  border-bottom: 1px solid var(--ink);
  font: 14px/1.5 var(--serif);
}

.LinePage-staged {
  padding: 0 3px;
  background: var(--brass-wash);
  color: var(--brass-text);
}

.LinePage-moves {
  display: inline-flex;
  gap: 12px;
  margin-left: 14px;
  font-family: var(--sans) !important;
  font-size: 12.5px !important;
}

@media (max-width: 1180px) {
  .LinePage {
    grid-template-columns: 1fr 330px;
  }
}
</style>
