<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ElButton, ElDialog, ElInputNumber, ElRadio, ElRadioGroup } from 'element-plus'
import 'element-plus/theme-chalk/el-dialog.css'
import { atValuesWords, changedAt, type AtValues, type LineDraft } from '@tin-harbor/core/buying'
import type { LineView } from '@tin-harbor/core/contract'
import type { Dimension } from '@tin-harbor/core/dimensions'
import { MODEL_WORDS } from '@tin-harbor/core/wording'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import MoneyField from '@/parts/MoneyField.vue'
import { useManifest } from '@/stores/manifest'

/** Puts values into the draft of a line that is there: bought, left out, or bid for apart. */
export interface ToLineProps {
  dimension: Dimension
  values: readonly string[]
  /** What they are, in words. */
  words: string
  /** The saved list that they are of: a line can follow it. */
  list?: number
}
const props = defineProps<ToLineProps>()
const emit = defineEmits<{ close: [] }>()
const manifest = useManifest()
onMounted(() => manifest.load())

type What = 'buys' | 'out' | 'price' | 'share'
const lineId = ref<number | null>(null)
const line = shallowRef<LineView | null>(null)
const what = ref<What>('buys')
const ownMicros = ref<number | null>(null)
const more = ref<number | undefined>(20)
const follows = ref(props.list !== undefined)
const { isBusy, error, attempt } = useAttempt()
const done = ref<{ id: number; words: string } | null>(null)

watch(lineId, (id) => {
  line.value = null
  done.value = null
  if (id !== null)
    void attempt(async () => {
      const read = await api.line(id)
      if (lineId.value === id) line.value = read
    })
})
const campaigns = computed(() =>
  manifest.campaigns
    .map(({ id, name }) => ({ id, name, lines: manifest.lines.filter((one) => one.campaignId === id && one.state !== 'ended') }))
    .filter(({ lines }) => lines.length > 0)
)
const change = computed((): AtValues | null => {
  if (what.value === 'buys') return { buys: true }
  if (what.value === 'out') return { out: true }
  if (what.value === 'price') return ownMicros.value === null ? null : { ownMicros: ownMicros.value }
  return more.value === undefined ? null : { perMille: Math.round(1000 + more.value * 10) }
})
const those = computed(() => (props.values.length === 1 ? 'it' : 'them'))
const isNaming = computed(() => what.value === 'buys' || what.value === 'out')

const onDo = () =>
  attempt(async () => {
    if (!line.value) throw new Error('Choose the line.')
    if (!change.value) throw new Error(what.value === 'price' ? 'Which price?' : 'How much more or less?')
    const { id, version, draft } = line.value
    const list = isNaming.value && follows.value ? props.list : undefined
    const saved = await api.saveLine(
      id,
      version,
      JSON.parse(JSON.stringify(changedAt(draft, props.dimension, props.values, change.value, list))) as LineDraft
    )
    line.value = saved
    done.value = {
      id,
      words: `${atValuesWords(saved.draft, props.dimension, change.value)} now${list === undefined ? '' : ', and follows the list'}`
    }
  })
</script>

<template>
  <ElDialog :model-value="true" title="Into a line" width="520px" @close="emit('close')">
    <p class="ToLine-said">{{ words }}</p>
    <p>
      <label
        >Line
        <select v-model="lineId" data-test="to-line">
          <option :value="null" disabled>choose</option>
          <optgroup v-for="campaign in campaigns" :key="campaign.id" :label="campaign.name">
            <option v-for="one in campaign.lines" :key="one.id" :value="one.id">{{ manifest.lineName(one.id) }}</option>
          </optgroup>
        </select></label
      >
    </p>
    <ElRadioGroup v-model="what" class="ToLine-what" aria-label="What it does there">
      <ElRadio value="buys">buys {{ those }}, {{ follows ? 'in place of' : 'beside' }} what it names already, and nothing else</ElRadio>
      <ElRadio value="out">leaves {{ those }} out{{ follows ? ', in place of what it leaves out already' : '' }}</ElRadio>
      <ElRadio value="price">bids a price of its own there</ElRadio>
      <ElRadio value="share">bids more or less there</ElRadio>
    </ElRadioGroup>
    <p v-if="what === 'price'">
      <MoneyField id="to-line-price" v-model="ownMicros" :unit="line ? MODEL_WORDS[line.draft.price.model] : ''" label="Own price" />
    </p>
    <p v-if="what === 'share'">
      <ElInputNumber v-model="more" :min="-100" :max="900" :precision="1" :controls="false" aria-label="Per cent more or less" /> % more
      (less with a minus) than its bid
    </p>
    <p v-if="list !== undefined && isNaming">
      <label><input v-model="follows" type="checkbox" data-test="follow" /> and follows the list as it changes</label>
    </p>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    <p v-if="done" role="status">
      The draft of <RouterLink :to="{ name: 'line', params: { lineId: done.id } }">{{ manifest.lineName(done.id) }}</RouterLink>
      {{ done.words }}. It counts once it is put live.
    </p>
    <template #footer
      ><ElButton @click="emit('close')">{{ done ? 'Close' : 'Not now' }}</ElButton
      ><ElButton type="primary" :loading="isBusy" :disabled="lineId === null" data-test="to-line-do" @click="onDo"
        >Into its draft</ElButton
      ></template
    >
  </ElDialog>
</template>

<style>
.ToLine-said {
  margin-bottom: 12px;
  font: 16px/1.5 var(--serif);
}

.ToLine-what {
  display: grid;
  justify-items: start;
  margin: 8px 0;
}
</style>
