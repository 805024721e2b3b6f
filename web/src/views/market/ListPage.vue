<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { EVERYTHING, LIST_KINDS, sentenceWords, valueWords } from '@tin-harbor/core/buying'
import type { ListView } from '@tin-harbor/core/contract'
import type { Restriction } from '@tin-harbor/core/targeting'
import { ApiError, api } from '@/api'
import { about, count, cpm } from '@/composables/formats'
import { saveTable } from '@/composables/save-file'
import { useSurvey } from '@/composables/use-survey'
import { useSession } from '@/stores/session'
import PasteIntoList from './PasteIntoList.vue'
import StartLine from './StartLine.vue'
import ToLine from './ToLine.vue'
import type { Lists } from './use-lists'

/** A list: its name, what it is of in the market, its values, and the lines that follow it. */
export interface ListPageProps {
  list: ListView
  all: Lists
}
const props = defineProps<ListPageProps>()
const { attempt, load, show } = props.all
const session = useSession()
const { survey, ask } = useSurvey('list')

const MOST_SHOWN = 500
const said = ref<string | null>(null)
/** The name that is edited, and values that are to go; nothing is saved of them yet. */
const name = ref(props.list.name)
const removed = ref<ReadonlySet<string>>(new Set())
watch(
  () => props.list.name,
  (is) => (name.value = is)
)
const kind = computed(() => (props.list.kind === 'group' ? null : props.list.kind))
watch(
  () => props.list.values,
  (values) => {
    if (kind.value && values.length > 0)
      void ask({
        sentence: { ...EVERYTHING, targeting: { restrictions: [{ dimension: LIST_KINDS[kind.value], mode: 'include', values }] } },
        by: [],
        without: null,
        bidMicros: 0
      })
  },
  { immediate: true }
)

/** Somebody else may have called it otherwise meanwhile: then nothing is saved, and what was typed stays. */
async function saveAs(to: string, add: string[]) {
  const { id, version, name: from } = props.list
  try {
    return await api.saveList({ id, version, rename: to === from ? null : { from, to }, add, remove: [...removed.value] })
  } catch (failure) {
    if (!(failure instanceof ApiError) || failure.code !== 'stale') throw failure
    await load()
    const now = props.list.name
    name.value = to
    throw new Error(`Somebody called it “${now}” meanwhile. Nothing is saved yet; save again to call it “${to}”.`, { cause: failure })
  }
}
const onSave = (add: string[]) =>
  attempt(async () => {
    const { merged, values, usedBy } = await saveAs(name.value, add)
    const follow = usedBy.length > 0 ? ' Drafts that follow it have it already; put their lines live for it to count.' : ''
    said.value = merged
      ? `Saved, together with what somebody else changed meanwhile: it holds ${values.length} now.`
      : `Saved: it holds ${values.length}.${follow}`
    removed.value = new Set()
    await load()
  })
const onDelete = () =>
  attempt(async () => {
    await api.deleteList(props.list.id)
    await show(null)
  })
const onCsv = () => saveTable('csv', { name: props.list.name, head: [], rows: props.list.values.map((value) => [value]) })
const into = ref<'new line' | 'line' | null>(null)
/** What a line on it buys: a group as it is, values as the list has them from then on. */
const sentence = computed(() => {
  const { id, values, group } = props.list
  const restrictions: Restriction[] = kind.value
    ? [{ dimension: LIST_KINDS[kind.value], mode: 'include', values, list: id }]
    : (group?.restrictions ?? [])
  return { ...EVERYTHING, targeting: { restrictions } }
})
function onInto() {
  into.value = null
  void attempt(load)
}
const flip = (value: string) =>
  (removed.value = new Set(removed.value.has(value) ? [...removed.value].filter((one) => one !== value) : [...removed.value, value]))
const words = (value: string, n: number) => props.list.names[n] ?? (kind.value ? valueWords(LIST_KINDS[kind.value], value) : value)
</script>

<template>
  <article class="ListPage">
    <p class="ListPage-name ListsView-actions">
      <label>Name <input v-model="name" maxlength="120" :disabled="!session.may('draft')" /></label>
      <button
        v-if="session.may('draft') && (name !== list.name || removed.size > 0)"
        class="plain"
        type="button"
        data-test="save"
        @click="onSave([])">
        Save{{ removed.size > 0 ? `, without ${removed.size}` : '' }}
      </button>
      <template v-if="session.may('draft') && (list.values.length > 0 || list.group)">
        <button class="plain" type="button" data-test="start-line" @click="into = 'new line'">Start a line on it</button>
        <button v-if="kind" class="plain" type="button" data-test="into-line" @click="into = 'line'">Into a line, or bid apart</button>
      </template>
      <button class="plain" type="button" @click="onCsv">CSV</button>
      <button v-if="session.may('draft')" class="plain" type="button" @click="onDelete">Delete</button>
    </p>
    <p v-if="said" class="ListsView-said" role="status">{{ said }}</p>
    <p v-if="kind && list.values.length > 0" class="ListsView-said">
      It holds {{ count(list.values.length) }} {{ kind
      }}<template v-if="survey"
        >: <b>{{ about(survey.total.opportunitiesADay) }}</b> opportunities a day to <b>{{ about(survey.total.people) }}</b> people, half of
        them for <b>{{ cpm(survey.total.halfMicros) }}</b></template
      >.
      <template v-if="list.usedBy.length > 0">
        Followed by
        <template v-for="(use, n) in list.usedBy" :key="use.line"
          ><template v-if="n > 0">, </template
          ><RouterLink :to="{ name: 'line', params: { lineId: use.line } }">{{ use.name }}</RouterLink></template
        >.</template
      >
    </p>
    <p v-if="list.group" class="ListsView-said">{{ sentenceWords({ ...EVERYTHING, targeting: list.group }) }}</p>
    <template v-if="kind && session.may('draft')">
      <PasteIntoList :kind="kind" :values="list.values" :attempt="attempt" @add="onSave" />
    </template>
    <template v-if="list.values.length > 0">
      <h2 class="ruled">What it holds</h2>
      <ul class="ListPage-values">
        <li v-for="(value, n) in list.values.slice(0, MOST_SHOWN)" :key="value" :class="{ 'is-gone': removed.has(value) }">
          {{ words(value, n) }} <small v-if="list.names[n] && list.names[n] !== value" class="quiet">{{ value }}</small>
          <button
            v-if="session.may('draft')"
            class="plain small"
            type="button"
            :aria-label="`Take ${words(value, n)} away`"
            @click="flip(value)">
            {{ removed.has(value) ? 'keep' : '✕' }}
          </button>
        </li>
      </ul>
      <p v-if="list.values.length > MOST_SHOWN" class="quiet small">
        the first {{ MOST_SHOWN }} of {{ count(list.values.length) }}; the CSV has all.
      </p>
    </template>
    <StartLine v-if="into === 'new line'" :sentence="sentence" @close="into = null" />
    <ToLine
      v-if="into === 'line' && kind"
      :dimension="LIST_KINDS[kind]"
      :values="list.values"
      :list="list.id"
      :words="`“${list.name}”, ${count(list.values.length)} ${kind}`"
      @close="onInto" />
  </article>
</template>

<style>
.ListPage-values {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 2px 18px;
  margin: 0;
  padding: 0;
  font-size: 12.5px;
  list-style: none;
}

.ListPage-values .is-gone {
  color: var(--ink-2);
  text-decoration: line-through;
}
</style>
