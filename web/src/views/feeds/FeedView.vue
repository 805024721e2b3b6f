<script setup lang="ts">
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'
import { ElButton } from 'element-plus'
import type { FeedItemView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { count as counted, marketTime } from '@/composables/formats'
import { useLeaveGuard } from '@/composables/use-leave-guard'
import DataTable from '@/parts/DataTable.vue'
import StateNote from '@/parts/StateNote.vue'
import type { TableColumn } from '@/parts/table-columns'
import { useTicks } from '@/parts/use-ticks'
import { useSession } from '@/stores/session'
import WorkHead from '@/views/creatives/WorkHead.vue'
import FeedMake from './FeedMake.vue'
import FeedTerms from './FeedTerms.vue'
import { SHOWS, useFeed } from './use-feed'

/** A product feed: its items as they were read last, and the ads that are made of them. */
const route = useRoute()
const session = useSession()
const id = computed(() => Number(route.params.feedId))
const editing = useFeed(id)
const { view, feed, items, count, show, error, isBusy, isChanged, load, loadItems, read } = editing
useLeaveGuard(editing)
const mayDraft = computed(() => session.may('draft'))

const STATE_WORDS: Readonly<Record<FeedItemView['state'], string>> = {
  there: 'there',
  out: 'out of stock',
  gone: 'gone',
  broken: 'makes no ad'
}
const stateWords = (item: FeedItemView) =>
  item.state === 'there'
    ? item.changed
      ? 'says something else'
      : 'there'
    : `${STATE_WORDS[item.state]} since ${marketTime(item.sinceHour)}`
const adWords = ({ creative, lines }: FeedItemView) =>
  creative === null ? '' : lines.length === 0 ? 'made' : lines.map((line) => `L-${line}`).join(', ')
const columns: readonly TableColumn<FeedItemView>[] = [
  { id: 'tick', label: 'chosen', width: 30, side: 'left', isBare: true },
  { id: 'title', label: 'item', least: 130, side: 'left', value: ({ title }) => title, isHead: true },
  { id: 'price', label: 'price', width: 88, value: ({ price }) => price },
  { id: 'says', label: 'its ad says', least: 170, side: 'left' },
  { id: 'state', label: 'stock', width: 206, side: 'left', value: stateWords, words: stateWords },
  { id: 'ad', label: 'ad on', width: 72, side: 'left', value: adWords, words: adWords }
]
const saidOf = ({ said }: FeedItemView, part: string) => said.find((one) => one.part === part)?.value ?? ''

const { chosen, onTick } = useTicks()
watch([items, id], () => (chosen.value = new Set([...chosen.value].filter((one) => items.value.some((item) => item.id === one)))))
const makeable = computed(() => items.value.filter(({ state }) => state === 'there'))
const isAllChosen = computed(() => makeable.value.length > 0 && makeable.value.every((item) => chosen.value.has(item.id)))
const onAll = () => (chosen.value = isAllChosen.value ? new Set() : new Set(makeable.value.map((item) => item.id)))

const whenWords = computed(() => {
  const { readHour = null, problem = null } = view.value ?? {}
  return readHour === null ? '' : `${problem === null ? 'read' : 'tried'} ${marketTime(readHour)}, and at each market hour`
})
const readWords = computed(() => {
  const found = view.value?.found
  if (!view.value || !found) return 'not read yet'
  const { there, out, gone, broken, ads, changed, stopped } = view.value.counts
  return [
    `${found.form}: ${counted(found.items)} items, ${counted(there)} there`,
    ...(out > 0 ? [`${counted(out)} out of stock`] : []),
    ...(gone > 0 ? [`${counted(gone)} gone`] : []),
    ...(found.broken + broken > 0 ? [`${counted(found.broken)} make no ad`] : []),
    ...(ads > 0 ? [`${counted(ads)} with an ad`] : []),
    ...(changed > 0 ? [`${counted(changed)} of which say something else`] : []),
    ...(stopped > 0 ? [`${counted(stopped)} ${stopped === 1 ? 'ad is' : 'ads are'} stopped`] : [])
  ].join(', ')
})
</script>

<template>
  <div class="FeedView WorkPage">
    <StateNote v-if="error || !feed || !view" :error="error" reads="Reading the feed" @retry="load" />
    <template v-else>
      <WorkHead
        :advertiser="view.advertiserId"
        what="feed"
        :name="feed.name"
        :most="120"
        :disabled="!mayDraft"
        stays="The ads that were made of it"
        :remove="() => api.deleteFeed(id)"
        @rename="(name) => feed && (feed.name = name)">
        <p class="WorkHead-sentence" role="status" data-test="feed-words">{{ readWords }}</p>
        <span class="quiet small">{{ whenWords }}</span>
        <ElButton v-if="mayDraft" size="small" :loading="isBusy" data-test="read-feed" @click="read">{{
          isChanged ? 'Save, and read it by this' : 'Read it now'
        }}</ElButton>
      </WorkHead>
      <p v-if="view.problem" class="trouble small" role="alert" data-test="feed-problem">
        It could not be read the last time: {{ view.problem }}{{ view.found ? ' What was known of its items stands.' : '' }}
      </p>
      <div class="FeedView-body">
        <FeedTerms :editing="editing" :disabled="!mayDraft" />
        <section class="FeedView-items" aria-label="Items">
          <p class="FeedView-shown">
            Items
            <select v-model="show" aria-label="Which items are shown" data-test="feed-show">
              <option v-for="(words, name) in SHOWS" :key="name" :value="name">{{ words }}</option>
            </select>
            <span class="quiet small" role="status">{{
              items.length < count ? `${counted(items.length)} of ${counted(count)}` : counted(count)
            }}</span>
            <button v-if="items.length < count" class="plain small" type="button" @click="loadItems(true)">show more</button>
            <button v-if="makeable.length > 0" class="plain small" type="button" data-test="choose-all" @click="onAll">
              {{ isAllChosen ? 'choose none' : `choose these ${counted(makeable.length)}` }}
            </button>
          </p>
          <DataTable
            class="FeedView-table"
            :rows="items"
            :columns="columns"
            :row-key="(item) => item.id"
            label="Items of the feed"
            :none="view.found ? 'No item is like that.' : 'Nothing of it could be read yet.'"
            :subject="show"
            :sort="{ id: '', down: false }"
            :row-class="({ state, changed }) => (state === 'there' && !changed ? '' : 'is-off')">
            <template #cell-tick="{ row, ordered }"
              ><input
                type="checkbox"
                :aria-label="`Choose ${row.title}`"
                :checked="chosen.has(row.id)"
                :disabled="!mayDraft || row.state !== 'there'"
                @click="
                  onTick(
                    row.id,
                    ordered.map((item) => item.id),
                    $event
                  )
                "
            /></template>
            <template #cell-title="{ row }"
              ><span :title="`${row.key}: ${row.link}`">{{ row.title }}</span></template
            >
            <template #cell-says="{ row }"
              ><span class="FeedView-says" :title="saidOf(row, 'text')"
                ><b>{{ saidOf(row, 'longHeadline') }}</b> {{ saidOf(row, 'text') }}</span
              ></template
            >
          </DataTable>
          <details v-if="view.found && view.found.told.length > 0" class="small" data-test="feed-broken">
            <summary>{{ counted(view.found.broken) }} of its items make no ad</summary>
            <ul>
              <li v-for="one in view.found.told" :key="one.nth">Item {{ counted(one.nth) }}: {{ one.says }}</li>
              <li v-if="view.found.broken > view.found.told.length">and {{ counted(view.found.broken - view.found.told.length) }} more</li>
            </ul>
          </details>
          <FeedMake v-if="mayDraft" :editing="editing" :chosen="[...chosen]" @made="loadItems()" />
        </section>
      </div>
    </template>
  </div>
</template>

<style>
.FeedView-body {
  display: grid;
  flex: 1;
  grid-template-columns: 350px minmax(0, 1fr);
  gap: 24px;
  min-height: 0;
}

.FeedTerms {
  padding: 0 6px 20px 0;
  overflow: auto;
}

.FeedView-items {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.FeedView-shown {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: baseline;
  padding: 8px 0 4px;
  font: 15px/1.5 var(--serif);
}

.FeedView-table {
  flex: 1;
  min-height: 120px;
}

.FeedView-table th[scope='row'],
.FeedView-says {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.FeedView-says {
  display: block;
}

.FeedView-table .is-off {
  color: var(--ink-2);
}

.FeedView-items details ul {
  max-height: 110px;
  margin: 2px 0;
  padding-left: 16px;
  overflow: auto;
}
</style>
