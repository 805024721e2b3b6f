<script setup lang="ts">
import { computed, ref } from 'vue'
import type { AdReviewView, LineView } from '@tin-harbor/core/contract'
import { api } from '@/api'
import { marketTime } from '@/composables/formats'
import { useAttempt } from '@/composables/use-attempt'
import { useSession } from '@/stores/session'

/** An ad that somebody looks at or looked at: when, and what they said; a refusal can be answered here. */
export interface ReviewEntryProps {
  review: AdReviewView
  /** Whether its line is named, where several stand together. */
  withLine?: boolean
}
const props = defineProps<ReviewEntryProps>()
const emit = defineEmits<{ answered: [line: LineView] }>()
const session = useSession()

const isOpen = ref(false)
const text = ref('')
const { isBusy, error, attempt } = useAttempt()

const whenWords = computed(() => {
  const { state, sentHour, byHour, answeredHour } = props.review
  const sent = `sent ${marketTime(sentHour)}`
  return state === 'waits' || answeredHour === null
    ? `${sent}, answered by ${marketTime(byHour)}`
    : `${sent}, answered ${marketTime(answeredHour)}`
})
const STATES = { waits: 'in review', cleared: 'cleared', refused: 'refused', withdrawn: 'taken back' } as const
/** What was found, a rule once however often it was broken. */
const found = computed(() => {
  const by = new Map<string, { reason: string; values: string[] }>()
  for (const { rule, value, reason } of props.review.findings) {
    const known = by.get(rule) ?? { reason, values: [] }
    by.set(rule, { reason, values: [...known.values, value] })
  }
  return [...by].map(([rule, { reason, values }]) => ({ rule, reason, values }))
})
/** The version that serves, and the one that is looked at. */
const both = computed(() => {
  const { older, name, links, creativeId } = props.review
  return older
    ? [
        { what: 'serves', version: older },
        { what: 'looked at', version: { name, links, creativeId } }
      ]
    : []
})
const mayAnswer = computed(() => props.review.state === 'refused' && props.review.isLast && session.may('live'))
async function onAnswer() {
  const isDone = await attempt(async () => emit('answered', await api.answerRefusal(props.review.id, text.value)))
  if (isDone) isOpen.value = false
}
</script>

<template>
  <article class="ReviewEntry" :class="`is-${review.state}`" :data-test="`review-${review.id}`">
    <p>
      <b class="ReviewEntry-state">{{ STATES[review.state] }}</b>
      <span class="ReviewEntry-name">{{ review.name }}</span>
      <RouterLink v-if="withLine" :to="{ name: 'line', params: { lineId: review.line }, query: { clause: 'F' } }">{{
        review.lineName
      }}</RouterLink>
      <span class="quiet">by {{ review.desk }}; {{ whenWords }}</span>
      <span v-if="review.older" class="ReviewEntry-older">its version before goes on serving</span>
    </p>
    <div v-if="review.older" class="ReviewEntry-both small">
      <p v-for="{ what, version } in both" :key="what">
        <b>{{ what }}</b>
        <img v-if="version.creativeId !== null" :src="api.pictureUrl(version.creativeId)" alt="" />
        {{ version.name }}, leads to {{ version.links.join(', ') || 'nowhere' }}
      </p>
    </div>
    <ul v-if="found.length > 0">
      <li v-for="one in found" :key="one.rule">
        <i>{{ one.rule }}</i>: {{ one.values.join('; ') }}. {{ one.reason }}
      </li>
    </ul>
    <p v-if="review.note" class="ReviewEntry-note small">Written to whoever looks: {{ review.note }}</p>
    <template v-if="mayAnswer">
      <button v-if="!isOpen" class="plain small" type="button" :data-test="`answer-${review.id}`" @click="isOpen = true">answer it</button>
      <form v-else class="ReviewEntry-answer" @submit.prevent="onAnswer">
        <label class="small" :for="`answer-${review.id}`">Why it should be cleared as it is, such as the address of a source</label>
        <textarea :id="`answer-${review.id}`" v-model="text" rows="2" maxlength="2000" :data-test="`answer-text-${review.id}`"></textarea>
        <p class="small">
          <button class="plain" type="submit" :disabled="isBusy || text.trim() === ''" data-test="send-answer">send it</button>
          <button class="plain" type="button" @click="isOpen = false">leave it</button>
        </p>
        <p v-if="error" class="trouble small" role="alert">{{ error }}</p>
      </form>
    </template>
  </article>
</template>

<style>
.ReviewEntry {
  padding: 6px 0 7px;
  border-bottom: 1px solid var(--rule);
}

.ReviewEntry > p:first-child {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
}

.ReviewEntry-state {
  min-width: 62px;
  font: 600 13px var(--serif);
}

.is-refused .ReviewEntry-state {
  color: var(--hull);
}

.is-waits .ReviewEntry-state {
  color: var(--brass-text);
}

.is-cleared .ReviewEntry-state {
  color: var(--lamp);
}

.ReviewEntry-name {
  font-weight: 600;
}

.ReviewEntry-older {
  padding: 0 4px;
  background: var(--brass-wash);
  color: var(--brass-text);
}

.ReviewEntry ul {
  margin: 3px 0 2px;
  padding-left: 90px;
  font: 13.5px/1.45 var(--serif);
  list-style: none;
}

.ReviewEntry-both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 20px;
  padding: 3px 0 3px 74px;
  overflow-wrap: anywhere;
}

.ReviewEntry-both img {
  max-width: 90px;
  max-height: 50px;
  margin: 0 4px;
  border: 1px solid var(--rule);
  vertical-align: middle;
}

.ReviewEntry-note {
  padding-left: 74px;
  color: var(--ink-2);
  white-space: pre-line;
}

.ReviewEntry > button,
.ReviewEntry-answer {
  margin-left: 74px;
}

.ReviewEntry-answer textarea {
  max-width: 560px;
}

.ReviewEntry-answer button {
  margin-right: 14px;
}
</style>
