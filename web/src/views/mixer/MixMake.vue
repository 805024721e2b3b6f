<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { ElButton } from 'element-plus'
import type { MixMade } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useManifest } from '@/stores/manifest'
import type { MixEditing } from './use-mix'

/** Makes the ads of a matrix, and puts them on a line. */
export interface MixMakeProps {
  editing: MixEditing
}
const props = defineProps<MixMakeProps>()
const { view, mix, cells, saving, take, save } = props.editing
const manifest = useManifest()

/** How often it is saved before it is given up. */
const SAVES = 5
const line = ref<number | null>(null)
const takes = ref(true)
const lines = computed(() =>
  manifest.lines.filter(
    (one) => one.format === 'native' && !one.template && manifest.campaignOf(one.campaignId)?.advertiserId === view.value?.advertiserId
  )
)
const count = computed(() => cells.value.filter(({ struck }) => !struck).length)
const made = ref<MixMade | null>(null)
const failure = ref<string[]>([])
const isMaking = ref(false)
/** Ads on lines that the matrix would not make as it is now. */
const stillOn = computed(() => view.value?.stillOn ?? [])
const onLine = computed(() => stillOn.value.filter((one) => one.line === line.value).length)
watch(mix, () => (made.value = null), { deep: true })
async function onMake() {
  isMaking.value = true
  failure.value = []
  made.value = null
  try {
    // What is typed or cut meanwhile is saved first: the ads are made of what is seen.
    for (let tries = 0; tries < SAVES && saving.value !== 'saved'; tries++) await save()
    if (!view.value || saving.value !== 'saved') {
      failure.value = ['The matrix is not saved yet, so nothing was made of it.']
      return
    }
    const answer = await api.makeMix(view.value.id, {
      version: view.value.version,
      line: line.value,
      takes: takes.value && onLine.value > 0
    })
    take(answer.view)
    made.value = answer
  } catch (refusal) {
    if (!(refusal instanceof ApiError)) throw refusal
    failure.value = refusal.messages
  } finally {
    isMaking.value = false
  }
}
const adsWords = (n: number) => `${n.toLocaleString('en')} ${n === 1 ? 'ad' : 'ads'}`
/** "100 ads are made and on L-1008." */
const madeWords = computed(() => {
  if (!made.value) return ''
  const { made: fresh, there, put, taken } = made.value
  return [
    `${adsWords(fresh)} ${fresh === 1 ? 'is' : 'are'} made${there > 0 ? `, ${there} ${there === 1 ? 'was' : 'were'} there already` : ''}.`,
    ...(line.value === null ? [] : [`${put} put on ${manifest.lineName(line.value)}${taken > 0 ? `, ${taken} taken off` : ''}.`])
  ].join(' ')
})
</script>

<template>
  <footer class="MixMake">
    <label
      >on
      <select v-model="line" data-test="mix-line">
        <option :value="null">no line yet: made for the library</option>
        <option v-for="one in lines" :key="one.id" :value="one.id">{{ manifest.lineName(one.id) }}, {{ one.state }}</option>
      </select></label
    >
    <label v-if="onLine > 0"
      ><input v-model="takes" type="checkbox" /> take {{ adsWords(onLine) }} off it that {{ onLine === 1 ? 'is' : 'are' }} struck out or
      written anew here</label
    >
    <ElButton type="primary" size="small" :loading="isMaking" :disabled="count === 0" data-test="make-mix" @click="onMake">{{
      line === null ? `Make ${adsWords(count)}` : `Make ${adsWords(count)} and put them on the line`
    }}</ElButton>
    <span v-if="made" role="status" data-test="mix-made"
      >{{ madeWords }}
      <RouterLink v-if="line !== null" :to="{ name: 'line', params: { lineId: line }, query: { clause: 'F' } }"
        >See them on the line</RouterLink
      ></span
    >
    <span v-if="stillOn.length > 0 && onLine === 0" class="small"
      >{{ adsWords(stillOn.length) }} that {{ stillOn.length === 1 ? 'is' : 'are' }} struck out or written anew
      {{ stillOn.length === 1 ? 'stays' : 'stay' }} on {{ [...new Set(stillOn.map((one) => `L-${one.line}`))].join(', ') }}; choose the line
      to take them off.</span
    >
    <span v-for="message in failure" :key="message" class="trouble small" role="alert">{{ message }}</span>
  </footer>
</template>

<style>
.MixMake {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}
</style>
