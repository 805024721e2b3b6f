<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { MixMade } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'
import PutOnLine from '@/views/creatives/PutOnLine.vue'
import type { MixEditing } from './use-mix'

/** Makes the ads of a matrix, and puts them on a line. */
export interface MixMakeProps {
  editing: MixEditing
}
const props = defineProps<MixMakeProps>()
const { view, mix, cells, take, saveAll } = props.editing
const manifest = useManifest()
const { isBusy, messages, attempt } = useAttempt()

const line = ref<number | null>(null)
const takes = ref(true)
const count = computed(() => cells.value.filter(({ struck }) => !struck).length)
const made = ref<MixMade | null>(null)
/** Ads on lines that the matrix would not make as it is now. */
const stillOn = computed(() => view.value?.stillOn ?? [])
const onLine = computed(() => stillOn.value.filter((one) => one.line === line.value).length)
watch(mix, () => (made.value = null), { deep: true })
const onMake = () =>
  attempt(async () => {
    made.value = null
    // What is typed or cut meanwhile is saved first: the ads are made of what is seen.
    await saveAll('The matrix')
    if (!view.value) return
    const { id, version } = view.value
    const answer = await api.makeMix(id, { version, line: line.value, takes: takes.value && onLine.value > 0 })
    take(answer.view)
    made.value = answer
  })
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
  <PutOnLine
    v-model="line"
    of="mix"
    :advertiser="view?.advertiserId"
    format="native"
    :words="line === null ? `Make ${adsWords(count)}` : `Make ${adsWords(count)} and put them on the line`"
    :is-busy="isBusy"
    :disabled="count === 0"
    :done="madeWords"
    :messages="messages"
    @make="onMake">
    <template #terms>
      <label v-if="onLine > 0"
        ><input v-model="takes" type="checkbox" /> take {{ adsWords(onLine) }} off it that {{ onLine === 1 ? 'is' : 'are' }} struck out or
        written anew here</label
      >
    </template>
    <span v-if="stillOn.length > 0 && onLine === 0" class="small"
      >{{ adsWords(stillOn.length) }} that {{ stillOn.length === 1 ? 'is' : 'are' }} struck out or written anew
      {{ stillOn.length === 1 ? 'stays' : 'stay' }} on {{ [...new Set(stillOn.map((one) => `L-${one.line}`))].join(', ') }}; choose the line
      to take them off.</span
    >
  </PutOnLine>
</template>
