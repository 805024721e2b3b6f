<script setup lang="ts">
import { computed } from 'vue'
import { exampleLink, linkParts, piecesOf } from '@tin-harbor/core/creative'
import { withTail } from '@tin-harbor/core/buying'

/** A link written out with its parts told apart, and as it could be once its macros are filled in. */
export interface LinkSaidProps {
  link: string
  /** What is added to it. */
  tail: string
}
const props = defineProps<LinkSaidProps>()

const parts = computed(() => {
  const { address, path, query, fragment } = linkParts(props.link)
  return [
    { word: 'address', text: address },
    { word: 'path', text: path },
    { word: 'parameters', text: query.length > 0 ? `?${query.join('&')}` : '' },
    { word: 'tail', text: props.tail === '' ? '' : `${query.length > 0 ? '&' : '?'}${props.tail}` },
    { word: 'place in the page', text: fragment === '' ? '' : `#${fragment}` }
  ].filter(({ text }) => text !== '')
})
const whole = computed(() => withTail(props.link, props.tail))
const isFilled = computed(() => piecesOf(whole.value).some((one) => one.is === 'macro'))
</script>

<template>
  <div class="LinkSaid">
    <p class="LinkSaid-parts" data-test="link-parts">
      <span v-for="{ word, text } in parts" :key="word" :class="`is-${word.split(' ')[0]}`"
        ><span
          ><template v-for="(piece, n) in piecesOf(text)" :key="n"
            ><b v-if="piece.is === 'macro' && piece.macro" :title="piece.macro.what">{{ piece.text }}</b
            ><em v-else-if="piece.is !== 'text'" class="trouble">{{ piece.text }}</em
            ><template v-else>{{ piece.text }}</template></template
          ></span
        ><small>{{ word }}</small></span
      >
    </p>
    <p v-if="isFilled" class="small LinkSaid-example" data-test="link-example">
      <span class="quiet">as it could be:</span> {{ exampleLink(whole) }}
    </p>
  </div>
</template>

<style>
.LinkSaid-parts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 3px;
  margin: 6px 0 2px;
  font: 13px/1.3 var(--sans);
}

.LinkSaid-parts > span {
  display: inline-grid;
  max-width: 100%;
}

.LinkSaid-parts > span > span {
  overflow-wrap: anywhere;
  border-bottom: 2px solid var(--rule);
}

.LinkSaid-parts > .is-address > span {
  border-bottom-color: var(--ink);
}

.LinkSaid-parts > .is-tail > span {
  border-bottom: 2px dashed var(--brass);
}

.LinkSaid-parts small {
  color: var(--ink-2);
  font-size: 11px;
}

.LinkSaid-parts b {
  font-weight: 650;
}

.LinkSaid-example {
  overflow-wrap: anywhere;
}
</style>
