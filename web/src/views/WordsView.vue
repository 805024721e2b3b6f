<script setup lang="ts">
import { GLOSSARY } from '@tin-harbor/core/wording'

/** Every word that pages explain, in the order of the alphabet. */
const entries = Object.values(GLOSSARY).sort((a, b) => a.term.localeCompare(b.term))
</script>

<template>
  <section class="WordsView reading-page" tabindex="0" aria-labelledby="words-title">
    <h1 id="words-title">Words</h1>
    <dl>
      <div v-for="{ term, about } in entries" :key="term">
        <dt>{{ term }}</dt>
        <dd>{{ about }}</dd>
      </div>
    </dl>
  </section>
</template>

<style>
.WordsView dl {
  max-width: 820px;
}

.WordsView dl > div {
  display: grid;
  grid-template-columns: 180px 1fr;
  gap: 16px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule-2);
}

.WordsView dt {
  font-weight: 600;
}

.WordsView dd {
  margin: 0;
}
</style>
