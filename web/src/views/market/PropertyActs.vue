<script setup lang="ts">
import { ref } from 'vue'
import type { PropertyView } from '@tin-harbor/core/contract'
import type { Sentence } from '@tin-harbor/core/forecast'
import { withValues } from '@tin-harbor/core/targeting'
import PutOnList from '@/parts/PutOnList.vue'
import { useSession } from '@/stores/session'
import StartLine from './StartLine.vue'
import ToLine from './ToLine.vue'

/** What is done with a property that is looked at. */
export interface PropertyActsProps {
  property: PropertyView
  /** The sentence that it was found by: a new line keeps it. */
  sentence: Sentence
}
defineProps<PropertyActsProps>()
defineEmits<{ leave: [] }>()
const session = useSession()
const into = ref<'new line' | 'line' | null>(null)
</script>

<template>
  <p class="PropertyActs" aria-label="What is done with it" role="group">
    <template v-if="session.may('draft')">
      <button class="plain" type="button" data-test="start-line" @click="into = 'new line'">Start a line on it</button>
      <button class="plain" type="button" data-test="into-line" @click="into = 'line'">Into a line, left out of one, or bid apart</button>
      <PutOnList kind="properties" :values="[property.property]" />
      <RouterLink v-if="property.publisher" :to="{ name: 'deals', query: { ask: property.publisher } }" data-test="ask-deal"
        >Ask {{ property.publisher }} for a deal</RouterLink
      >
      <RouterLink v-if="property.publisher" :to="{ name: 'deals', query: { offered: property.publisher } }">What they offer</RouterLink>
    </template>
    <button class="plain" type="button" data-test="leave-out" @click="$emit('leave')">The market without it</button>
  </p>
  <StartLine
    v-if="into === 'new line'"
    :sentence="{ ...sentence, targeting: withValues(sentence.targeting, 'property', 'include', [property.property]) }"
    @close="into = null" />
  <ToLine
    v-if="into === 'line'"
    dimension="property"
    :values="[property.property]"
    :words="property.domain ? `${property.name}, ${property.domain}` : property.name"
    @close="into = null" />
</template>

<style>
.PropertyActs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
  margin-top: 6px;
}
</style>
