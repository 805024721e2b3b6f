<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { PlateMade } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { useAttempt } from '@/composables/use-attempt'
import { useManifest } from '@/stores/manifest'
import PutOnLine from '@/views/creatives/PutOnLine.vue'
import type { PlateEditing } from './use-plate'

/** Makes the pictures of a plate, and puts them on a line. */
export interface PlateMakeProps {
  editing: PlateEditing
}
const props = defineProps<PlateMakeProps>()
const { view, plate, drawn, saveAll } = props.editing
const manifest = useManifest()
const { isBusy, messages, attempt } = useAttempt()

const line = ref<number | null>(null)
const replaces = ref(true)
/** Lines that show pictures of before. */
const shownOn = computed(() => [...new Set((view.value?.made ?? []).flatMap(({ lines }) => lines))])
const count = computed(() => drawn.value.filter(({ png }) => png !== null).length)
const made = ref<PlateMade | null>(null)
watch(plate, () => (made.value = null), { deep: true })
const onMake = () =>
  attempt(async () => {
    made.value = null
    await saveAll('The plate')
    if (!view.value) return
    const { id, version } = view.value
    const answer = await api.makePlate(id, { version, line: line.value, replaces: replaces.value })
    view.value = answer.view
    made.value = answer
  })
const picturesWords = (n: number) => `${n} ${n === 1 ? 'picture' : 'pictures'}`
const madeWords = computed(() => {
  if (!made.value) return ''
  const { made: fresh, there, put, replaced } = made.value
  const before = there > 0 ? `, ${there} ${there === 1 ? 'was' : 'were'} there already` : ''
  return [
    `${picturesWords(fresh)} ${fresh === 1 ? 'is' : 'are'} made${before}.`,
    ...(replaced > 0 ? [`${picturesWords(replaced)} of before gave way.`] : []),
    ...(line.value === null ? [] : [`${put} put on ${manifest.lineName(line.value)}.`])
  ].join(' ')
})
</script>

<template>
  <PutOnLine
    v-model="line"
    of="plate"
    :advertiser="view?.advertiserId"
    format="display"
    :words="line === null ? `Make ${picturesWords(count)}` : `Make ${picturesWords(count)} and put them on the line`"
    :is-busy="isBusy"
    :disabled="count === 0"
    :done="madeWords"
    :messages="messages"
    @make="onMake">
    <template #terms>
      <label v-if="shownOn.length > 0"
        ><input v-model="replaces" type="checkbox" /> in the place of those of before, on
        {{ shownOn.map((id) => `L-${id}`).join(', ') }}</label
      >
    </template>
    <template #refused>
      <p v-if="made && made.refused.length > 0" class="small PutOnLine-refused">
        Not {{ line === null ? 'made' : 'put there' }}:
        <template v-for="(one, n) in made.refused" :key="one.shape">{{ n > 0 ? '; ' : '' }}{{ one.shape }}: {{ one.says }}</template>
      </p>
    </template>
  </PutOnLine>
</template>
