<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { ElButton, ElDialog } from 'element-plus'
import 'element-plus/theme-chalk/el-dialog.css'
import 'element-plus/theme-chalk/el-overlay.css'
import type { FixableFinding } from '@tin-harbor/core/buying'
import type { LivePlan, LineView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { newConfirmation } from '@/composables/confirmation'
import { useAttempt } from '@/composables/use-attempt'
import { marketTime, money } from '@/composables/formats'
import FindingNote from './FindingNote.vue'
import { fieldName } from './field-names'

export interface ConfirmLiveProps {
  line: LineView
}
const props = defineProps<ConfirmLiveProps>()
const emit = defineEmits<{ close: []; live: []; fix: [finding: FixableFinding] }>()

const plan = shallowRef<LivePlan | null>(null)
const { isBusy, error, attempt } = useAttempt()
const token = newConfirmation('live')

/** A fix is saved like any edit; until the line is back with it, nothing is put live. */
const isFixing = ref(false)
function onFix(finding: FixableFinding) {
  isFixing.value = true
  emit('fix', finding)
}
watch(
  () => props.line.version,
  () =>
    attempt(async () => {
      plan.value = await api.livePlan(props.line.id)
      isFixing.value = false
    }),
  { immediate: true }
)

const stops = computed(() => plan.value?.findings.filter((finding) => finding.severity === 'stops') ?? [])
const warns = computed(() => plan.value?.findings.filter((finding) => finding.severity === 'warns') ?? [])
const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/** "1 campaign, 1 line, 3 ads; nothing else changes." */
const counted = computed(() => {
  if (!plan.value) return ''
  const { campaigns, lines, ads } = plan.value
  const parts = [campaigns && plural(campaigns, 'campaign'), lines && plural(lines, 'line'), ads && plural(ads, 'ad')].filter(Boolean)
  return parts.length > 0
    ? `${parts.join(', ')} will exist; nothing else changes.`
    : 'The line stays one line; the edits below come into force with the next market hour.'
})
const spends = computed(() => {
  if (!plan.value) return ''
  const { mostADayMicros, mostInAllMicros } = plan.value
  if (mostADayMicros === null && mostInAllMicros === null) return ''
  return `It may spend at most ${[mostADayMicros === null ? '' : `${money(mostADayMicros)} a day`, mostInAllMicros === null ? '' : `${money(mostInAllMicros)} in all`].filter(Boolean).join(' and ')}.`
})

const sent = computed(() => {
  const { ads = 0, answeredBy = null, isLive = false } = plan.value ?? {}
  if (answeredBy === null) return ''
  const goes = `${plural(ads, 'ad')} ${ads === 1 ? 'goes' : 'go'} to review and ${ads === 1 ? 'is' : 'are'} answered by ${marketTime(answeredBy)}`
  return isLive ? `${goes}; what serves now goes on until then.` : `${goes}; the line starts with the first that is cleared.`
})

const onPutLive = () =>
  attempt(async () => {
    await api.putLive(props.line.id, props.line.version, token)
    emit('live')
  })
</script>

<template>
  <ElDialog
    :model-value="true"
    :title="line.state === 'ended' ? 'Bring this line back?' : line.inForce ? 'Put these edits live?' : 'Put this line live?'"
    width="520px"
    @close="$emit('close')">
    <div class="ConfirmLive">
      <p v-if="(!plan || isFixing) && !error" role="status">Checking the line …</p>
      <template v-if="plan">
        <template v-if="stops.length > 0">
          <p>Before it can go live:</p>
          <div data-test="stops">
            <FindingNote
              v-for="finding in stops"
              :key="finding.field + finding.message"
              :finding="finding"
              :label="fieldName(finding.field)"
              :disabled="isFixing"
              @fix="onFix(finding)" />
          </div>
        </template>
        <template v-else>
          <p class="ConfirmLive-count" data-test="counted">{{ counted }} {{ spends }}</p>
          <ul v-if="plan.changes.length > 0">
            <li v-for="change in plan.changes" :key="change.field">
              {{ fieldName(change.field) }}: {{ change.before }} <span aria-label="becomes">→</span> <b>{{ change.after }}</b>
            </li>
          </ul>
          <p v-if="plan.answeredBy !== null" data-test="goes-to-review">{{ sent }}</p>
          <p v-if="plan.waits && !plan.isLive">Once cleared it waits until somebody releases it.</p>
        </template>
        <template v-if="warns.length > 0">
          <FindingNote
            v-for="finding in warns"
            :key="finding.field + finding.message"
            :finding="finding"
            :label="fieldName(finding.field)"
            :disabled="isFixing"
            @fix="onFix(finding)" />
        </template>
      </template>
      <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    </div>
    <template #footer>
      <ElButton @click="$emit('close')">{{ stops.length > 0 ? 'Back to the line' : 'Not yet' }}</ElButton>
      <ElButton v-if="plan && stops.length === 0" type="primary" :loading="isBusy || isFixing" data-test="confirm-live" @click="onPutLive"
        >Put live</ElButton
      >
    </template>
  </ElDialog>
</template>

<style>
.ConfirmLive {
  font: 14px/1.5 var(--serif);
}

.ConfirmLive-count {
  padding: 8px 0;
  font-size: 15.5px;
}

.ConfirmLive ul {
  margin: 4px 0 10px;
  padding-left: 18px;
}
</style>
