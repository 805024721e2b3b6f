<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { ElButton } from 'element-plus'
import type { ListKind, PasteRead } from '@tin-harbor/core/buying'
import { api } from '@/api'
import { count } from '@/composables/formats'
import { readRows } from '@/composables/read-file'
import FileField from '@/parts/FileField.vue'
import type { Lists } from './use-lists'

/** Values that are pasted or read from a file: what is taken of them, and what is not with the reason. */
export interface PasteIntoListProps {
  kind: ListKind
  /** What the list holds already. */
  values: readonly string[]
  attempt: Lists['attempt']
}
const props = defineProps<PasteIntoListProps>()
const emit = defineEmits<{ add: [values: string[]] }>()

const LIKE: Readonly<Record<ListKind, string>> = {
  properties: 'tabbyvision.example, one a line; store ids, names and “No. 81438” too',
  placements: 'Lay-by Post, page head',
  'address ranges': '10.1.2.0/24',
  keywords: 'telescope',
  places: 'DE 10115; London; Manchester, GB',
  segments: 'interest: news'
}
const text = ref('')
const read = shallowRef<PasteRead | null>(null)
const onRead = () =>
  props.attempt(async () => {
    read.value = await api.readList(props.kind, text.value, [...props.values])
  })
function onFile([file]: readonly File[]) {
  void props.attempt(async () => {
    text.value = (await readRows(file)).join('\n')
    await onRead()
  })
}
function onAdd(values: string[]) {
  read.value = null
  text.value = ''
  emit('add', values)
}
</script>

<template>
  <h2 class="ruled">Paste into it</h2>
  <textarea v-model="text" rows="6" :aria-label="`${kind}, one a line`" :placeholder="LIKE[kind]" data-test="paste" />
  <p class="ListsView-actions">
    <ElButton size="small" data-test="read" :disabled="text.trim() === ''" @click="onRead">Read it</ElButton>{{ ' '
    }}<FileField words="From a CSV file …" accept=".csv,.txt,text/csv,text/plain" @files="onFile" />
  </p>
  <template v-if="read">
    <p class="ListsView-said" role="status" data-test="read-said">
      <b>{{ count(read.values.length) }}</b> of {{ count(read.entries) }} entries are new<template v-if="read.problems.length > 0"
        >, <b>{{ count(read.problems.length) }}</b> are not taken:</template
      >
      <ElButton v-if="read.values.length > 0" size="small" type="primary" data-test="add" @click="onAdd(read.values)"
        >Add the {{ count(read.values.length) }}</ElButton
      >
    </p>
    <ol v-if="read.problems.length > 0" class="PasteIntoList-problems" data-test="problems">
      <li v-for="one in read.problems.slice(0, 200)" :key="`${one.line}${one.text}`">
        line {{ one.line }}: <code>{{ one.text }}</code> {{ one.message }}
      </li>
    </ol>
  </template>
</template>

<style>
.PasteIntoList-problems {
  max-height: 180px;
  margin: 0;
  padding: 0 0 0 4px;
  overflow: auto;
  color: var(--hull);
  font-size: 12.5px;
  list-style: none;
}

.PasteIntoList-problems code {
  color: var(--ink);
}
</style>
