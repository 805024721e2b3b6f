<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ElButton } from 'element-plus'
import { ApiError, api } from '@/api'
import type { FixableFinding } from '@tin-harbor/core/buying'
import type { LineView } from '@tin-harbor/core/contract'
import { clauseOf, clauseOfField, type Clause } from '@tin-harbor/core/wording'
import ForecastPanel from '@/parts/ForecastPanel.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import ConfirmLive from './ConfirmLive.vue'
import LineClauses from './LineClauses.vue'
import LineHead from './LineHead.vue'
import LineState from './LineState.vue'
import LineTitle from './LineTitle.vue'
import LineWording from './LineWording.vue'
import OthersNote from './OthersNote.vue'
import PreflightList from './PreflightList.vue'
import StaleEditNote from './StaleEditNote.vue'
import { useLineCommands } from './use-line-commands'
import { useLineEditing } from './use-line-editing'

const router = useRouter()
const manifest = useManifest()
const session = useSession()
const id = Number(useRoute().params.lineId)
const editing = useLineEditing(id)
const { line, draft, problems, unreadable, saving, loadError, stale, merged, isValid, findings, campaign, others, mayDraft, mayLive } =
  editing
const { forecast, refresh, save, take, settle, askForecast, onFix, onChange, onBid, onReorder } = editing
const { figures, was, ladder, sieve, breakdowns, advised, measure, together, isAsking, error: forecastError } = forecast

const clauses = useTemplateRef('clauses')
const isConfirming = ref(false)
const isListing = ref(false)
const deleteError = ref<string | null>(null)
const advertiser = computed(() => (line.value ? manifest.advertiserOf(line.value.advertiserId) : undefined))
const stops = computed(() => findings.value.filter(({ severity }) => severity === 'stops').length)
const puts = computed(() => {
  if (!line.value || !mayLive.value || line.value.template) return null
  const { inForce, state } = line.value
  const isNew = !inForce || state === 'draft' || state === 'refused'
  if (!isNew && inForce.changes.length === 0) return null
  return state === 'ended' ? 'Bring back …' : isNew ? 'Put live …' : 'Put changes live …'
})
const waitsFor = computed(() => {
  if (session.isNarrow) return 'Forecasts and edits want a wider screen; from here a line is paused and released.'
  return isValid.value ? null : 'These figures are from before: a field needs another look.'
})

const onGo = (clause: Clause, selector?: string) => void clauses.value?.go(clause, selector)
function onFinding({ field }: FixableFinding) {
  const clause = clauseOfField(field)
  if (clause === null) document.getElementById('line-name')?.focus()
  else onGo(clause)
}
/** Saved at once, so that the confirmation is of what goes live; what cannot be saved is told by the page behind it. */
async function onConfirm() {
  await save()
  isConfirming.value = saving.value === 'saved'
}
async function onFixConfirmed(finding: FixableFinding) {
  onFix(finding)
  await onConfirm()
}
async function onLive() {
  isConfirming.value = false
  take(await api.line(id))
  await manifest.load()
}
async function onMoved(view: LineView) {
  refresh(view)
  await manifest.load()
}
async function onDelete() {
  const campaignId = line.value?.campaignId
  try {
    await api.deleteDraft(id)
    await manifest.load()
    await router.push({ name: 'campaign', params: { campaignId } })
  } catch (error) {
    deleteError.value = (error as ApiError).message
  }
}
useLineCommands(editing, { go: onGo, list: () => (isListing.value = true), confirm: () => void onConfirm() })
</script>

<template>
  <p v-if="loadError" class="LinePage-error trouble" role="alert">
    {{ loadError.message }} <RouterLink :to="{ name: 'campaigns' }">Back to campaigns</RouterLink>
  </p>
  <div v-if="line && draft" class="LinePage">
    <div class="LinePage-middle">
      <h1 class="visually-hidden">Line {{ line.draft.name }}</h1>
      <header>
        <p class="quiet">
          {{ advertiser?.name }} <span aria-hidden="true">/</span>{{ ' '
          }}<RouterLink v-if="campaign" :to="{ name: 'campaign', params: { campaignId: campaign.id } }">{{ campaign.name }}</RouterLink
          >{{ ' ' }}<span aria-hidden="true">/</span> {{ line.code }}
        </p>
        <ElButton
          size="small"
          :type="stops > 0 ? 'danger' : undefined"
          plain
          :aria-expanded="isListing"
          data-test="preflight"
          @click="isListing = !isListing"
          >Preflight: {{ findings.length }}</ElButton
        >
        <ElButton v-if="puts" size="small" type="primary" data-test="put-live" @click="onConfirm">{{ puts }}</ElButton>
      </header>
      <LineTitle :editing="editing" />
      <LineState :line="line" @moved="onMoved" />
      <PreflightList v-if="isListing" :findings="findings" :disabled="!mayDraft" @fix="onFix" @go="onFinding" />
      <p v-if="deleteError" class="trouble" role="alert">{{ deleteError }}</p>
      <p v-if="problems['']" class="trouble" role="alert">{{ problems[''] }}</p>
      <OthersNote :others="others" :merged="merged" @read="merged = []" />
      <StaleEditNote v-if="stale" :stale="stale" @settle="settle" />
      <LineWording :findings="findings" :open-clause="clauses?.open ?? null" @go="onGo" @fix="onFix">
        <RouterLink v-if="line.inForce" :to="{ name: 'results', params: { lineId: id } }">Results</RouterLink>
        <RouterLink v-if="line.inForce" :to="{ name: 'trace', params: { lineId: id } }">Trace</RouterLink>
        <RouterLink
          :to="{
            name: 'market',
            query: { said: JSON.stringify({ formats: [draft.format], targeting: draft.targeting, hours: draft.hours ?? null }) }
          }"
          >In the Market</RouterLink
        >
        <LineHead :line="line" @changed="refresh($event)" @delete="onDelete" />
      </LineWording>
      <LineClauses
        ref="clauses"
        :line="line"
        :findings="findings"
        :unreadable="Object.keys(unreadable)"
        @creatives="refresh($event)"
        @fix="onFix" />
    </div>
    <ForecastPanel
      :figures="figures"
      :was="was"
      :ladder="ladder"
      :sieve="sieve"
      :breakdowns="breakdowns"
      :advised="advised"
      :together="together"
      :measure="measure"
      :draft="draft"
      :is-asking="isAsking"
      :error="forecastError"
      :waits-for="waitsFor"
      :disabled="!mayDraft"
      @retry="askForecast"
      @change="onChange"
      @bid="onBid"
      @reorder="onReorder"
      @restrict="(dimension) => onGo(clauseOf(dimension), `[data-dimension=&quot;${dimension}&quot;]`)" />
    <ConfirmLive v-if="isConfirming" :line="line" @close="isConfirming = false" @live="onLive" @fix="onFixConfirmed" />
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
  position: relative;
  padding: 12px 20px 60px;
  overflow: auto;
}

/* Where the line is, what preflight says and how it goes live stay in sight. */
.LinePage-middle > header {
  position: sticky;
  z-index: 6;
  top: -12px;
  margin: -12px -20px 0;
  padding: 8px 20px 4px;
  background: var(--paper);
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 32px;
}

.LinePage-middle > header p {
  margin-right: auto;
}

.LinePage-middle > header b {
  color: var(--ink);
}

@media (max-width: 1180px) {
  .LinePage {
    grid-template-columns: 1fr 330px;
  }
}
</style>
