<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ElButton, ElDrawer } from 'element-plus'
import 'element-plus/theme-chalk/el-drawer.css'
import 'element-plus/theme-chalk/el-overlay.css'
import type { Expected, SlipItem } from '@tin-harbor/core/buying'
import type { SlipView, SlipsView, StagedForecast, StagedLine } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { about, marketTime, money } from '@/composables/formats'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { fieldName } from '@/views/line/field-names'

/** The change slip: edits of live lines that are not live yet, before and after, put live or taken back as one. */
defineEmits<{ close: [] }>()
const manifest = useManifest()
const session = useSession()

const slips = shallowRef<SlipsView | null>(null)
const error = ref<string | null>(null)
const said = ref('')
const isBusy = ref(false)
const isSure = ref(false)
/** Edits that are left out of what goes live, as `line field`. */
const leftOut = ref(new Set<string>())
const name = ref('')

/** A day of each line with its edits; without a line while it is being forecast. */
const expected = shallowRef(new Map<number, StagedForecast>())
let loads = 0

async function load() {
  try {
    slips.value = await api.slips()
    error.value = null
    void loadForecasts(slips.value.staged)
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
}

async function loadForecasts(staged: readonly StagedLine[]) {
  const own = ++loads
  expected.value = new Map()
  if (staged.length === 0) return
  const told = await api.stagedForecasts().catch(() => ({ expected: staged.map(({ line }) => ({ line, before: null, after: null })) }))
  if (own === loads) expected.value = new Map(told.expected.map((one) => [one.line, one]))
}
onMounted(load)

const keyOf = (line: number, field: string) => `${line} ${field}`
/** Edits that no slip of their own holds. */
const held = computed(
  () =>
    new Set(
      slips.value?.slips
        .filter((slip) => slip.state === 'open')
        .flatMap((slip) => slip.items.flatMap((item) => item.fields.map((field) => keyOf(item.line, field))))
    )
)
const free = computed(() =>
  (slips.value?.staged ?? [])
    .map((staged) => ({ ...staged, changes: staged.changes.filter(({ field }) => !held.value.has(keyOf(staged.line, field))) }))
    .filter(({ changes }) => changes.length > 0)
)
const chosen = computed<SlipItem[]>(() =>
  free.value
    .map(({ line, changes }) => ({
      line,
      fields: changes.map(({ field }) => field).filter((field) => !leftOut.value.has(keyOf(line, field)))
    }))
    .filter(({ fields }) => fields.length > 0)
)
const edits = computed(() => chosen.value.reduce((sum, item) => sum + item.fields.length, 0))
watch(chosen, () => (isSure.value = false))
const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`
function toggle(line: number, field: string) {
  const key = keyOf(line, field)
  leftOut.value = new Set(leftOut.value.has(key) ? [...leftOut.value].filter((one) => one !== key) : [...leftOut.value, key])
}
const day = (told: Expected | null) => (told ? `${about(told.wins)} wins, ${money(told.spendMicros)} a day` : 'not told')
const forecastWords = (line: number) => {
  const told = expected.value.get(line)
  return told ? `${day(told.before)} as it is in force; with all its edits ${day(told.after)}` : '…'
}
const lineName = (line: number) =>
  slips.value?.staged.find((one) => one.line === line)?.name ?? manifest.lines.find((one) => one.id === line)?.name ?? `L-${line}`
const stops = (staged: StagedLine) => staged.findings.filter(({ severity }) => severity === 'stops')

async function attempt(what: () => Promise<string>) {
  isBusy.value = true
  error.value = null
  said.value = ''
  try {
    said.value = await what()
    await Promise.all([load(), manifest.load()])
  } catch (failure) {
    error.value = (failure as ApiError).message
  }
  isBusy.value = false
  isSure.value = false
}
const token = () => `slip-${crypto.getRandomValues(new Uint32Array(3)).join('-')}`
const live = (what: Parameters<typeof api.slipLive>[0]) =>
  attempt(async () => {
    const { lines } = await api.slipLive(what, token())
    return `${plural(lines, 'line')} changed with the next market hour; all can be taken back as one.`
  })
const onMove = () =>
  attempt(async () => {
    await api.createSlip(name.value.trim(), chosen.value)
    name.value = ''
    return 'They wait on a slip of their own.'
  })
const onTakeBack = (slip: SlipView) =>
  attempt(async () => {
    await api.takeBackSlip(slip.id)
    return `“${slip.name}” is taken back: what was in force before it is again from the next market hour.`
  })
const onDrop = (slip: SlipView) =>
  attempt(async () => {
    await api.dropSlip(slip.id)
    return 'Its edits are on the common slip again.'
  })
const opened = computed(() => slips.value?.slips.filter((slip) => slip.state === 'open') ?? [])
const gone = computed(() => slips.value?.slips.filter((slip) => slip.state === 'live') ?? [])
</script>

<template>
  <ElDrawer :model-value="true" title="Change slip" :with-header="false" size="620px" class="SlipDrawer" @close="$emit('close')">
    <div data-test="slip">
      <h2 class="SlipDrawer-title">Change slip <button class="plain" type="button" @click="$emit('close')">Close</button></h2>
      <p v-if="!slips && !error" class="quiet">Reading what is staged …</p>
      <template v-if="slips">
        <p v-if="free.length === 0" class="quiet">
          No edit of a live line waits. Change a line that is live, and it stands here before it counts.
        </p>
        <section v-for="staged in free" :key="staged.line" class="SlipDrawer-line">
          <h3>
            <RouterLink :to="{ name: 'line', params: { lineId: staged.line } }" @click="$emit('close')">{{ staged.name }}</RouterLink>{{
              ' '
            }}<span class="quiet">{{ staged.campaign }}, {{ staged.code }}, {{ staged.state }}</span>
          </h3>
          <p v-for="change in staged.changes" :key="change.field">
            <label
              ><input
                type="checkbox"
                :checked="!leftOut.has(keyOf(staged.line, change.field))"
                @change="toggle(staged.line, change.field)" />
              {{ fieldName(change.field) }}: {{ change.before }} <span aria-label="becomes">→</span> <b>{{ change.after }}</b></label
            >
          </p>
          <p class="quiet small">
            forecast: {{ forecastWords(staged.line) }}<template v-if="staged.forgets">; it forgets {{ staged.forgets }}</template>
          </p>
          <p v-for="finding in stops(staged)" :key="finding.message" class="trouble small">
            {{ fieldName(finding.field) }}: {{ finding.message }}
          </p>
        </section>
        <div v-if="chosen.length > 0" class="SlipDrawer-do">
          <p v-if="!isSure">
            <ElButton v-if="session.may('live')" type="primary" size="small" :loading="isBusy" data-test="slip-live" @click="isSure = true"
              >Put {{ plural(edits, 'edit') }} live …</ElButton
            >
          </p>
          <p v-else role="alert">
            {{ plural(edits, 'edit') }} of {{ plural(chosen.length, 'line') }} come into force with the next market hour, all or none;
            nothing else changes.
            <ElButton
              type="primary"
              size="small"
              :loading="isBusy"
              data-test="slip-sure"
              @click="live({ name: name.trim() || `${plural(edits, 'edit')} of ${plural(chosen.length, 'line')}`, items: chosen })"
              >Put live</ElButton
            >{{ ' ' }}<button class="plain" type="button" @click="isSure = false">Not yet</button>
          </p>
          <p>
            <label>or to a slip of their own, called <input v-model="name" maxlength="120" data-test="slip-name" /></label>{{ ' '
            }}<button class="plain" type="button" :disabled="name.trim() === '' || isBusy" data-test="slip-move" @click="onMove">
              Move them there
            </button>
          </p>
        </div>
        <section v-for="slip in opened" :key="slip.id" class="SlipDrawer-own" data-test="open-slip">
          <h3>
            {{ slip.name }} <span class="quiet">by {{ slip.madeBy }}</span>
          </h3>
          <p v-for="item in slip.items" :key="item.line">{{ lineName(item.line) }}: {{ item.fields.map(fieldName).join(', ') }}</p>
          <p>
            <button v-if="session.may('live')" class="plain" type="button" :disabled="isBusy" @click="live({ id: slip.id })">
              Put live</button
            >{{ ' ' }}<button class="plain" type="button" :disabled="isBusy" @click="onDrop(slip)">Take apart</button>
          </p>
        </section>
        <template v-if="gone.length > 0">
          <h3 class="SlipDrawer-head">Went live</h3>
          <p v-for="slip in gone.slice(0, 12)" :key="slip.id" data-test="live-slip">
            {{ slip.name }}
            <span class="quiet"
              >by {{ slip.madeBy }}, {{ slip.liveHour === null ? '' : marketTime(slip.liveHour) }}:
              {{ slip.items.map((item) => lineName(item.line)).join(', ') }}</span
            >
            <button
              v-if="session.may('live') && slip.stands === null"
              class="plain"
              type="button"
              :disabled="isBusy"
              data-test="take-back"
              @click="onTakeBack(slip)">
              Take back</button
            ><span v-else-if="slip.stands" class="quiet small">{{ slip.stands }}</span>
          </p>
        </template>
      </template>
      <p v-if="said" role="status">{{ said }}</p>
      <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    </div>
  </ElDrawer>
</template>

<style>
.SlipDrawer-title {
  display: flex;
  justify-content: space-between;
  margin-bottom: 8px;
  font: 600 16px var(--serif);
}

.SlipDrawer-title button {
  font: 12px var(--sans);
}

.SlipDrawer-do input[maxlength] {
  border: 1px solid var(--rule);
}

.SlipDrawer h3 {
  margin: 10px 0 3px;
  font: 600 13px var(--sans);
}

.SlipDrawer h3 span {
  font-weight: 400;
}

.SlipDrawer-line {
  padding-bottom: 6px;
  border-bottom: 1px solid var(--rule-2);
}

.SlipDrawer-do {
  margin: 10px 0;
}

.SlipDrawer-do p {
  margin-bottom: 6px;
}

.SlipDrawer-own {
  margin: 8px 0;
  padding: 4px 10px;
  border-left: 2px solid var(--brass);
}

.SlipDrawer .SlipDrawer-head {
  margin-top: 18px;
  padding-bottom: 3px;
  border-bottom: 1px solid var(--rule-2);
}
</style>
