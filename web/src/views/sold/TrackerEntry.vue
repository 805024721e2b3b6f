<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import type { TestSent, TrackerSetUp, TrackerView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { count, money } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import { useSession } from '@/stores/session'
import ToldTable from './ToldTable.vue'
import TrackerForm from './TrackerForm.vue'
import { REPORT_WORDS, pagesWords, windowWords } from './tracker-words'

/** A tracker in words: how it is told, what it was told, and a test of it. */
export interface TrackerEntryProps {
  tracker: TrackerView
  mayEdit: boolean
}
const props = defineProps<TrackerEntryProps>()
const emit = defineEmits<{ saved: [trackers: TrackerView[]] }>()
const session = useSession()

const isOpen = ref(false)
const shows = ref<'' | 'build' | 'log'>('')
const setUp = shallowRef<TrackerSetUp | null>(null)
const sent = shallowRef<TestSent | null>(null)
const reads = ref(0)
const { isBusy, error, attempt } = useAttempt()

const words = computed(() => {
  const { kind, reports, clickHours, viewHours, valueMicros } = props.tracker
  const how = reports === 'script' ? `${REPORT_WORDS.script}: it is ${pagesWords(props.tracker)}` : REPORT_WORDS[reports]
  const views = viewHours === null ? 'a view does not' : `a view for ${windowWords(viewHours)}`
  const worth = valueMicros === null ? 'worth what is told with it' : `worth ${money(valueMicros)} where nothing else is told`
  return `A ${kind}, told by ${how}. A click counts for ${windowWords(clickHours)}, ${views}; it is ${worth}.`
})
const clock = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
const toldWords = computed(() => {
  const { all, today, lastAt } = props.tracker
  if (lastAt === null) return 'No page and no server has told one yet.'
  return `${count(all)} told and counted in all, ${count(today)} in the last market day; told last on ${clock.format(lastAt * 1000)}.`
})

async function onBuild() {
  shows.value = shows.value === 'build' ? '' : 'build'
  if (shows.value === 'build') await attempt(async () => (setUp.value = await api.trackerSetUp(props.tracker.id)))
}
const onLog = () => (shows.value = shows.value === 'log' ? '' : 'log')
async function onTest() {
  const isSent = await attempt(async () => {
    sent.value = await api.testTracker(props.tracker.id)
    emit('saved', await api.trackersOf(props.tracker.advertiserId))
  })
  if (isSent) reads.value++
}
</script>

<template>
  <article class="SoldView-entry TrackerEntry" :data-test="`tracker-${tracker.id}`">
    <TrackerForm
      v-if="isOpen"
      :advertiser="tracker.advertiserId"
      :tracker="tracker"
      @saved="
        (saved) => {
          isOpen = false
          $emit('saved', saved)
        }
      "
      @leave="isOpen = false" />
    <template v-else>
      <h3>{{ tracker.name }}</h3>
      <p class="SoldView-prose">{{ words }} {{ toldWords }}</p>
      <p class="SoldView-acts small">
        <button class="plain" type="button" :aria-expanded="shows === 'log'" :data-test="`log-${tracker.id}`" @click="onLog">
          what was told
        </button>
        <button
          v-if="session.may('draft')"
          class="plain"
          type="button"
          :disabled="isBusy"
          :data-test="`test-${tracker.id}`"
          @click="onTest">
          send a test
        </button>
        <button
          v-if="mayEdit"
          class="plain"
          type="button"
          :aria-expanded="shows === 'build'"
          :data-test="`build-${tracker.id}`"
          @click="onBuild">
          how it is built in
        </button>
        <button v-if="mayEdit" class="plain" type="button" :data-test="`edit-tracker-${tracker.id}`" @click="isOpen = true">
          change it
        </button>
      </p>
      <p v-if="error" class="trouble small" role="alert">{{ error }}</p>
      <div v-if="sent" class="TrackerEntry-sent small" role="status" data-test="test-sent">
        <p>
          Sent: <code>{{ sent.sent }}</code>
        </p>
        <p>
          Answered {{ sent.status }}, {{ sent.answer }}.
          <template v-if="sent.noted"
            >Noted as number {{ sent.noted.id }}, {{ money(sent.noted.valueMicros) }}: {{ sent.noted.says
            }}{{ sent.noted.by ? `; it would be earned by a ${sent.noted.by}` : '' }}.</template
          ><template v-else>Nothing of it was noted.</template>
        </p>
      </div>
      <div v-if="shows === 'build' && setUp" class="TrackerEntry-sent small" data-test="set-up">
        <p v-if="setUp.code">
          Into {{ tracker.reports === 'image' ? 'the page that is the event' : 'each page of the site' }}:
          <code>{{ setUp.code }}</code>
        </p>
        <template v-if="setUp.postback">
          <p>
            The server calls, by GET or POST: <code>{{ setUp.postback }}</code>
          </p>
          <p>
            <code>sign</code> is HMAC-SHA256 by the secret <code>{{ setUp.secret }}</code> over click, transaction, value, currency and at,
            a line each, as hexadecimal digits; <code>at</code> is in seconds since 1970. What is left out is an empty line.
          </p>
        </template>
        <p v-else-if="tracker.reports === 'script'">
          The page calls <code>tinHarbor('{{ tracker.name }}', { value: 249, currency: 'EUR', transaction: 'A-17' })</code>; the click id is
          read from the address that somebody landed on, whatever its parameter is called.
        </p>
        <p v-else>CLICK, TRANSACTION and VALUE are what the page fills in; what it does not know stays empty.</p>
      </div>
      <ToldTable
        v-if="shows === 'log'"
        :key="reads"
        :read="() => api.trackerTold(tracker.id)"
        :label="`What was told of ${tracker.name}`" />
    </template>
  </article>
</template>

<style>
.TrackerEntry-sent {
  margin-top: 6px;
  padding: 6px 10px;
  border-left: 3px solid var(--water);
}

.TrackerEntry-sent code {
  font-size: 11.5px;
  overflow-wrap: anywhere;
}
</style>
