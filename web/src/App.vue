<script setup lang="ts">
import { useRoute } from 'vue-router'
import SignedIn from './parts/SignedIn.vue'

const route = useRoute()
</script>

<template>
  <RouterView v-if="route.meta.open || route.matched.length === 0" />
  <SignedIn v-else />
</template>
