<script setup lang="ts">
import { defineAsyncComponent } from 'vue'
import { useRoute } from 'vue-router'

/** Who is not signed in yet does not wait for it. */
const SignedIn = defineAsyncComponent(() => import('./parts/SignedIn.vue'))

const route = useRoute()
</script>

<template>
  <RouterView v-if="route.meta.open || route.matched.length === 0" />
  <SignedIn v-else />
</template>
