<script setup lang="ts">
import { computed, ref } from 'vue'
import { ElButton, ElDrawer } from 'element-plus'
import 'element-plus/theme-chalk/el-drawer.css'
import 'element-plus/theme-chalk/el-overlay.css'
import type { Expected, SlipItem } from '@tin-harbor/core/buying'
import type { StagedLine } from '@tin-harbor/core/contract'
import { about, marketTime, money } from '@/composables/formats'
import StateNote from '@/parts/StateNote.vue'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import { fieldName } from '@/views/line/field-names'
import { plural, useSlips } from './use-slips'

/** The change slip: edits of live lines that are not live yet, before and after, put live or taken back as one. */
defineEmits<{ close: [] }>()
const manifest = useManifest()
const session = useSession()

const { slips, error, said, isBusy, isSure, expected, opened, gone, free, chosen, isIn, toggle, live, move, takeBack, drop } = useSlips()
const name = ref('')
const edits = computed(() => chosen.value.reduce((sum, item) => sum + item.fields.length, 0))
const day = (told: Expected | null) => (told ? `${about(told.wins)} wins, ${money(told.spendMicros)} a day` : 'not told')
const forecastWords = (line: number) => {
  const told = expected.value.get(line)
  return told ? `${day(told.before)} as it is in force; with all its edits ${day(told.after)}` : '…'
}
const lineName = (line: number) =>
  slips.value?.staged.find((one) => one.line === line)?.name ?? manifest.lines.find((one) => one.id === line)?.name ?? `L-${line}`
/** What is staged of a field; nothing once it is live, or was changed back. */
const editsOf = ({ line, fields }: SlipItem) => {
  const changes = slips.value?.staged.find((one) => one.line === line)?.changes ?? []
  return fields.map((field) => ({ field, change: changes.find((one) => one.field === field) }))
}
const stops = (staged: StagedLine) => staged.findings.filter(({ severity }) => severity === 'stops')
async function onMove() {
  await move(name.value.trim())
  if (!error.value) name.value = ''
}
</script>

<template>
  <ElDrawer :model-value="true" title="Change slip" :with-header="false" size="620px" class="SlipDrawer" @close="$emit('close')">
    <div data-test="slip">
      <h2 class="SlipDrawer-title">Change slip <button class="plain" type="button" @click="$emit('close')">Close</button></h2>
      <StateNote v-if="!slips && !error" reads="Reading what is staged" />
      <template v-if="slips">
        <p v-if="free.length === 0" class="quiet">
          No {{ opened.length > 0 ? 'other ' : '' }}edit of a live line waits. Change a line that is live, and it stands here before it
          counts.
        </p>
        <section v-for="staged in free" :key="staged.line" class="SlipDrawer-line">
          <h3>
            <RouterLink :to="{ name: 'line', params: { lineId: staged.line } }" @click="$emit('close')">{{ staged.name }}</RouterLink>{{
              ' '
            }}<span class="quiet">{{ staged.campaign }}, {{ staged.code }}, {{ staged.state }}</span>
          </h3>
          <p v-for="change in staged.changes" :key="change.field">
            <label
              ><input type="checkbox" :checked="isIn(staged.line, change.field)" @change="toggle(staged.line, change.field)" />
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
          <template v-for="item in slip.items" :key="item.line">
            <p v-for="{ field, change } in editsOf(item)" :key="field">
              {{ lineName(item.line) }}, {{ fieldName(field)
              }}<template v-if="change"
                >: {{ change.before }} <span aria-label="becomes">→</span>{{ ' ' }}<b>{{ change.after }}</b></template
              >
            </p>
            <p class="quiet small">forecast: {{ forecastWords(item.line) }}</p>
          </template>
          <p>
            <button v-if="session.may('live')" class="plain" type="button" :disabled="isBusy" @click="live({ id: slip.id })">
              Put live</button
            >{{ ' ' }}<button class="plain" type="button" :disabled="isBusy" @click="drop(slip)">Take apart</button>
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
              @click="takeBack(slip)">
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
