<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { TrailEntry, TrailView } from '@tin-harbor/core/contract'
import { TRAIL_KINDS } from '@tin-harbor/core/wording'
import { api } from '@/api'
import { marketTime, realTime } from '@/composables/formats'
import { saveTable } from '@/composables/save-file'
import { useAddress } from '@/composables/use-address'
import { useAttempt } from '@/composables/use-attempt'
import StateNote from '@/parts/StateNote.vue'
import { fieldName } from '@/views/line/field-names'

/** What everybody did, as prose by day, each with before and after; chosen by who, what and when. */
export interface TrailListProps {
  advertisers: readonly { id: number; name: string }[]
}
defineProps<TrailListProps>()
const address = useAddress()
const part = {
  who: address.part('who'),
  kind: address.part('kind'),
  advertiser: address.part('advertiser'),
  from: address.part('from'),
  to: address.part('to')
}
const asked = computed(() => Object.fromEntries(Object.entries(part).flatMap(([name, { value }]) => (value ? [[name, value]] : []))))
const view = shallowRef<TrailView | null>(null)
const entries = shallowRef<TrailEntry[]>([])
const error = ref<string | null>(null)
const { isBusy, attempt, error: moreError } = useAttempt()
let mine = 0

async function load() {
  const own = ++mine
  try {
    const told = await api.trail(asked.value)
    if (own !== mine) return
    view.value = told
    entries.value = told.entries
    error.value = null
  } catch (failure) {
    if (own === mine) error.value = (failure as Error).message
  }
}
watch(asked, load, { immediate: true })
const onMore = () =>
  attempt(async () => {
    const told = await api.trail({ ...asked.value, after: view.value?.next ?? '' })
    view.value = told
    entries.value = [...entries.value, ...told.entries]
  })

const dayOf = (entry: TrailEntry) => realTime(entry.at).replace(/,? \d{1,2}[:.]\d{2}.*$/, '')
const timeOf = (entry: TrailEntry) => /\d{1,2}[:.]\d{2}/.exec(realTime(entry.at))?.[0] ?? ''
const days = computed(() => {
  const found: { day: string; entries: TrailEntry[] }[] = []
  for (const entry of entries.value) {
    const day = dayOf(entry)
    const last = found[found.length - 1]
    if (last?.day === day) last.entries.push(entry)
    else found.push({ day, entries: [entry] })
  }
  return found
})
/** Fields of a line are called as its form calls them. */
const nameOf = (entry: TrailEntry, field: string) => (entry.isDraft ? fieldName(field) : field)

/** Entries that a file holds at most. */
const MOST_ROWS = 20_000
const onCsv = () =>
  attempt(async () => {
    const all: TrailEntry[] = []
    for (let after: string | null = ''; after !== null && all.length < MOST_ROWS;) {
      const told: TrailView = await api.trail({ ...asked.value, limit: '500', ...(after === '' ? {} : { after }) })
      all.push(...told.entries)
      after = told.next
    }
    await saveTable('csv', {
      name: 'who did what',
      head: ['when', 'market time', 'who', 'did', 'name', 'advertiser', 'slip', 'field', 'before', 'after'],
      rows: all.flatMap((entry) => {
        const { at: when, hour, who, did, name, advertiser, slip, changes } = entry
        const row = [
          new Date(when * 1000).toISOString(),
          hour === null ? '' : marketTime(hour),
          who,
          did,
          name,
          advertiser ?? '',
          slip ?? ''
        ]
        if (changes.length === 0) return [[...row, '', '', '']]
        return changes.map(({ field, before, after }) => [...row, nameOf(entry, field), before, after])
      })
    })
  })
</script>

<template>
  <section class="TrailList" aria-labelledby="trail-head">
    <h2 id="trail-head">Who did what</h2>
    <p class="TrailList-asked small">
      <label
        >by
        <select v-model="part.who.value" data-test="trail-who">
          <option value="">everybody</option>
          <option v-for="one in view?.people ?? []" :key="one.id" :value="String(one.id)">{{ one.name }}</option>
        </select></label
      >
      <label
        >to
        <select v-model="part.kind.value" data-test="trail-kind">
          <option value="">anything</option>
          <option v-for="kind in TRAIL_KINDS" :key="kind">{{ kind }}</option>
        </select></label
      >
      <label
        >of
        <select v-model="part.advertiser.value">
          <option value="">all advertisers</option>
          <option v-for="one in advertisers" :key="one.id" :value="String(one.id)">{{ one.name }}</option>
        </select></label
      >
      <label>from <input v-model="part.from.value" type="date" /></label>
      <label>to <input v-model="part.to.value" type="date" aria-label="to the day" /></label>
      <button class="plain" type="button" :disabled="isBusy" data-test="trail-csv" @click="onCsv">as CSV</button>
    </p>
    <StateNote v-if="error || !view" :error="error" reads="Reading what was done" @retry="load" />
    <p v-else-if="entries.length === 0" class="quiet">Nothing of it was done.</p>
    <template v-else>
      <section v-for="one in days" :key="one.day">
        <h3>{{ one.day }}</h3>
        <p v-for="entry in one.entries" :key="entry.id" class="TrailList-entry" data-test="trail-entry">
          <span class="quiet">{{ timeOf(entry) }}</span> <b>{{ entry.who }}</b> {{ entry.did }} <i>{{ entry.name }}</i><template
            v-if="entry.advertiser && entry.kind !== 'advertiser'">
            of {{ entry.advertiser }}</template
          ><template v-if="entry.slip">, on the slip “{{ entry.slip }}”</template
          ><template v-if="entry.changes.length > 0"
            >:
            <template v-for="(change, n) in entry.changes" :key="change.field"
              ><template v-if="n > 0">; </template>{{ nameOf(entry, change.field) }}
              <s v-if="change.before !== 'none'">{{ change.before }}</s><template v-if="change.before !== 'none'"> → </template
              >{{ change.after }}</template
            ></template
          >. <span v-if="entry.hour !== null" class="quiet">Market: {{ marketTime(entry.hour) }}</span>
        </p>
      </section>
      <button v-if="view.next" class="plain" type="button" :disabled="isBusy" data-test="trail-more" @click="onMore">Earlier</button>
      <p v-if="moreError" class="trouble" role="alert">{{ moreError }}</p>
    </template>
  </section>
</template>

<style>
.TrailList-asked {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  padding: 4px 0 8px;
}

.TrailList h3 {
  padding: 8px 0 2px;
  border-bottom: 1px solid var(--rule);
  font: 550 13.5px var(--serif);
}

.TrailList-entry {
  padding: 2px 0;
  font: 13.5px/1.55 var(--serif);
  overflow-wrap: anywhere;
}

.TrailList-entry s {
  color: var(--ink-2);
}
</style>
