<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { LIST_KINDS, type ListKind } from '@tin-harbor/core/buying'
import type { ListView } from '@tin-harbor/core/contract'
import { withRestriction, type Restriction } from '@tin-harbor/core/targeting'
import { api } from '@/api'
import { useManifest } from '@/stores/manifest'
import type { Lists } from './use-lists'

/** Puts a list's values into a line's draft: following the list, or once. */
export interface UseListProps {
  list: ListView
  kind: ListKind
  attempt: Lists['attempt']
}
const props = defineProps<UseListProps>()
const emit = defineEmits<{ used: [words: string] }>()
const manifest = useManifest()
onMounted(() => manifest.load())
const lineId = ref<number | null>(null)
const mode = ref<Restriction['mode']>('include')

const onUse = (follows: boolean) =>
  props.attempt(async () => {
    if (lineId.value === null) return
    const { id, version, draft } = await api.line(lineId.value)
    const { values, id: list } = props.list
    const next: Restriction = { dimension: LIST_KINDS[props.kind], mode: mode.value, values, ...(follows ? { list } : {}) }
    await api.saveLine(id, version, { ...draft, targeting: withRestriction(draft.targeting, next) })
    emit('used', `The draft of “${draft.name}” ${follows ? 'follows this list now' : 'has its values now'}.`)
  })
</script>

<template>
  <h2 class="ruled">Use it in a line</h2>
  <p class="ListsView-actions">
    <select v-model="lineId" aria-label="Line" data-test="use-line">
      <option :value="null" disabled>choose a line</option>
      <option v-for="line in manifest.lines" :key="line.id" :value="line.id">{{ manifest.lineName(line.id) }}</option>
    </select>
    <select v-model="mode" aria-label="Only these or without them">
      <option value="include">only these</option>
      <option value="exclude">without them</option>
    </select>
    <button class="plain" type="button" :disabled="lineId === null" data-test="follow" @click="onUse(true)">let it follow the list</button>
    or <button class="plain" type="button" :disabled="lineId === null" @click="onUse(false)">copy the values</button>
  </p>
</template>
