<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { CHOOSERS, phrasesOf, type PhraseOf } from '@tin-harbor/core/buying'
import type { Sentence } from '@tin-harbor/core/forecast'
import PhraseChooser from './PhraseChooser.vue'

/** The filter sentence: each phrase opens its chooser. */
export interface SentenceBarProps {
  sentence: Sentence
  /** The phrase that leaves nothing. */
  emptiedBy: PhraseOf | null
}
const props = defineProps<SentenceBarProps>()
const emit = defineEmits<{ change: [sentence: Sentence] }>()

const open = ref<PhraseOf | 'more' | null>(null)
const bar = useTemplateRef('bar')
const phrases = computed(() => phrasesOf(props.sentence))
const GROUPS = ['where', 'device', 'connection', 'who', 'when', 'context', 'slot', 'inventory'] as const
const more = computed(() => {
  const used = new Set<string>(phrases.value.map((phrase) => phrase.of))
  return GROUPS.map((group) => ({ group, dimensions: [...Object.entries(CHOOSERS).filter(([name, chooser]) => chooser?.group === group && !used.has(name)).map(([name]) => name as PhraseOf), ...(group === 'when' && !used.has('hours') ? ['hours' as const] : [])] })).filter((one) => one.dimensions.length > 0)
})
/** A phrase that is being added is not in the sentence yet. */
const isNew = computed(() => open.value !== null && open.value !== 'more' && !phrases.value.some((phrase) => phrase.of === open.value))

function onOpen(of: PhraseOf | 'more') {
  open.value = open.value === of ? null : of
}
function onClose() {
  const was = open.value
  open.value = null
  void nextTick(() => (bar.value?.querySelector<HTMLElement>(`[data-phrase="${was}"]`) ?? bar.value?.querySelector<HTMLElement>('[data-phrase="more"]'))?.focus())
}
const hasChooser = (of: PhraseOf) => of === 'hours' || of in CHOOSERS
function drop(of: PhraseOf) {
  emit('change', { ...props.sentence, targeting: { restrictions: props.sentence.targeting.restrictions.filter((one) => one.dimension !== of) } })
}
</script>

<template>
  <div ref="bar" class="SentenceBar" data-test="sentence">
    <span v-for="(phrase, n) in phrases" :key="phrase.of + phrase.mode" class="SentenceBar-part">
      <span v-if="n > 0" class="SentenceBar-comma">{{ n === 1 && /^(on|in) /.test(phrase.words) ? '' : ',' }}</span>
      <button class="SentenceBar-phrase" :class="{ 'is-empty': emptiedBy === phrase.of, 'is-open': open === phrase.of }" type="button" :data-phrase="phrase.of" :aria-expanded="open === phrase.of" @click="hasChooser(phrase.of) ? onOpen(phrase.of) : drop(phrase.of)">
        {{ phrase.words }}<small v-if="!hasChooser(phrase.of)"> ✕</small>
      </button>
      <PhraseChooser v-if="open === phrase.of" :sentence="sentence" :of="phrase.of" @change="$emit('change', $event)" @close="onClose" />
    </span>
    <span class="SentenceBar-part">
      <button class="SentenceBar-more" type="button" data-phrase="more" :aria-expanded="open === 'more'" @click="onOpen('more')"> and …</button>
      <div v-if="open === 'more'" class="SentenceBar-menu" role="menu" aria-label="Add a phrase" @keydown.esc.stop="onClose">
        <p v-for="{ group, dimensions } in more" :key="group"><b>{{ group }}</b><button v-for="of in dimensions" :key="of" class="plain" type="button" role="menuitem" :data-add="of" @click="open = of">{{ of }}</button></p>
      </div>
      <PhraseChooser v-if="isNew && open !== 'more' && open !== null" :sentence="sentence" :of="open" @change="$emit('change', $event)" @close="onClose" />
    </span>
  </div>
</template>

<style>
.SentenceBar {
  font: 18.5px/1.6 var(--serif);
}

.SentenceBar-part {
  position: relative;
}

.SentenceBar-comma {
  margin-right: 5px;
}

.SentenceBar-phrase,
.SentenceBar-more {
  padding: 0;
  border: 0;
  border-bottom: 1.5px solid var(--brass);
  background: none;
  font: 550 18.5px/1.35 var(--serif);
  cursor: pointer;
}

.SentenceBar-more {
  margin-left: 7px;
  border-bottom: 1px dashed var(--rule);
  color: var(--ink-2);
  font-weight: 400;
}

.SentenceBar-phrase.is-open {
  background: #f1e9d6;
}

.SentenceBar-phrase.is-empty {
  border-bottom: 2px dotted var(--hull);
}

.SentenceBar-menu {
  position: absolute;
  z-index: 20;
  top: calc(100% + 4px);
  left: 0;
  width: 460px;
  padding: 8px 12px;
  border: 1px solid var(--ink);
  background: var(--paper);
  font: 13px/1.5 var(--sans);
}

.SentenceBar-menu p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 3px 0;
}

.SentenceBar-menu b {
  width: 76px;
  color: var(--ink-2);
  font-weight: 400;
}
</style>
