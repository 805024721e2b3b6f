<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch, type Ref } from 'vue'
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router'
import { ElButton, ElInput } from 'element-plus'
import { ApiError, api } from '@/api'
import { withChanges, type LineDraft, type FixableFinding } from '@tin-harbor/core/buying'
import { withFix } from '@tin-harbor/core/preflight'
import { CLAUSES, CLAUSE_NAMES, clauseOf, clauseOfField, type Clause } from '@tin-harbor/core/wording'
import type { Change } from '@tin-harbor/core/forecast'
import { offerCommands } from '@/composables/commands'
import { provideLineEdit } from '@/composables/line-edit'
import { useOthersOn } from '@/composables/use-others-on'
import { useForecast } from '@/composables/use-forecast'
import { useLineDraft } from '@/composables/use-line-draft'
import { usePreflight } from '@/composables/use-preflight'
import ForecastPanel from '@/parts/ForecastPanel.vue'
import { useManifest } from '@/stores/manifest'
import { useMarket } from '@/stores/market'
import { useSession } from '@/stores/session'
import ConfirmLive from './ConfirmLive.vue'
import FindingNote from './FindingNote.vue'
import LineClauses from './LineClauses.vue'
import LineHead from './LineHead.vue'
import LineWording from './LineWording.vue'
import StaleEditNote from './StaleEditNote.vue'
import { fieldName } from './field-names'

const route = useRoute()
const router = useRouter()
const manifest = useManifest()
const market = useMarket()
const session = useSession()
const id = Number(route.params.lineId)
const edit = useLineDraft(() => void manifest.load())
const { line, draft, problems, unreadable, saving, loadError, stale, merged, undoStack, redoStack } = edit
const { figures, was, ladder, sieve, breakdowns, advised, measure, together, isAsking, error: forecastError, ask } = useForecast()
const { findings, check } = usePreflight(id, draft, figures, advised)
const isConfirming = ref(false)
const isListing = ref(false)
const clauses = useTemplateRef('clauses')
const moveError = ref<string | null>(null)

const mayDraft = computed(() => session.may('draft'))
const asksEnd = ref(false)
const mayLive = computed(() => session.may('live'))
const campaign = computed(() => (line.value ? manifest.campaignOf(line.value.campaignId) : undefined))
const advertiser = computed(() => (line.value ? manifest.advertiserOf(line.value.advertiserId) : undefined))
const stops = computed(() => findings.value.filter(({ severity }) => severity === 'stops').length)
const hasChanges = computed(() => (line.value?.inForce?.changes.length ?? 0) > 0)
const waitsFor = computed(() => {
  if (!session.may('draft')) return 'Forecasts are for those who draft; you read.'
  return edit.isValid.value ? null : 'These figures are from before: a field needs another look.'
})
const savingWords = computed(
  () =>
    ({
      saved: line.value?.inForce ? 'draft saved' : 'saved',
      waiting: 'saving …',
      saving: 'saving …',
      refused: 'not saved',
      away: 'not saved yet: the server is away, and is tried again'
    })[saving.value]
)

function onEdited() {
  if (edit.edited()) askForecast()
}

function askForecast() {
  if (!line.value || !draft.value || !session.may('draft')) return
  ask(line.value.campaignId, id, draft.value)
  check()
}

function change(edit_: (draft: LineDraft) => void) {
  if (!draft.value) return
  edit_(draft.value)
  onEdited()
}
function onProblem(field: string, message: string | null) {
  const { [field]: _, ...others } = unreadable.value
  unreadable.value = message === null ? others : { ...others, [field]: message }
  onEdited()
}
provideLineEdit({
  draft: draft as Ref<LineDraft>,
  problems,
  campaign: computed(() => campaign.value),
  disabled: computed(() => !mayDraft.value),
  figures,
  sieve,
  change,
  onProblem
})

/** What a finding offers, done with one click; undo takes it back. */
function onFix(finding: FixableFinding) {
  if (!draft.value || !finding.fix) return
  draft.value = withFix(draft.value, finding.fix)
  onEdited()
}
/** The sieve in another order; what matches stays the same. */
function onReorder(from: number, to: number) {
  change((d) => {
    const all = [...d.targeting.restrictions]
    all.splice(to, 0, ...all.splice(from, 1))
    d.targeting = { restrictions: all }
  })
}
const onGo = (clause: Clause, selector?: string) => void clauses.value?.go(clause, selector)
function onFinding({ field }: FixableFinding) {
  const clause = clauseOfField(field)
  if (clause === null) document.getElementById('line-name')?.focus()
  else onGo(clause)
}

/** Who else has this line open; what they saved is taken over at once where nothing of ours waits. */
const others = useOthersOn(id, async (version) => {
  if (!line.value || version <= line.value.version || saving.value !== 'saved') return
  edit.refresh(await api.line(id))
  askForecast()
})

/** What the panel offers: an edit as any other, so that undo takes it back. */
function onChange(changes: readonly Change[]) {
  if (!draft.value) return
  draft.value = withChanges(draft.value, changes)
  onEdited()
}

/** The mark on the ladder: figures follow it as it goes, the draft is saved when it rests. */
function onBid(bidMicros: number, settled: boolean) {
  if (!draft.value || !line.value) return
  const next = withChanges(draft.value, [{ kind: 'bid', micros: bidMicros }])
  if (!settled) return ask(line.value.campaignId, id, next)
  draft.value = next
  onEdited()
}

function onUndo() {
  edit.undo()
  askForecast()
}
function onRedo() {
  edit.redo()
  askForecast()
}
/** Undo and redo by the usual keys; inside a text field they are the field's own. */
function onKeys(event: KeyboardEvent) {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
  const focused = document.activeElement
  if (
    focused instanceof HTMLInputElement &&
    ['text', 'search', 'number'].includes(focused.type) &&
    focused.value !== focused.defaultValue &&
    !event.altKey
  )
    return
  if (focused instanceof HTMLTextAreaElement) return
  event.preventDefault()
  if (event.shiftKey) onRedo()
  else onUndo()
}
offerCommands(() =>
  !line.value || !mayDraft.value
    ? []
    : [
        { name: 'Undo the last edit', keys: 'Ctrl Z', does: onUndo },
        { name: 'Redo it', keys: 'Ctrl Shift Z', does: onRedo },
        ...CLAUSES.map((clause) => ({ name: `Open clause ${clause}, ${CLAUSE_NAMES[clause]}`, does: () => onGo(clause) })),
        { name: 'List what preflight says', does: () => (isListing.value = true) },
        ...(mayLive.value && !line.value.template ? [{ name: 'Put this line live …', does: () => void onConfirm() }] : [])
      ]
)
onMounted(() => window.addEventListener('keydown', onKeys))
onBeforeUnmount(() => window.removeEventListener('keydown', onKeys))

onMounted(async () => {
  await edit.load(id)
  askForecast()
})
watch(
  () => market.tapeReady,
  (ready) => ready && askForecast()
)
watch(
  () => market.run.running,
  async (running) => {
    if (running || !line.value) return
    edit.refresh(await api.line(id))
    askForecast()
  }
)

const LOSES = 'The last edit is not saved. Leave and lose it?'
onBeforeRouteLeave(async () => {
  await edit.save()
  return (saving.value !== 'refused' && saving.value !== 'away') || window.confirm(LOSES)
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

/** Saved at once, so that the confirmation is of what goes live; what cannot be saved is told by the page behind it. */
async function onFixConfirmed(finding: FixableFinding) {
  onFix(finding)
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
  asksEnd.value = false
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
        <ElButton
          v-if="mayLive && !line.template && (!line.inForce || hasChanges)"
          size="small"
          type="primary"
          data-test="put-live"
          @click="onConfirm"
          >{{ line.state === 'ended' ? 'Bring back …' : line.inForce ? 'Put changes live …' : 'Put live …' }}</ElButton
        >
      </header>
      <div class="LinePage-name">
        <ElInput
          id="line-name"
          :model-value="draft.name"
          :disabled="!mayDraft"
          maxlength="120"
          aria-label="Name of the line"
          @update:model-value="(name: string) => change((d) => (d.name = name))" />
        <span class="quiet small" :class="{ trouble: saving === 'refused' || saving === 'away' }" role="status" data-test="saving">{{
          savingWords
        }}</span>
        <button v-if="undoStack.length > 0" class="plain" type="button" @click="onUndo">Undo</button>
        <button v-if="redoStack.length > 0" class="plain" type="button" @click="onRedo">Redo</button>
      </div>
      <p v-if="problems.name" class="trouble small" role="alert">{{ problems.name }}</p>
      <p class="LinePage-state" data-test="state">
        <b>{{ line.template ? 'template' : line.state }}</b><template v-if="line.inForce"
          >; {{ line.serving }}<template v-if="line.learning">; {{ line.learning }}</template></template
        ><template v-if="hasChanges && line.inForce"
          >;
          <span class="LinePage-staged"
            >{{ line.inForce.changes.length }} {{ line.inForce.changes.length === 1 ? 'edit is' : 'edits are' }} not live yet</span
          ></template
        >
        <span v-if="mayLive" class="LinePage-moves">
          <button v-if="line.waits" class="plain" type="button" @click="onMove('release')">Release</button>
          <button v-if="line.state === 'live'" class="plain" type="button" @click="onMove('pause')">Pause</button>
          <button v-if="line.state === 'paused'" class="plain" type="button" @click="onMove('resume')">Go on</button>
          <button
            v-if="['live', 'paused', 'cleared'].includes(line.state)"
            class="plain"
            type="button"
            :aria-expanded="asksEnd"
            @click="asksEnd = !asksEnd">
            End
          </button>
        </span>
        <span v-if="asksEnd" class="LinePage-asks"
          >It buys nothing from the next hour on.
          <button class="plain" type="button" data-test="end-now" @click="onMove('end')">End it</button>{{ ' '
          }}<button class="plain" type="button" @click="asksEnd = false">Keep it</button></span
        >
        <span v-if="line.state === 'ended' && mayLive && !hasChanges" class="quiet small">
          An edit that is put live, such as a longer flight, brings it back.</span
        >
      </p>
      <section v-if="isListing" class="LinePage-findings" aria-label="Preflight" data-test="findings">
        <p v-if="findings.length === 0" class="quiet">Nothing to look at: it could go live as it is.</p>
        <div v-for="finding in findings" :key="finding.field + finding.message">
          <FindingNote :finding="finding" :label="fieldName(finding.field)" :disabled="!mayDraft" @fix="onFix(finding)" /><button
            class="plain small"
            type="button"
            @click="onFinding(finding)">
            go there
          </button>
        </div>
      </section>
      <p v-if="moveError" class="trouble" role="alert">{{ moveError }}</p>
      <p v-if="problems['']" class="trouble" role="alert">{{ problems[''] }}</p>
      <p v-if="others.length > 0" class="LinePage-merged" role="status" data-test="others">
        {{ others.join(' and ') }} {{ others.length === 1 ? 'has' : 'have' }} this line open too: edits of different fields are put
        together, of the same it is asked.
      </p>
      <p v-if="merged.length > 0" class="LinePage-merged" role="status">
        Saved together with what somebody else changed meanwhile:
        {{ merged.map(({ field, after }) => `${fieldName(field)} ${after}`).join('; ') }}.
        <button class="plain" type="button" @click="merged = []">Good</button>
      </p>
      <StaleEditNote v-if="stale" :stale="stale" @settle="onSettle" />
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
        <LineHead :line="line" @changed="edit.refresh($event)" @delete="onDelete" />
      </LineWording>
      <LineClauses
        ref="clauses"
        :line="line"
        :findings="findings"
        :unreadable="Object.keys(unreadable)"
        @creatives="edit.refresh($event)"
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

.LinePage-name {
  display: flex;
  gap: 12px;
  align-items: baseline;
}

.LinePage-name .el-input {
  width: 340px;
}

.LinePage-name .el-input__wrapper {
  padding: 0;
  background: none;
  box-shadow: 0 1px 0 0 var(--rule);
}

.LinePage-name .el-input__inner {
  color: var(--ink);
  font: 600 15px var(--sans);
}

.LinePage-state {
  margin: 4px 0 0;
  font: 13px/1.5 var(--serif);
}

.LinePage-findings {
  margin: 6px 0;
  padding: 8px 12px;
  background: var(--tin-2);
}

.LinePage-findings > div {
  display: flex;
  gap: 14px;
  justify-content: space-between;
}

.LinePage-findings > div > button {
  flex: none;
  align-self: start;
}

.LinePage-merged {
  margin: 6px 0;
  padding: 6px 10px;
  background: var(--brass-wash);
}

.LinePage-staged {
  padding: 0 3px;
  background: var(--brass-wash);
  color: var(--brass-text);
}

.LinePage-asks {
  display: inline-block;
  margin-left: 10px;
  padding-left: 9px;
  border-left: 2px solid var(--brass);
}

.LinePage-asks button {
  margin-left: 8px;
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
