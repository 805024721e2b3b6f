<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Sentence } from '@tin-harbor/core/forecast'
import { KEYWORDS, findKeyword } from '@tin-harbor/core/taxonomy'
import { about, cpm } from '@/composables/formats'
import { useSurvey } from '@/composables/use-survey'

/** What chosen keywords reach, and words like them, to be taken or struck out one by one. */
export interface KeywordHintsProps {
  sentence: Sentence
  chosen: readonly string[]
  disabled?: boolean
}
const props = defineProps<KeywordHintsProps>()
defineEmits<{ add: [word: string] }>()

const struck = ref(new Set<string>())
const families = computed(() => new Set(props.chosen.flatMap((word) => findKeyword(word)?.family ?? [])))
const branches = computed(() => new Set(props.chosen.flatMap((word) => findKeyword(word)?.branch ?? [])))
/** First the words of the same family, then the heads of others on the same subject. */
const hints = computed(() => {
  const open = KEYWORDS.filter(({ word }) => !props.chosen.includes(word) && !struck.value.has(word))
  const own = open.filter(({ family }) => families.value.has(family))
  const heads = open.filter(
    (keyword, n) =>
      branches.value.has(keyword.branch) &&
      !families.value.has(keyword.family) &&
      open.findIndex(({ family }) => family === keyword.family) === n
  )
  return [...own, ...heads].slice(0, 18).map(({ word }) => word)
})
const { survey, ask } = useSurvey('keywords')
watch(
  () => JSON.stringify([props.sentence, props.chosen]),
  () => {
    if (props.chosen.length > 0) void ask({ sentence: props.sentence, by: [], without: null, bidMicros: 0 })
  },
  { immediate: true }
)
</script>

<template>
  <div v-if="chosen.length > 0" class="KeywordHints">
    <p v-if="survey" class="quiet small" role="status">
      {{ about(survey.total.opportunitiesADay) }} a day beside them, half won at {{ cpm(survey.total.halfMicros) }} CPM
    </p>
    <p v-if="hints.length > 0 && !disabled" class="KeywordHints-words">
      words like them:
      <span v-for="word in hints" :key="word"
        ><button class="plain" type="button" @click="$emit('add', word)">{{ word }}</button>{{ ' '
        }}<button class="plain" type="button" :aria-label="`Strike out ${word}`" @click="struck = new Set([...struck, word])">
          ✕
        </button></span
      >
    </p>
  </div>
</template>

<style>
.KeywordHints-words {
  display: flex;
  flex-wrap: wrap;
  gap: 1px 12px;
  font-size: 12px;
}
</style>
