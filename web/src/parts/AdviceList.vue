<script setup lang="ts">
import type { Change } from '@tin-harbor/core/forecast'
import type { AdviceGroup } from '@/composables/use-advice'

export interface AdviceListProps {
  groups: readonly AdviceGroup[]
  disabled: boolean
}
defineProps<AdviceListProps>()
defineEmits<{ change: [changes: readonly Change[]] }>()
</script>

<template>
  <section class="AdviceList" aria-label="A better use of the money" data-test="advice">
    <h3>A better use of the money</h3>
    <template v-for="{ title, rows } in groups" :key="title">
      <h4>{{ title }}</h4>
      <ul>
        <li v-for="{ advice, words, gain } in rows" :key="words">
          <button v-if="!disabled" class="plain" type="button" @click="$emit('change', advice.changes)">{{ words }}</button><span v-else>{{
            words
          }}</span>
          <span class="quiet">{{ gain }}{{ advice.spends ? '; spends the budget' : '' }}</span>
        </li>
      </ul>
    </template>
  </section>
</template>

<style>
.AdviceList h4 {
  margin: 6px 0 2px;
  color: var(--ink-2);
  font: 400 11.5px var(--sans);
}

.AdviceList ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.AdviceList li {
  display: grid;
  padding: 3px 0;
  border-bottom: 1px solid var(--rule-2);
  font-size: 12px;
}

.AdviceList li button {
  text-align: left;
}

.AdviceList li .quiet {
  font-size: 11px;
}
</style>
