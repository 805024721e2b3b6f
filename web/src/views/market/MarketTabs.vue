<script setup lang="ts">
/** The three sides of the Market. */
const SIDES = [
  { name: 'market', words: 'Traffic' },
  { name: 'lists', words: 'Lists' },
  { name: 'deals', words: 'Deals' }
] as const
</script>

<template>
  <nav class="MarketTabs" aria-label="The Market">
    <RouterLink v-for="side in SIDES" :key="side.name" :to="{ name: side.name }" exact-active-class="is-here">{{ side.words }}</RouterLink>
  </nav>
</template>

<style>
.MarketTabs {
  display: flex;
  gap: 14px;
  align-items: baseline;
  font-size: 12.5px;
}

.MarketTabs a {
  color: var(--ink-2);
}

.MarketTabs .is-here {
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
}

/* Lists and deals stand beside the traffic, on pages alike. */
.ListsView,
.DealsView {
  position: relative;
  height: 100%;
  padding: 12px 24px 40px;
  overflow: auto;
  background: var(--paper);
}

.ListsView > header,
.DealsView > header {
  display: flex;
  gap: 24px;
  align-items: baseline;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ink);
}

.ListsView h1,
.DealsView h1 {
  font: 600 20px var(--serif);
}
</style>
