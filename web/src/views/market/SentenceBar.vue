<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { CHOOSERS, phraseTitle, phrasesOf, type PhraseOf } from '@tin-harbor/core/buying'
import type { Sentence } from '@tin-harbor/core/forecast'
import type { Restriction } from '@tin-harbor/core/targeting'
import PhraseChooser from '@/parts/PhraseChooser.vue'

/** The filter sentence: each phrase opens its chooser. */
export interface SentenceBarProps {
  sentence: Sentence
  /** The phrase that leaves nothing. */
  emptiedBy: PhraseOf | null
}
const props = defineProps<SentenceBarProps>()
const emit = defineEmits<{ change: [sentence: Sentence] }>()

/** The phrase whose chooser is open, and which of its kind; or the list of those that could be added. */
const open = ref<{ of: PhraseOf; nth: number } | 'more' | null>(null)
const bar = useTemplateRef('bar')
const phrases = computed(() =>
  phrasesOf(props.sentence).map((phrase, n, all) => ({ ...phrase, nth: all.slice(0, n).filter((one) => one.of === phrase.of).length }))
)
const GROUPS = ['where', 'device', 'connection', 'who', 'when', 'context', 'slot', 'inventory'] as const
const more = computed(() => {
  const used = new Set<string>(phrases.value.map((phrase) => phrase.of))
  return GROUPS.map((group) => ({
    group,
    dimensions: [
      ...Object.entries(CHOOSERS)
        .filter(([name, chooser]) => chooser?.group === group && !used.has(name))
        .map(([name]) => name as PhraseOf),
      ...(group === 'when' && !used.has('hours') ? ['hours' as const] : [])
    ]
  })).filter((one) => one.dimensions.length > 0)
})
/** A phrase that is being added is not in the sentence yet. */
const added = computed(() =>
  open.value !== null && open.value !== 'more' && !phrases.value.some((phrase) => isOpen(phrase)) ? open.value : null
)

const isOpen = ({ of: phrase, nth }: { of: PhraseOf; nth: number }) =>
  open.value !== null && open.value !== 'more' && open.value.of === phrase && open.value.nth === nth
const onOpen = (phrase: { of: PhraseOf; nth: number }) => (open.value = isOpen(phrase) ? null : { of: phrase.of, nth: phrase.nth })
function onChange(next: Sentence) {
  const countOf = (sentence: Sentence) =>
    open.value === null || open.value === 'more'
      ? 0
      : phrasesOf(sentence).filter((phrase) => phrase.of === (open.value as { of: PhraseOf }).of).length
  // Of two phrases of a kind the other is not what was being edited.
  if (countOf(next) > 0 && countOf(next) < countOf(props.sentence)) onClose()
  emit('change', next)
}
function onClose() {
  const was = open.value
  open.value = null
  void nextTick(() =>
    (
      bar.value?.querySelector<HTMLElement>(`[data-phrase="${was === null || was === 'more' ? 'more' : was.of}"]`) ??
      bar.value?.querySelector<HTMLElement>('[data-phrase="more"]')
    )?.focus()
  )
}
const hasChooser = (phrase: PhraseOf) => phrase === 'hours' || phrase in CHOOSERS
function drop({ of: phrase, mode }: { of: PhraseOf; mode: Restriction['mode'] }) {
  emit('change', {
    ...props.sentence,
    targeting: { restrictions: props.sentence.targeting.restrictions.filter((one) => one.dimension !== phrase || one.mode !== mode) }
  })
}
</script>

<template>
  <div ref="bar" class="SentenceBar" data-test="sentence">
    <span v-for="(phrase, n) in phrases" :key="phrase.of + phrase.nth" class="SentenceBar-part">
      <span v-if="n > 0" class="SentenceBar-comma">{{ n === 1 && /^(on|in) /.test(phrase.words) ? '' : ',' }}</span>
      <button
        class="SentenceBar-phrase"
        :class="{ 'is-empty': emptiedBy === phrase.of, 'is-open': isOpen(phrase) }"
        type="button"
        :data-phrase="phrase.of"
        :aria-expanded="isOpen(phrase)"
        @click="hasChooser(phrase.of) ? onOpen(phrase) : drop(phrase)">
        {{ phrase.words }}<small v-if="!hasChooser(phrase.of)"> ✕</small>
      </button>
      <PhraseChooser v-if="isOpen(phrase)" :sentence="sentence" :of="phrase.of" :nth="phrase.nth" @change="onChange" @close="onClose" />
    </span>
    <span class="SentenceBar-part">
      <button
        class="SentenceBar-more"
        type="button"
        data-phrase="more"
        :aria-expanded="open === 'more'"
        @click="open = open === 'more' ? null : 'more'">
        and …
      </button>
      <div v-if="open === 'more'" class="SentenceBar-menu" role="menu" aria-label="Add a phrase" @keydown.esc.stop="onClose">
        <p v-for="{ group, dimensions } in more" :key="group">
          <b>{{ group }}</b><button
            v-for="dimension in dimensions"
            :key="dimension"
            class="plain"
            type="button"
            role="menuitem"
            :data-add="dimension"
            @click="open = { of: dimension, nth: 0 }">
            {{ phraseTitle(dimension) }}
          </button>
        </p>
      </div>
      <PhraseChooser v-if="added" :sentence="sentence" :of="added.of" @change="onChange" @close="onClose" />
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
  background: var(--brass-wash);
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
