<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import type { ListView } from '@tin-harbor/core/contract'
import type { SurveyBy } from '@tin-harbor/core/forecast'
import { api } from '@/api'
import { useSession } from '@/stores/session'
import type { MarketRow } from './columns'

/** What can be done with the rows that are chosen. */
export interface ChosenRowsProps {
  rows: readonly MarketRow[]
  by: SurveyBy
}
const props = defineProps<ChosenRowsProps>()
defineEmits<{ start: []; only: [mode: 'include' | 'exclude']; compare: []; none: [] }>()
const session = useSession()

/** Lists that take rows of this kind. */
const lists = shallowRef<ListView[]>([])
const listed = ref<string | null>(null)
const loadLists = async () => {
  lists.value = ((await api.lists().catch(() => null))?.lists ?? []).filter((one) => one.kind === 'properties')
}
onMounted(() => props.by === 'property' && session.may('draft') && loadLists())

async function onList(id: string) {
  const list = lists.value.find((one) => one.id === Number(id))
  if (!list) return
  try {
    const { name, values } = await api.saveList({
      id: list.id,
      version: list.version,
      rename: null,
      add: props.rows.flatMap((row) => row.code ?? []),
      remove: []
    })
    listed.value = `“${name}” holds ${values.length} now.`
    await loadLists()
  } catch (failure) {
    listed.value = (failure as Error).message
  }
}
</script>

<template>
  <b>{{ rows.length }}</b> chosen:
  <template v-if="by !== 'deal'">
    <button v-if="session.may('draft')" class="plain" type="button" data-test="start-line" @click="$emit('start')">
      start a line on them
    </button>
    <button class="plain" type="button" @click="$emit('only', 'include')">only these</button>
    <button v-if="by !== 'format'" class="plain" type="button" @click="$emit('only', 'exclude')">leave them out</button>
    <button v-if="rows.length > 1 && rows.length < 5" class="plain" type="button" data-test="compare" @click="$emit('compare')">
      compare
    </button>
  </template>
  <label v-if="lists.length > 0"
    >put them on
    <select class="inline" data-test="put-on" aria-label="List to put them on" @change="onList(($event.target as HTMLSelectElement).value)">
      <option value="">a list</option>
      <option v-for="one in lists" :key="one.id" :value="one.id">{{ one.name }}</option>
    </select></label
  >
  <button class="plain" type="button" @click="$emit('none')">none</button>
  <span v-if="listed" role="status">{{ listed }}</span>
</template>
