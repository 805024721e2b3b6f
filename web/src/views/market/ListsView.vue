<script setup lang="ts">
import ListIndex from './ListIndex.vue'
import ListPage from './ListPage.vue'
import MarketTabs from './MarketTabs.vue'
import { useLists } from './use-lists'

const all = useLists()
const { list, error } = all
</script>

<template>
  <section class="ListsView">
    <header>
      <h1>Lists</h1>
      <MarketTabs />
    </header>
    <p v-if="error" class="trouble" role="alert">{{ error }}</p>
    <div class="ListsView-body">
      <ListIndex :all="all" />
      <ListPage v-if="list" :key="list.id" :list="list" :all="all" />
      <p v-else class="quiet">Choose a list, or make one.</p>
    </div>
  </section>
</template>

<style>
.ListsView-body {
  display: grid;
  grid-template-columns: 250px 1fr;
  gap: 28px;
  padding-top: 12px;
}

.ListsView-actions {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  margin: 4px 0;
}

.ListsView-said {
  margin: 8px 0;
  font: 13.5px/1.55 var(--serif);
}
</style>
