<script setup lang="ts">
import TermNote from './TermNote.vue'
import type { ToldFigure } from './use-forecast-figures'

/** Figures side by side, each with its unit, its range and what it was. */
export interface FigureListProps {
  figures: readonly ToldFigure[]
}
defineProps<FigureListProps>()
</script>

<template>
  <dl class="FigureList">
    <div v-for="{ now, range, was, kept, unit, term } in figures" :key="unit">
      <dt>
        <TermNote v-if="term" :of="term" :words="unit" /><template v-else>{{ unit }}</template>
      </dt>
      <dd>{{ now }}</dd>
      <dd class="FigureList-range">{{ range }}</dd>
      <dd v-if="kept !== null" class="FigureList-was">{{ kept }} pinned</dd>
      <dd v-else-if="was" class="FigureList-was">{{ was }}</dd>
    </div>
    <slot />
  </dl>
</template>

<style>
.FigureList {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px 10px;
  margin: 0;
}

.FigureList > div {
  display: grid;
  align-content: start;
}

.FigureList dt {
  grid-row: 3;
  color: var(--ink-2);
  font-size: 12px;
}

.FigureList dd {
  grid-row: 1;
  margin: 0;
  font: 600 19px/1.15 var(--sans);
  font-stretch: 88%;
}

.FigureList dd.FigureList-range {
  grid-row: 2;
  min-height: 14px;
  color: var(--ink-2);
  font: 400 11px/1.3 var(--sans);
  font-stretch: 84%;
  white-space: nowrap;
}

.FigureList dd.FigureList-was {
  grid-row: 4;
  color: var(--brass-text);
  font: 400 11px/1.2 var(--sans);
}
</style>
