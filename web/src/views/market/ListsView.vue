<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { ElButton } from 'element-plus'
import { EVERYTHING, LIST_KINDS, sentenceWords, valueWords, type ListKind, type PasteRead } from '@tin-harbor/core/buying'
import type { ListView } from '@tin-harbor/core/contract'
import type { Restriction } from '@tin-harbor/core/targeting'
import { ApiError, api } from '@/api'
import { about, count, cpm } from '@/composables/formats'
import { saveTable } from '@/composables/save-file'
import { useAddress } from '@/composables/use-address'
import { useManifest } from '@/stores/manifest'
import { useSession } from '@/stores/session'
import MarketTabs from './MarketTabs.vue'
import { useSurvey } from '@/composables/use-survey'

const address = useAddress()
const manifest = useManifest()
const session = useSession()
const lists = shallowRef<ListView[]>([])
const error = ref<string | null>(null)
const said = ref<string | null>(null)
const chosen = address.part('list')
const list = computed(() => lists.value.find((one) => one.id === Number(chosen.value)) ?? null)
const { survey, ask } = useSurvey('list')

async function load() {
  try {
    lists.value = (await api.lists()).lists
    error.value = null
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
onMounted(() => {
  void load()
  void manifest.load()
})

/** The name and values that are edited; null while nothing is. */
const name = ref('')
const removed = ref(new Set<string>())
const text = ref('')
const read = shallowRef<PasteRead | null>(null)
watch(list, (is, was) => {
  if (is?.id !== was?.id || is?.name !== was?.name) name.value = is?.name ?? ''
  if (is?.id !== was?.id) {
    removed.value = new Set()
    text.value = ''
    read.value = null
    said.value = null
  }
  if (is && is.kind !== 'group' && is.values.length > 0)
    void ask({
      sentence: { ...EVERYTHING, targeting: { restrictions: [{ dimension: LIST_KINDS[is.kind], mode: 'include', values: is.values }] } },
      by: [],
      without: null,
      bidMicros: 0
    })
})

async function attempt(what: () => Promise<void>) {
  error.value = null
  try {
    await what()
  } catch (failure) {
    error.value = (failure as Error).message
  }
}
const kindOf = computed(() => (list.value?.kind === 'group' ? null : ((list.value?.kind as ListKind | undefined) ?? null)))
const onRead = () =>
  attempt(async () => {
    if (kindOf.value && list.value) read.value = await api.readList(kindOf.value, text.value, list.value.values)
  })
const onSave = (add: string[]) =>
  attempt(async () => {
    if (!list.value) return
    const { id, version, name: from } = list.value
    const to = name.value
    const saved = await api
      .saveList({ id, version, rename: to === from ? null : { from, to }, add, remove: [...removed.value] })
      .catch(async (failure: unknown) => {
        if (!(failure instanceof ApiError) || failure.code !== 'stale') throw failure
        await load()
        const now = list.value?.name ?? ''
        name.value = to
        throw new Error(`Somebody called it “${now}” meanwhile. Nothing is saved yet; save again to call it “${to}”.`)
      })
    said.value = saved.merged
      ? `Saved, together with what somebody else changed meanwhile: it holds ${saved.values.length} now.`
      : `Saved: it holds ${saved.values.length}.${saved.usedBy.length > 0 ? ' Drafts that follow it have it already; put their lines live for it to count.' : ''}`
    read.value = null
    text.value = ''
    removed.value = new Set()
    await load()
  })
const newName = ref('')
const newKind = ref<ListKind>('properties')
const onCreate = () =>
  attempt(async () => {
    const made = await api.createList(null, { name: newName.value, kind: newKind.value, values: [], group: null })
    newName.value = ''
    await load()
    chosen.value = String(made.id)
  })
const onDelete = () =>
  attempt(async () => {
    if (!list.value) return
    await api.deleteList(list.value.id)
    chosen.value = ''
    await load()
  })
function onFile(event: Event) {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (!file) return
  void attempt(async () => {
    text.value = await file.text()
    await onRead()
  })
}
const onCsv = () => list.value && saveTable('csv', { name: list.value.name, head: [], rows: list.value.values.map((value) => [value]) })

const lineId = ref<number | null>(null)
const mode = ref<Restriction['mode']>('include')
/** Puts the list's values into a line's draft: following the list, or once. */
const onUse = (follows: boolean) =>
  attempt(async () => {
    const shown = list.value
    if (!shown || !kindOf.value || lineId.value === null) return
    const line = await api.line(lineId.value)
    const dimension = LIST_KINDS[kindOf.value]
    const next: Restriction = { dimension, mode: mode.value, values: shown.values, ...(follows ? { list: shown.id } : {}) }
    const isIt = (one: Restriction) => one.dimension === dimension && one.mode === mode.value
    const { restrictions } = line.draft.targeting
    await api.saveLine(line.id, line.version, {
      ...line.draft,
      targeting: { restrictions: restrictions.some(isIt) ? restrictions.map((one) => (isIt(one) ? next : one)) : [...restrictions, next] }
    })
    said.value = `The draft of “${line.draft.name}” ${follows ? 'follows this list now' : 'has its values now'}.`
    await load()
  })
const words = (value: string) =>
  list.value?.names[list.value.values.indexOf(value)] ?? (kindOf.value ? valueWords(LIST_KINDS[kindOf.value], value) : value)
</script>

<template>
  <section class="ListsView">
    <header>
      <h1>Lists</h1>
      <MarketTabs />
    </header>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    <div class="ListsView-body">
      <aside>
        <ul>
          <li v-for="one in lists" :key="one.id">
            <button class="plain" type="button" :class="{ 'is-here': one.id === list?.id }" @click="chosen = String(one.id)">
              {{ one.name }}</button>{{ ' '
            }}<span class="quiet small"
              >{{ one.kind === 'group' ? 'a group of restrictions' : `${count(one.values.length)} ${one.kind}`
              }}{{ one.usedBy.length > 0 ? `, followed by ${one.usedBy.length}` : '' }}</span
            >
          </li>
        </ul>
        <p v-if="lists.length === 0" class="quiet">No list yet.</p>
        <form v-if="session.may('draft')" class="ListsView-new" @submit.prevent="onCreate">
          <label>New list <input v-model="newName" maxlength="120" data-test="new-name" aria-label="Name of the new list" /></label>
          <label
            >of
            <select v-model="newKind" data-test="new-kind">
              <option v-for="kind in Object.keys(LIST_KINDS)" :key="kind" :value="kind">{{ kind }}</option>
            </select></label
          >
          <ElButton size="small" native-type="submit" data-test="create">Make it</ElButton>
        </form>
      </aside>
      <article v-if="list">
        <p class="ListsView-name">
          <label>Name <input v-model="name" maxlength="120" :disabled="!session.may('draft')" /></label>
          <button
            v-if="session.may('draft') && (name !== list.name || removed.size > 0)"
            class="plain"
            type="button"
            data-test="save"
            @click="onSave([])">
            Save{{ removed.size > 0 ? `, without ${removed.size}` : '' }}
          </button>
          <button class="plain" type="button" @click="onCsv">CSV</button>
          <button v-if="session.may('draft')" class="plain" type="button" @click="onDelete">Delete</button>
        </p>
        <p v-if="said" class="ListsView-said" role="status">{{ said }}</p>
        <p v-if="list.kind !== 'group' && list.values.length > 0" class="ListsView-said">
          It holds {{ count(list.values.length) }} {{ list.kind
          }}<template v-if="survey"
            >: <b>{{ about(survey.total.opportunitiesADay) }}</b> opportunities a day to <b>{{ about(survey.total.people) }}</b> people,
            half of them for <b>{{ cpm(survey.total.halfMicros) }}</b></template
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
        <template v-if="list.kind !== 'group' && session.may('draft')">
          <h2 class="ruled">Paste into it</h2>
          <textarea
            v-model="text"
            rows="6"
            :aria-label="`${list.kind}, one a line`"
            :placeholder="
              {
                properties: 'tabbyvision.example, one a line; store ids and numbers too',
                placements: '1024',
                'address ranges': '10.1.2.0/24',
                keywords: 'telescope',
                places: 'DE 10115',
                segments: 'interest: news'
              }[list.kind]
            "
            data-test="paste" />
          <p class="ListsView-actions">
            <ElButton size="small" data-test="read" :disabled="text.trim() === ''" @click="onRead">Read it</ElButton>{{ ' '
            }}<label class="small">or from a CSV file <input type="file" accept=".csv,.txt,text/csv,text/plain" @change="onFile" /></label>
          </p>
          <template v-if="read">
            <p class="ListsView-said" role="status" data-test="read-said">
              <b>{{ count(read.values.length) }}</b> of {{ count(read.entries) }} entries are new<template v-if="read.problems.length > 0"
                >, <b>{{ count(read.problems.length) }}</b> are not taken:</template
              >
              <ElButton v-if="read.values.length > 0" size="small" type="primary" data-test="add" @click="onSave(read.values)"
                >Add the {{ count(read.values.length) }}</ElButton
              >
            </p>
            <ol v-if="read.problems.length > 0" class="ListsView-problems" data-test="problems">
              <li v-for="one in read.problems.slice(0, 200)" :key="`${one.line}${one.text}`">
                line {{ one.line }}: <code>{{ one.text }}</code> {{ one.message }}
              </li>
            </ol>
          </template>
          <template v-if="list.values.length > 0">
            <h2 class="ruled">Use it in a line</h2>
            <p class="ListsView-actions">
              <select v-model="lineId" aria-label="Line" data-test="use-line">
                <option :value="null" disabled>choose a line</option>
                <option v-for="line in manifest.lines" :key="line.id" :value="line.id">{{ line.name }}</option>
              </select>
              <select v-model="mode" aria-label="Only these or without them">
                <option value="include">only these</option>
                <option value="exclude">without them</option>
              </select>
              <button class="plain" type="button" :disabled="lineId === null" data-test="follow" @click="onUse(true)">
                let it follow the list
              </button>
              or <button class="plain" type="button" :disabled="lineId === null" @click="onUse(false)">copy the values</button>
            </p>
          </template>
        </template>
        <template v-if="list.values.length > 0">
          <h2 class="ruled">What it holds</h2>
          <ul class="ListsView-values">
            <li v-for="value in list.values.slice(0, 500)" :key="value" :class="{ 'is-gone': removed.has(value) }">
              {{ words(value) }}
              <button
                v-if="session.may('draft')"
                class="plain small"
                type="button"
                :aria-label="`Take ${words(value)} away`"
                @click="removed = new Set(removed.has(value) ? [...removed].filter((one) => one !== value) : [...removed, value])">
                {{ removed.has(value) ? 'keep' : '✕' }}
              </button>
            </li>
          </ul>
          <p v-if="list.values.length > 500" class="quiet small">the first 500 of {{ count(list.values.length) }}; the CSV has all.</p>
        </template>
      </article>
      <p v-else class="quiet">Choose a list, or make one.</p>
    </div>
  </section>
</template>

<style>
.ListsView-body {
  display: grid;
  grid-template-columns: 250px 1fr;
  gap: 28px;
  padding-top: 12px;
}

.ListsView aside ul {
  margin: 0 0 14px;
  padding: 0;
  list-style: none;
}

.ListsView aside li {
  padding: 4px 0;
  border-bottom: 1px solid var(--rule-2);
}

.ListsView aside .is-here {
  font-weight: 600;
}

.ListsView-new {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}

.ListsView-name,
.ListsView-actions {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  margin: 4px 0;
}

.ListsView-said {
  margin: 8px 0;
  font: 13.5px/1.55 var(--serif);
}

.ListsView-problems {
  max-height: 180px;
  margin: 0;
  padding: 0 0 0 4px;
  overflow: auto;
  color: var(--hull);
  font-size: 12.5px;
  list-style: none;
}

.ListsView-problems code {
  color: var(--ink);
}

.ListsView-values {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 2px 18px;
  margin: 0;
  padding: 0;
  font-size: 12.5px;
  list-style: none;
}

.ListsView-values .is-gone {
  color: var(--ink-2);
  text-decoration: line-through;
}
</style>
