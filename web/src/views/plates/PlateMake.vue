<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { ElButton } from 'element-plus'
import type { PlateMade } from '@tin-harbor/core/contract'
import { ApiError, api } from '@/api'
import { useManifest } from '@/stores/manifest'
import type { PlateEditing } from './use-plate'

/** Makes the pictures of a plate, and puts them on a line. */
export interface PlateMakeProps {
  editing: PlateEditing
}
const props = defineProps<PlateMakeProps>()
const { view, plate, drawn, saving, save } = props.editing
const manifest = useManifest()

/** How often it is saved before it is given up. */
const SAVES = 5
const line = ref<number | null>(null)
const replaces = ref(true)
const lines = computed(() =>
  manifest.lines.filter(
    (one) => one.format === 'display' && !one.template && manifest.campaignOf(one.campaignId)?.advertiserId === view.value?.advertiserId
  )
)
/** Pictures of before that are shown on lines. */
const shown = computed(() => (view.value?.made ?? []).filter((one) => one.lines.length > 0))
const count = computed(() => drawn.value.filter(({ png }) => png !== null).length)
const made = ref<PlateMade | null>(null)
const failure = ref<string[]>([])
const isMaking = ref(false)
watch(plate, () => (made.value = null), { deep: true })

async function onMake() {
  isMaking.value = true
  failure.value = []
  made.value = null
  try {
    for (let tries = 0; tries < SAVES && saving.value !== 'saved'; tries++) await save()
    if (!view.value || saving.value !== 'saved') {
      failure.value = ['The plate is not saved yet, so nothing was made of it.']
      return
    }
    const answer = await api.makePlate(view.value.id, { version: view.value.version, line: line.value, replaces: replaces.value })
    view.value = answer.view
    made.value = answer
  } catch (refusal) {
    if (!(refusal instanceof ApiError)) throw refusal
    failure.value = refusal.messages
  } finally {
    isMaking.value = false
  }
}
const picturesWords = (n: number) => `${n} ${n === 1 ? 'picture' : 'pictures'}`
const madeWords = computed(() => {
  if (!made.value) return ''
  const { made: fresh, there, put, replaced } = made.value
  return [
    `${picturesWords(fresh)} ${fresh === 1 ? 'is' : 'are'} made${there > 0 ? `, ${there} ${there === 1 ? 'was' : 'were'} there already` : ''}.`,
    ...(replaced > 0 ? [`${picturesWords(replaced)} of before ${replaced === 1 ? 'gave' : 'gave'} way.`] : []),
    ...(line.value === null ? [] : [`${put} put on ${manifest.lineName(line.value)}.`])
  ].join(' ')
})
</script>

<template>
  <footer class="PlateMake">
    <label
      >on
      <select v-model="line" data-test="plate-line">
        <option :value="null">no line yet: made for the library</option>
        <option v-for="one in lines" :key="one.id" :value="one.id">{{ manifest.lineName(one.id) }}, {{ one.state }}</option>
      </select></label
    >
    <label v-if="shown.length > 0"
      ><input v-model="replaces" type="checkbox" /> in the place of those of before, on
      {{ [...new Set(shown.flatMap((one) => one.lines))].map((id) => `L-${id}`).join(', ') }}</label
    >
    <ElButton type="primary" size="small" :loading="isMaking" :disabled="count === 0" data-test="make-plate" @click="onMake">{{
      line === null ? `Make ${picturesWords(count)}` : `Make ${picturesWords(count)} and put them on the line`
    }}</ElButton>
    <span v-if="made" role="status" data-test="plate-made"
      >{{ madeWords }}
      <RouterLink v-if="line !== null" :to="{ name: 'line', params: { lineId: line }, query: { clause: 'F' } }"
        >See them on the line</RouterLink
      ></span
    >
    <span v-for="message in failure" :key="message" class="trouble small" role="alert">{{ message }}</span>
    <span v-if="made && made.refused.length > 0" class="small PlateMake-refused"
      >Not {{ line === null ? 'made' : 'put there' }}:
      <template v-for="(one, n) in made.refused" :key="one.shape">{{ n > 0 ? '; ' : '' }}{{ one.shape }}: {{ one.says }}</template></span
    >
  </footer>
</template>

<style>
.PlateMake {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}

.PlateMake-refused {
  flex-basis: 100%;
  max-height: 54px;
  overflow: auto;
}
</style>
